import type { Part } from '../part/types.ts';
import { aloneOnTimers } from '../timer/setting.ts';
import { settersOf } from './setters.ts';
import type { KnobCode, ProgramSignal } from './signal.ts';
import { unsignedFor, type State } from './step.ts';

/** What a knob keeps between its readings: their sum, how many they are, and the last one that was taken. */
export type KnobStates = { sum?: State; count?: State; held?: State; known?: State };

/** The variables of a knob that takes means of readings, or only those that differ enough. */
export function knobStates(label: string, { arithmetic, average = 1, hysteresis = 0 }: KnobCode): KnobStates {
  const { highest } = arithmetic;
  const of = (name: string, most: number): State => ({
    kept: `${label}_knob_${name}`,
    type: unsignedFor(most),
    initial: 0,
  });
  return {
    // Half of the count is added before the division.
    ...(average > 1 ? { sum: of('sum', highest * average + average / 2), count: of('count', average) } : {}),
    ...(hysteresis > 0 ? { held: of('held', highest), known: of('known', 1) } : {}),
  };
}

/** The variables of all knobs that the program has a setter for. */
export function allKnobStates(
  part: Part,
  signals: readonly ProgramSignal[],
  labels: readonly string[],
): State[] {
  const alone = aloneOnTimers(signals.map(({ setting }) => setting));
  return signals.flatMap((signal, at) => {
    const { knob } = signal;
    if (!knob || !settersOf(part, signal, alone[at] ?? false).knob) return [];
    return Object.values(knobStates(labels[at] ?? '', knob));
  });
}
