/** The version of part files that this program writes. */
export const PART_VERSION = 3;

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

/** What version 1 took for granted: an output with a lag, or one that is high for compare + 1 counts, changes at its match. */
function withMatch(mode: Record<string, unknown>): Record<string, unknown> {
  const { pwm, lag } = mode;
  if (!isObject(pwm)) return mode;
  const atMatch = (typeof lag === 'number' && lag > 0) || pwm['high'] === 'compare+1';
  return atMatch ? { ...mode, pwm: { ...pwm, changes: 'match' } } : mode;
}

/** Version 1 wrote a running count of two registers byte by byte, the upper one first, in the order of the sequence. */
function withBytes(mode: Record<string, unknown>, order: readonly unknown[]): Record<string, unknown> {
  const { top } = mode;
  if (!isObject(top) || top['kind'] !== 'reload' || !isObject(top['writes'])) return mode;
  const writes = top['writes'];
  const [upper, lower, ...more] = order.filter(
    (name) => typeof name === 'string' && Object.hasOwn(writes, name),
  );
  if (upper === undefined || lower === undefined || more.length > 0) return mode;
  return { ...mode, top: { ...top, bytes: { upper, lower } } };
}

function withTimerFacts(timer: unknown): unknown {
  if (!isObject(timer) || !Array.isArray(timer['modes'])) return timer;
  const sequence = Array.isArray(timer['sequence']) ? timer['sequence'] : [];
  const order = sequence.map((step: unknown) => (isObject(step) ? step['register'] : undefined));
  const modes = timer['modes'].map((mode: unknown) =>
    isObject(mode) ? withBytes(withMatch(mode), order) : mode,
  );
  return { ...timer, modes };
}

/** In version 1 a part with headers was addressed by their names, set its clock, and had registers of one byte. */
function withDialect(code: unknown): unknown {
  if (!isObject(code)) return code;
  const named = Array.isArray(code['headers']) && code['headers'].length > 0;
  const handler = typeof code['handler'] === 'string' ? code['handler'] : 'void %_handler(void)';
  return {
    ...code,
    registers: named ? 'names' : 'addresses',
    call: handler.replace('void ', '').replace('(void)', '()'),
    setsClock: named,
    bytewise: named,
  };
}

function fromVersion1(part: Record<string, unknown>): Record<string, unknown> {
  const renamed = upgraded(part) as Record<string, unknown>;
  const { timers, code } = renamed;
  return {
    format: 'herzschlag-part',
    ...renamed,
    version: 2,
    ...(Array.isArray(timers) ? { timers: timers.map(withTimerFacts) } : {}),
    ...(code === undefined ? {} : { code: withDialect(code) }),
  };
}

/** Version 2 claimed how much of it was confirmed; now that is computed from the facts of independent sources. */
function fromVersion2(part: Record<string, unknown>): Record<string, unknown> {
  const kept = Object.entries(part).filter(([key]) => key !== 'verified' && key !== 'unverified');
  return { ...Object.fromEntries(kept), version: 3 };
}

/** What makes a file of each version one of the next. A file without a version is of version 1. */
const CONVERTERS: Readonly<Record<number, (part: Record<string, unknown>) => Record<string, unknown>>> = {
  1: fromVersion1,
  2: fromVersion2,
};

/**
 * A part file of any version in the newest shape. A value that is not a part at all is returned as it is, so that the schema can
 * say what is wrong with it.
 */
export function upgradePart(value: unknown): unknown {
  if (!isObject(value)) return value;
  let part = value;
  for (;;) {
    const version = Object.hasOwn(part, 'version') ? part['version'] : 1;
    const convert =
      typeof version === 'number' && Object.hasOwn(CONVERTERS, version) ? CONVERTERS[version] : undefined;
    if (!convert) return part;
    part = convert(part);
  }
}

const HEX = /^0x[0-9a-f]{1,10}$/i;

/**
 * A part file with the addresses and reset values of its registers as numbers, where they are texts such as "0x1A": datasheets
 * print them so, and JSON has no such number. Everything else stays for the schema to judge.
 */
export function withPlainAddresses(value: unknown): unknown {
  if (!isObject(value) || !Array.isArray(value['registers'])) return value;
  const plain = (one: unknown): unknown => (typeof one === 'string' && HEX.test(one) ? Number(one) : one);
  const registers = (value['registers'] as unknown[]).map((register) =>
    isObject(register)
      ? {
          ...register,
          ...('address' in register ? { address: plain(register['address']) } : {}),
          ...('reset' in register ? { reset: plain(register['reset']) } : {}),
        }
      : register,
  );
  return { ...value, registers };
}

/** The version of a part file if it is newer than this program; else undefined. */
export function newerPartVersion(value: unknown): number | undefined {
  const version = isObject(value) ? value['version'] : undefined;
  return typeof version === 'number' && version > PART_VERSION ? version : undefined;
}
