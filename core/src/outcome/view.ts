import { clockPath, type ClockPath } from '../clock/path.ts';
import type { Part } from '../part/schema.ts';
import type { Refusal } from '../fit/refuse.ts';
import { landscapeOf, type Landscape } from '../fit/landscape.ts';
import { refit } from '../fit/refit.ts';
import type { Plan, PlanSignal } from '../format/plan.ts';
import { goalOf } from '../target/goal.ts';
import type { Setting } from '../timer/setting.ts';
import { settingOutcome, signalFit, type SignalOutcome } from './outcome.ts';

/** The wanted period and high time in seconds, for drawing the target behind the waveform. */
export type Wanted = { periodS?: number; duty: number };

/** One signal with everything the Fit view shows. `setting` is the chosen or proposed one behind `outcome`. */
export type SignalView = {
  setting?: Setting;
  outcome?: SignalOutcome;
  wanted: Wanted;
  considered: number;
  landscape: Landscape;
  refused: Refusal[];
};

function otherSettings(plan: Plan, id: string): Setting[] {
  return plan.signals.flatMap((signal) => (signal.id !== id && signal.setting ? [signal.setting] : []));
}

/** Whether a setting has to be looked for anew: there is none, or its pin is no longer the signal's. */
function fitsPin(signal: PlanSignal): boolean {
  return signal.setting !== undefined && (signal.pin === undefined || signal.setting.pin === signal.pin);
}

/**
 * The view of one signal of a plan. With `renew` (its target has just changed) the setting is looked for anew, else the
 * chosen one stands; where nothing meets the target the old setting stays and its misses are shown.
 */
export function signalView(plan: Plan, part: Part, signal: PlanSignal, renew: boolean): SignalView {
  const path: ClockPath = clockPath(part, plan.clock);
  const goal = goalOf(signal);
  const fit = signalFit(part, path, signal);
  const stands = !renew && fitsPin(signal);
  const found = stands ? signal.setting : refit(part, fit, signal.setting, otherSettings(plan, signal.id));
  const setting = found ?? (fitsPin(signal) ? signal.setting : undefined);
  const near = goal.frequency.kind === 'near' ? goal.frequency.ideal.inverse().valueOf() : undefined;
  return {
    ...(setting ? { setting, outcome: settingOutcome(part, path, signal, setting) } : {}),
    wanted: { ...(near === undefined ? {} : { periodS: near }), duty: goal.duty.ideal.valueOf() },
    considered: fit.considered,
    landscape: landscapeOf(fit, goal),
    refused: fit.refused,
  };
}
