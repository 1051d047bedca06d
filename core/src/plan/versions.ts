import { upgradePart } from '../part/versions.ts';

/** The version of plan files that this program writes. */
export const PLAN_VERSION = 2;

/** Drives of version 1 that have other names in version 2. */
const DRIVES: Readonly<Record<string, string>> = {
  compare: 'pwm',
  counted: 'software-pwm',
  pair: 'interrupt-pair',
  busy: 'delay-loop',
};

/** Keys of a signal that have other names in version 2. */
const SIGNAL_KEYS: Readonly<Record<string, string>> = { score: 'sequence', stays: 'locked' };

function isObject(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

function named(names: Readonly<Record<string, string>>, name: unknown): unknown {
  return typeof name === 'string' && Object.hasOwn(names, name) ? names[name] : name;
}

function upgradeSetting(setting: unknown): unknown {
  return isObject(setting) ? { ...setting, drive: named(DRIVES, setting['drive']) } : setting;
}

function upgradeSignal(signal: unknown): unknown {
  if (!isObject(signal)) return signal;
  const entries = Object.entries(signal).map(([key, item]): [string, unknown] => [
    String(named(SIGNAL_KEYS, key)),
    key === 'setting' ? upgradeSetting(item) : item,
  ]);
  return Object.fromEntries(entries);
}

/** From version 1 to 2: drives, `score` and `stays` have the names of the trade; a part of the user's own has a version. */
function fromVersion1(plan: Record<string, unknown>): Record<string, unknown> {
  const { signals, ownPart } = plan;
  return {
    ...plan,
    version: 2,
    ...(Array.isArray(signals) ? { signals: signals.map(upgradeSignal) } : {}),
    ...(ownPart === undefined ? {} : { ownPart: upgradePart(ownPart) }),
  };
}

const CONVERTERS: Readonly<Record<number, (plan: Record<string, unknown>) => Record<string, unknown>>> = {
  1: fromVersion1,
};

/**
 * A plan of any version that ever shipped in the newest shape, converted from each version to the next. A value that is
 * not a plan at all is returned as it is, so that the schema can say what is wrong with it.
 */
export function upgradePlan(value: unknown): unknown {
  let plan = value;
  while (isObject(plan) && plan['format'] === 'herzschlag-plan') {
    const version = plan['version'];
    const convert =
      typeof version === 'number' && Object.hasOwn(CONVERTERS, version) ? CONVERTERS[version] : undefined;
    if (!convert) break;
    plan = convert(plan);
  }
  return plan;
}

/** The version of a plan file if it is newer than this program; else undefined. */
export function newerPlanVersion(value: unknown): number | undefined {
  const version = isObject(value) && value['format'] === 'herzschlag-plan' ? value['version'] : undefined;
  return typeof version === 'number' && version > PLAN_VERSION ? version : undefined;
}
