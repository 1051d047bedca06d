import { ClockError, clockPath } from '../clock/path.ts';
import { pinOf, NotOnPart } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import { SettingError, type Setting } from '../timer/setting.ts';
import { faultOf } from '../result/fault.ts';
import { parseJson } from '../result/json.ts';
import { failed, succeeded, type Fault, type Result } from '../result/result.ts';
import type { Plan, PlanSignal } from './plan.ts';
import { writePlan } from './write-plan.ts';
import { newerPlanVersion, PLAN_VERSION, upgradePlan } from './versions.ts';
import { checkPart } from '../timer/part-file.ts';
import { FILE_LIMIT } from '../result/file-limit.ts';
import { planSchema } from './schema.ts';
import { checkSetting, isInput } from '../timer/drives/index.ts';
import { kindOf } from '../signal/kinds/index.ts';
import { signalFault } from '../signal/target-schema.ts';

/** A plan read from outside, or the first thing that is wrong with it. */
export type ReadPlan = Result<{ plan: Plan; part: Part }>;

function fault(path: string, sentence: string) {
  return failed(sentence, path);
}

/** A setting may leave its pin to the signal. */
function withPins(signal: PlanSignal): PlanSignal {
  if (!signal.setting) return signal;
  const pin = signal.setting.pin ?? signal.pin;
  return { ...signal, setting: { ...signal.setting, ...(pin === undefined ? {} : { pin }) } };
}

/** Runs a check; the fault of an error that a setting or a name of the part gives, at its key. */
function faultIn(at: string, key: string, check: () => unknown): Fault | undefined {
  try {
    check();
    return undefined;
  } catch (error) {
    const own =
      error instanceof SettingError ? `${key}.${error.key}` : error instanceof NotOnPart ? key : undefined;
    if (own === undefined) throw error;
    const { message } = error as Error;
    return { path: `${at}.${own}`, sentence: `${at}.${own}: ${message}`, plain: message };
  }
}

/** Whether a setting suits the kind and the pin of its signal, and the part can do it. */
function settingFault(part: Part, signal: PlanSignal, setting: Setting, at: string): Fault | undefined {
  const { on } = kindOf(signal);
  if ((on === 'input') !== isInput(setting)) {
    const sentence = `${at}.setting.drive: ${setting.drive} does not fit a signal of the kind ${signal.kind}.`;
    return { path: `${at}.setting.drive`, sentence };
  }
  const path = `${at}.setting.pin`;
  if (setting.pin === undefined && on !== 'processor')
    return { path, sentence: `${path} is missing, and the signal names no pin.` };
  if (signal.pin !== undefined && setting.pin !== signal.pin)
    return { path, sentence: `${path} is ${setting.pin}, but the signal is on ${signal.pin}.` };
  return faultIn(at, 'setting', () => checkSetting(part, setting));
}

/** What is wrong with a signal by itself, its place in the plan told first. */
function ownFault(signal: PlanSignal, at: string): Fault | undefined {
  const fault = signalFault(signal);
  return fault && { ...fault, path: `${at}.${fault.path}`, sentence: `${at}.${fault.sentence}` };
}

function faultOnPart(part: Part, signal: PlanSignal, at: string): Fault | undefined {
  const { pin, complement, setting } = signal;
  return (
    faultIn(at, 'pin', () => pin !== undefined && pinOf(part, pin)) ??
    ownFault(signal, at) ??
    faultIn(at, 'complement.pin', () => complement && pinOf(part, complement.pin)) ??
    (setting && settingFault(part, signal, setting, at))
  );
}

/** Whether clock, pin names and reserved timers of a plan are on its part, and phases lead to another signal. */
function partFault(part: Part, { clock, pinNames = {}, reserved = [], signals }: Plan): Fault | undefined {
  try {
    clockPath(part, clock);
  } catch (error) {
    if (!(error instanceof ClockError)) throw error;
    return {
      path: `clock.${error.key}`,
      sentence: `clock.${error.key}: ${error.message}`,
      plain: error.message,
    };
  }
  const pin = Object.keys(pinNames).find((id) => !part.pins.some((one) => one.id === id));
  if (pin !== undefined)
    return { path: `pinNames.${pin}`, sentence: `pinNames.${pin}: ${part.name} has no pin ${pin}.` };
  const timer = reserved.findIndex((id) => !part.timers.some((one) => one.id === id));
  if (timer >= 0) {
    const path = `reserved[${timer}]`;
    return { path, sentence: `${path}: ${part.name} has no timer ${reserved[timer]}.` };
  }
  const alone = signals.findIndex(
    ({ id, phase }) => phase && (phase.to === id || !signals.some((one) => one.id === phase.to)),
  );
  if (alone < 0) return undefined;
  const path = `signals[${alone}].phase.to`;
  return { path, sentence: `${path}: there is no other signal “${signals[alone]?.phase?.to}”.` };
}

/**
 * Checks a value from outside (a parsed file, a row of a store) as a plan: shape, then everything that depends on the
 * part: clock, pins, targets, settings. Never throws for bad input.
 */
export function checkPlan(value: unknown, parts: readonly Part[]): ReadPlan {
  const newer = newerPlanVersion(value);
  if (newer !== undefined) {
    return fault(
      'version',
      `version: this plan is of version ${newer}; this program reads versions up to ${PLAN_VERSION}. It was left as it is.`,
    );
  }
  const upgraded = upgradePlan(value);
  const { error } = planSchema().validate(upgraded, { convert: false, abortEarly: true });
  const [first] = error?.details ?? [];
  if (first) return { ok: false, fault: faultOf(first) };
  const stored = upgraded as Omit<Plan, 'clock'> & Partial<Pick<Plan, 'clock'>>;
  const own = stored.ownPart === undefined ? undefined : checkPart(stored.ownPart);
  if (own && !own.ok) return fault(`ownPart.${own.fault.path}`, `ownPart: ${own.fault.sentence}`);
  const part = own?.value.id === stored.part ? own.value : parts.find((one) => one.id === stored.part);
  if (!part) {
    return fault(
      'part',
      `part: no part “${stored.part}” is known; there are ${parts.map((one) => one.id).join(', ')}.`,
    );
  }
  const plan: Plan = {
    ...stored,
    // With what the schema of parts adds where its file says nothing.
    ...(own ? { ownPart: own.value } : {}),
    clock: stored.clock ?? part.defaultClock,
    signals: stored.signals.map(withPins),
  };
  const wrong =
    partFault(part, plan) ??
    plan.signals.reduce<Fault | undefined>(
      (found, signal, at) => found ?? faultOnPart(part, signal, `signals[${at}]`),
      undefined,
    );
  return wrong ? { ok: false, fault: wrong } : succeeded({ plan, part });
}
/** Reads the text of a plan file. Never throws for bad input: the fault says what is wrong and where. */
export function readPlan(text: string, parts: readonly Part[]): ReadPlan {
  const parsed = parseJson(text, FILE_LIMIT, 'plan');
  return parsed.ok ? checkPlan(parsed.value, parts) : parsed;
}

/**
 * What would keep a plan from being opened again once it is stored or saved: what `readPlan` finds in the text of its file.
 * Every edit passes through it before it is in force. Undefined where nothing is wrong.
 */
export function planFault(plan: Plan, parts: readonly Part[]): Fault | undefined {
  const read = readPlan(writePlan(plan), parts);
  return read.ok ? undefined : read.fault;
}
