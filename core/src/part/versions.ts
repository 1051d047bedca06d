/** The version of part files that this program writes. */
export const PART_VERSION = 2;

/** Keys of version 1 with their names in version 2. */
const RENAMED: Readonly<Record<string, string>> = {
  least: 'min',
  most: 'max',
  leastBits: 'minBits',
  mostBits: 'maxBits',
  standardClock: 'defaultClock',
};

function isObject(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/** A limit is a number; a register field that happens to have one of these names is a pair of bits and keeps it. */
function keyOf(key: string, item: unknown): string {
  const limit = typeof item === 'number' || key === 'standardClock';
  return limit && Object.hasOwn(RENAMED, key) ? (RENAMED[key] ?? key) : key;
}

/** The PWM of a mode was called `compare`; a channel's `compare` holds register writes and keeps its name. */
function isModePwm(key: string, item: unknown): boolean {
  return key === 'compare' && isObject(item) && Array.isArray(item['channels']);
}

function upgraded(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(upgraded);
  if (!isObject(value)) return value;
  const entries = Object.entries(value).map(([key, item]): [string, unknown] => {
    if (key === 'enable' && typeof item === 'string') return [key, { [item]: 1 }];
    if (key === 'drive' && item === 'compare') return [key, 'pwm'];
    if (isModePwm(key, item)) return ['pwm', upgraded(item)];
    return [keyOf(key, item), upgraded(item)];
  });
  return Object.fromEntries(entries);
}

/** What the compiler and the processor of a part needed in version 1 without the file saying so. */
function withDialect(part: Record<string, unknown>): Record<string, unknown> {
  return { format: 'herzschlag-part', version: PART_VERSION, ...part };
}

/**
 * A part file of any version in the newest shape. Files without a version are of version 1. A value that is no part at
 * all is given back as it is, so that the schema can say what is wrong with it.
 */
export function upgradePart(value: unknown): unknown {
  if (!isObject(value) || Object.hasOwn(value, 'version')) return value;
  return withDialect(upgraded(value) as Record<string, unknown>);
}

/** The version of a part file if it is newer than this program; else undefined. */
export function newerPartVersion(value: unknown): number | undefined {
  const version = isObject(value) ? value['version'] : undefined;
  return typeof version === 'number' && version > PART_VERSION ? version : undefined;
}
