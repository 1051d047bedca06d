import { isSoftware } from '../timer/drives/index.ts';
import { clockPath, type ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import type { Refusal } from '../fit/explain/refusal.ts';
import { rankedBy, type Ranking } from '../fit/rank.ts';
import { landscapeOf, type Landscape } from '../fit/landscape.ts';
import { keepChannel, reselect } from '../fit/reselect.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { requirementOf } from '../signal/requirement.ts';
import { pinsOfSetting, type Setting } from '../timer/setting.ts';
import { phaseChecks } from './timing-checks.ts';
import { settingFor, evaluateSetting, signalFit, type SignalEvaluation } from './evaluate.ts';

/** The wanted period and high time in seconds, for drawing the target behind the waveform. */
export type Wanted = { periodS?: number; duty: number };

/** The setting of a signal, chosen or proposed, with its outcome against the target. */
export type SignalView = { setting?: Setting; outcome?: SignalEvaluation; wanted: Wanted };

/** What else there is for a signal: all settings as a landscape, and why those that cannot serve it cannot. */
export type Surroundings = {
  considered: number;
  /** Whether any setting at all meets the target. */
  met: boolean;
  landscape: Landscape;
  refused: Refusal[];
};

function otherSettings(plan: Plan, id: string): Setting[] {
  return plan.signals.flatMap((signal) => (signal.id !== id && signal.setting ? [signal.setting] : []));
}

function pinsOf(settings: readonly Setting[]): Set<string> {
  return new Set(settings.flatMap(pinsOfSetting));
}

/** Whether a setting has to be looked for anew: there is none, or its pin is no longer the signal's. */
function fitsPin(signal: PlanSignal): boolean {
  return signal.setting !== undefined && (signal.pin === undefined || signal.setting.pin === signal.pin);
}

/**
 * The setting to take anew. The channel a signal already has is searched by itself first: if it can go on there, that
 * is the answer, and it comes in a fraction of the time.
 */
function renewed(plan: Plan, part: Part, path: ClockPath, signal: PlanSignal): Setting | undefined {
  const others = otherSettings(plan, signal.id);
  const previous = fitsPin(signal) ? signal.setting : undefined;
  if (previous && !isSoftware(previous)) {
    const held = previous.pin === undefined ? signal : { ...signal, pin: previous.pin };
    const own = keepChannel(part, signalFit(part, path, held, 'hardware'), previous, others);
    if (own) return own;
  }
  return reselect(part, signalFit(part, path, signal, 'all', pinsOf(others)), previous, others) ?? previous;
}

/**
 * The view of one signal of a plan. With `renew` (its target has just changed) the setting is looked for anew, else the
 * chosen one stands; where nothing meets the target the old setting stays and its misses are shown.
 */
export function signalView(plan: Plan, part: Part, signal: PlanSignal, renew: boolean): SignalView {
  const path = clockPath(part, plan.clock);
  const requirement = requirementOf(signal);
  const setting = !renew && fitsPin(signal) ? signal.setting : renewed(plan, part, path, signal);
  const outcome = setting && evaluateSetting(part, path, signal, setting);
  const other = plan.signals.find(({ id }) => id === signal.phase?.to);
  const placed = other && settingFor(part, path, other);
  const to = other && placed ? { signal: other, setting: placed } : undefined;
  const phase = setting ? phaseChecks(part, path, { signal, setting }, to) : [];
  const near =
    requirement.frequency.kind === 'near' ? requirement.frequency.ideal.inverse().valueOf() : undefined;
  return {
    ...(setting && outcome
      ? { setting, outcome: { ...outcome, checks: [...outcome.checks, ...phase] } }
      : {}),
    wanted: { ...(near === undefined ? {} : { periodS: near }), duty: requirement.duty.ideal.valueOf() },
  };
}

/** The setting that is best by a ranking and leaves the other signals alone where it can. */
export function bestSetting(
  plan: Plan,
  part: Part,
  signal: PlanSignal,
  ranking: Ranking,
): Setting | undefined {
  const others = otherSettings(plan, signal.id);
  const fit = signalFit(part, clockPath(part, plan.clock), signal, 'all', pinsOf(others));
  const candidates = [...fit.candidates].sort(rankedBy(requirementOf(signal), ranking));
  return reselect(part, { ...fit, candidates }, undefined, others);
}

/** What stands around the view of a signal. */
export function signalSurroundings(plan: Plan, part: Part, signal: PlanSignal): Surroundings {
  const taken = pinsOf(otherSettings(plan, signal.id));
  const fit = signalFit(part, clockPath(part, plan.clock), signal, 'all', taken);
  return {
    considered: fit.considered,
    met: fit.candidates.length > 0,
    landscape: landscapeOf(fit, requirementOf(signal)),
    refused: fit.refused,
  };
}
