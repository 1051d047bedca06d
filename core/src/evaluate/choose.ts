import { clockPath, type ClockPath } from '../clock/path.ts';
import { fitWithOpposite } from '../fit/complement.ts';
import { fitRequirement, type Drives, type Fit } from '../fit/fit.ts';
import { rankedBy, type Ranking } from '../fit/rank.ts';
import { keepChannel, reselect } from '../fit/reselect.ts';
import type { Part } from '../part/types.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import { passesAlone } from './deliverable.ts';
import { isSoftware, pinsTakenBy } from '../timer/drives/index.ts';
import type { Setting } from '../timer/setting.ts';

/** All settings for one signal of a plan. */
export function signalFit(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  drives: Drives = 'all',
  taken?: ReadonlySet<string>,
): Fit {
  const requirement = requirementOf(signal);
  const fit = fitRequirement(part, path, requirement, signal.pin, drives, taken);
  if (!signal.complement) return fit;
  const choice = { ...(signal.pin === undefined ? {} : { pin: signal.pin }), ...(taken ? { taken } : {}) };
  return fitWithOpposite(part, path, requirement, fit, signal.complement, choice);
}

/** The settings that other signals of a plan have. */
export function otherSettings(plan: Plan, id: string): Setting[] {
  return plan.signals.flatMap((signal) => (signal.id !== id && signal.setting ? [signal.setting] : []));
}

/** The pins that some settings take. */
export function pinsTaken(part: Part, settings: readonly Setting[]): Set<string> {
  return new Set(settings.flatMap((setting) => pinsTakenBy(part, setting)));
}

/** The setting of a signal, unless its pin is no longer the signal's. */
function standing(signal: PlanSignal): Setting | undefined {
  const { setting, pin } = signal;
  return setting && (pin === undefined || setting.pin === pin) ? setting : undefined;
}

/** How many candidates of one way and prescaler are asked whether the program makes all of a signal with them, and how many are enough. */
const ASKED = 2;
const ENOUGH = 40;

/** A way out of the part, without the numbers. */
function wayOf(setting: Setting): string {
  const { drive, timer, mode, channel, prescaler, polarity } = { ...setting } as Record<string, unknown>;
  return JSON.stringify([drive, timer, mode, channel, prescaler, polarity]);
}

/**
 * The candidates of a signal over time, or with bits to send, without those that the program cannot make or whose rhythm is wrong; all of them where
 * none is left, and for every other signal.
 */
function madeWhole(part: Part, path: ClockPath, signal: PlanSignal, fit: Fit): Fit {
  if (!signal.sequence && !requirementOf(signal).alsoWidths) return fit;
  const asked = new Map<string, number>();
  const whole: Fit['candidates'] = [];
  for (const candidate of fit.candidates) {
    if (whole.length === ENOUGH) break;
    const way = wayOf(candidate.setting);
    const before = asked.get(way) ?? 0;
    asked.set(way, before + 1);
    if (before < ASKED && passesAlone(part, path, signal, candidate.setting)) whole.push(candidate);
  }
  return whole.length > 0 ? { ...fit, candidates: whole } : fit;
}

/** The best setting for a signal that leaves some others alone where it can; undefined where nothing meets the target. */
export function proposedSetting(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  others: readonly Setting[],
): Setting | undefined {
  const fit = signalFit(part, path, signal, 'all', pinsTaken(part, others));
  return reselect(part, madeWhole(part, path, signal, fit), undefined, others);
}

/**
 * Which setting each signal of a plan has: the chosen one, else the best that leaves alone all chosen settings and those
 * of the signals before it. Undefined where nothing can make the signal. `propose` may remember what it found.
 */
export function chooseSettings(
  plan: Plan,
  part: Part,
  path: ClockPath,
  propose: typeof proposedSetting = proposedSetting,
): Map<string, Setting | undefined> {
  const chosen = plan.signals.flatMap((signal) => standing(signal) ?? []);
  const found = new Map<string, Setting | undefined>();
  const taken = [...chosen];
  for (const signal of plan.signals) {
    const setting = standing(signal) ?? propose(part, path, signal, taken);
    found.set(signal.id, setting);
    if (setting && !signal.setting) taken.push(setting);
  }
  return found;
}

/**
 * The setting to take anew after a signal's target has changed. The channel it already has is searched by itself first:
 * if it can go on there, that is the answer, and it comes in a fraction of the time. Where nothing meets the target the
 * old setting stays.
 */
export function renewedSetting(plan: Plan, part: Part, signal: PlanSignal): Setting | undefined {
  const path = clockPath(part, plan.clock);
  const others = otherSettings(plan, signal.id);
  const previous = standing(signal);
  if (previous && !isSoftware(previous)) {
    const held = previous.pin === undefined ? signal : { ...signal, pin: previous.pin };
    const own = keepChannel(
      part,
      madeWhole(part, path, held, signalFit(part, path, held, 'hardware')),
      previous,
      others,
    );
    if (own) return own;
  }
  const fit = madeWhole(part, path, signal, signalFit(part, path, signal, 'all', pinsTaken(part, others)));
  return reselect(part, fit, previous, others) ?? previous;
}

/** The setting that is best by a ranking and leaves the other signals alone where it can. */
export function bestSetting(
  plan: Plan,
  part: Part,
  signal: PlanSignal,
  ranking: Ranking,
): Setting | undefined {
  const others = otherSettings(plan, signal.id);
  const fit = signalFit(part, clockPath(part, plan.clock), signal, 'all', pinsTaken(part, others));
  const candidates = [...fit.candidates].sort(rankedBy(requirementOf(signal), ranking));
  return reselect(part, { ...fit, candidates }, undefined, others);
}
