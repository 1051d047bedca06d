import { ClockError, clockPath } from '../clock/path.ts';
import { pinOf, NotOnPart } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import { SettingError, type Setting } from '../timer/setting.ts';
import { faultOf, parseJson } from '../result/fault.ts';
import { failed, succeeded, type Fault, type Result } from '../result/result.ts';
import type { Plan, PlanSignal } from './plan.ts';
import { newerPlanVersion, PLAN_VERSION, upgradePlan } from './versions.ts';
import { checkPart, FILE_LIMIT } from '../clock/part-file.ts';
import { planSchema } from './schema.ts';
import { checkSetting, isInput } from '../timer/drives/index.ts';
import { kindOf } from '../signal/kinds/index.ts';
import { TargetError } from '../signal/target-error.ts';
import { requirementOf } from '../signal/requirement.ts';
import { stagesOf } from '../signal/sequence.ts';

/** A plan read from outside, or the first thing that is wrong with it. */
export type ReadPlan = Result<{ plan: Plan; part: Part }>;

function fault(path: string, sentence: string) {
  return failed(sentence, path);
}

/** A setting may leave its pin to the signal. */
function withPins(signal: PlanSignal): PlanSignal {
  if (!signal.setting) return signal;
  const pin = signal.setting.pin ?? signal.pin;
  return { ...signal, setting: { ...signal.setting, ...(pin === undefined ? {} : { pin }) } as Setting };
}

function signalFault(part: Part, signal: PlanSignal, at: string): Fault | undefined {
  const place = (key: string, error: Error): Fault => ({
    path: `${at}.${key}`,
    sentence: `${at}.${key}: ${error.message}`,
  });
  try {
    if (signal.pin !== undefined) pinOf(part, signal.pin);
  } catch (error) {
    if (error instanceof NotOnPart) return place('pin', error);
    throw error;
  }
  try {
    requirementOf(signal);
  } catch (error) {
    if (error instanceof TargetError) return place(`target.${error.key}`, error);
    throw error;
  }
  try {
    if (signal.sequence) stagesOf(signal.sequence, requirementOf(signal));
  } catch (error) {
    if (error instanceof TargetError) return place(`score.${error.key}`, error);
    throw error;
  }
  try {
    if (signal.complement) pinOf(part, signal.complement.pin);
  } catch (error) {
    if (error instanceof NotOnPart) return place('complement.pin', error);
    throw error;
  }
  if (!signal.setting) return undefined;
  if ((kindOf(signal).on === 'input') !== isInput(signal.setting)) {
    const sentence = `${at}.setting.drive: ${signal.setting.drive} does not fit a signal of the kind ${signal.kind}.`;
    return { path: `${at}.setting.drive`, sentence };
  }
  if (signal.setting.pin === undefined && kindOf(signal).on !== 'processor') {
    return {
      path: `${at}.setting.pin`,
      sentence: `${at}.setting.pin is missing, and the signal names no pin.`,
    };
  }
  if (signal.pin !== undefined && signal.setting.pin !== signal.pin) {
    const sentence = `${at}.setting.pin is ${signal.setting.pin}, but the signal is on ${signal.pin}.`;
    return { path: `${at}.setting.pin`, sentence };
  }
  try {
    checkSetting(part, signal.setting);
  } catch (error) {
    if (error instanceof SettingError) return place(`setting.${error.key}`, error);
    throw error;
  }
  return undefined;
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
  const plan: Plan = { ...stored, clock: stored.clock ?? part.defaultClock };
  try {
    clockPath(part, plan.clock);
  } catch (problem) {
    if (problem instanceof ClockError)
      return fault(`clock.${problem.key}`, `clock.${problem.key}: ${problem.message}`);
    throw problem;
  }
  for (const pin of Object.keys(plan.pinNames ?? {})) {
    if (!part.pins.some((one) => one.id === pin)) {
      return fault(`pinNames.${pin}`, `pinNames.${pin}: ${part.name} has no pin ${pin}.`);
    }
  }
  for (const [at, timer] of (plan.reserved ?? []).entries()) {
    if (!part.timers.some((one) => one.id === timer)) {
      return fault(`reserved[${at}]`, `reserved[${at}]: ${part.name} has no timer ${timer}.`);
    }
  }
  const signals = plan.signals.map(withPins);
  for (const [at, { id, phase }] of signals.entries()) {
    if (phase && (phase.to === id || !signals.some((one) => one.id === phase.to))) {
      const sentence = `signals[${at}].phase.to: there is no other signal “${phase.to}”.`;
      return fault(`signals[${at}].phase.to`, sentence);
    }
  }
  for (const [at, signal] of signals.entries()) {
    const wrong = signalFault(part, signal, `signals[${at}]`);
    if (wrong) return { ok: false, fault: wrong };
  }
  return succeeded({ plan: { ...plan, signals }, part });
}

/** Reads the text of a plan file. Never throws for bad input: the fault says what is wrong and where. */
export function readPlan(text: string, parts: readonly Part[]): ReadPlan {
  const parsed = parseJson(text, FILE_LIMIT, 'plan');
  return parsed.ok ? checkPlan(parsed.value, parts) : parsed;
}
