import { clockOf, type ClockPath } from '../clock/path.ts';
import { channelOf, timerOf } from '../part/find.ts';
import { phaseBetween } from '../check/check-phase.ts';
import { checkFirstEdge } from '../check/check-timing.ts';
import type { Check } from '../check/check.ts';
import type { PlanSignal } from '../plan/plan.ts';
import type { Part } from '../part/types.ts';
import { SettingError, type Setting } from '../timer/setting.ts';
import { firstEdge, waveformOf } from '../wave/waveform.ts';
import type { SequenceWaveform } from '../wave/sequence-waveform.ts';
import type { Waveform } from '../wave/stream.ts';
import type { PlacedSetting } from './placed.ts';
import { rhythmChecks } from './rhythm.ts';
import { stepChecks } from './step-checks.ts';
import { sequenceWaveform, wantedPulses } from './sequence-rows.ts';
import { goesSameWay, isInput, outcomeUnder, isOutput } from '../timer/drives/index.ts';

function sequenceOf(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  setting: Setting,
): { waveform: SequenceWaveform } | { fault: string } | undefined {
  if (!signal.sequence || isInput(setting)) return undefined;
  try {
    return { waveform: sequenceWaveform(part, path, signal, signal.sequence, setting) };
  } catch (error) {
    if (error instanceof SettingError) return { fault: error.message };
    throw error;
  }
}

/** What a signal's pin does from its timer's start on: through its sequence, where the timer can follow one, else steadily. */
export function signalWaveform(part: Part, path: ClockPath, signal: PlanSignal, setting: Setting): Waveform {
  const scored = sequenceOf(part, path, signal, setting);
  if (scored && 'waveform' in scored) return scored.waveform;
  return waveformOf(part, setting, outcomeUnder(part, path, setting));
}

/** The time for which a signal and its opposite are both low, where it wants an opposite. */
function deadTimeChecks({
  part,
  path,
  signal: { complement },
  setting,
  tolerancePpm,
}: PlacedSetting): Check[] {
  if (!complement) return [];
  const base = { property: 'dead time', unit: 's', low: complement.deadS } as const;
  if (!isOutput(setting) || setting.complement?.pin !== complement.pin) {
    return [{ ...base, verdict: 'fail', note: `This setting brings no opposite to ${complement.pin}.` }];
  }
  const timer = timerOf(part, setting.timer);
  if (goesSameWay(channelOf(timer, setting.channel), setting, complement.pin)) {
    const note = `${setting.pin} and ${complement.pin} go the same way: both switches of a bridge would conduct.`;
    return [{ ...base, value: 0, margin: -complement.deadS, verdict: 'fail', note }];
  }
  const clockHz = clockOf(path, timer.clock).valueOf();
  const value = setting.complement.deadTicks / clockHz;
  // A fast oscillator makes it shorter.
  const margin = value * (1 - tolerancePpm / 1e6) - complement.deadS;
  return [{ ...base, value, margin, verdict: margin >= -1e-15 ? 'pass' : 'fail' }];
}

/** Checks of what a signal does over time: its sequence's pulses, and how soon its first edge comes. */
export function timingChecks(placed: PlacedSetting): Check[] {
  const { part, path, signal, setting, outcome, tolerancePpm } = placed;
  if (isInput(setting)) return [];
  const scored = sequenceOf(part, path, signal, setting);
  const checks: Check[] = deadTimeChecks(placed);
  if (scored && 'fault' in scored) {
    checks.push({ property: 'sequence', unit: 'count', verdict: 'fail', note: scored.fault });
  }
  if (scored && 'waveform' in scored && signal.sequence) {
    const wanted = wantedPulses(signal, signal.sequence);
    checks.push(
      ...rhythmChecks(
        signal,
        signal.sequence,
        scored.waveform,
        outcome.tickHz.valueOf(),
        tolerancePpm,
        wanted,
        (requirement, steps) => stepChecks({ part, path, signal, setting, requirement, steps, tolerancePpm }),
      ),
    );
  }
  if (signal.firstEdgeS !== undefined) {
    const waveform = scored && 'waveform' in scored ? scored.waveform : waveformOf(part, setting, outcome);
    const first = firstEdge(waveform);
    checks.push(
      checkFirstEdge(
        first === undefined ? undefined : first / outcome.tickHz.valueOf(),
        signal.firstEdgeS,
        tolerancePpm,
      ),
    );
  }
  return checks;
}

/** A signal with the setting it is made by. */
export type Placed = { signal: PlanSignal; setting: Setting };

/** The phase of a signal to another one; no check where the signal asks for none. */
export function phaseChecks(part: Part, path: ClockPath, own: Placed, other: Placed | undefined): Check[] {
  const { phase } = own.signal;
  if (!phase) return [];
  if (!other) {
    const note = `${phase.to} has no edges to tell a phase from.`;
    return [{ property: 'phase', unit: '°', verdict: 'unknown', note }];
  }
  const [mine, theirs] = [own, other].map(({ signal, setting }) => ({ name: signal.name, setting }));
  return mine && theirs ? [phaseBetween(part, path, phase, mine, theirs)] : [];
}
