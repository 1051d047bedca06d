import { checkRhythm, type Beat } from '../check/check-rhythm.ts';
import { checkPulses } from '../check/check-timing.ts';
import type { Check } from '../check/check.ts';
import type { Requirement } from '../signal/requirement.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import { resolvedSteps, type ResolvedStep, type Sequence } from '../signal/sequence.ts';
import type { Signal } from '../signal/signal.ts';
import { wantedRhythm } from './wanted-rhythm.ts';
import { passTicks, sequenceEdges, sequenceLevel, type SequenceWaveform } from '../wave/sequence-waveform.ts';

/** Pulses of one pass that are compared one by one; longer ones are judged by their number and their steps. */
const MOST_PULSES = 200;

/** The edges of one pass in its steady state, and of the first one where it does not begin again. */
function beatsOf(waveform: SequenceWaveform, tickHz: number): { beats: Beat[]; cycleS: number | undefined } {
  const pass = passTicks(waveform);
  const from = waveform.leadTicks + (waveform.once ? 0 : pass);
  // Cycles that begin late, or with a pulse in their middle, end within the next pass.
  const until = from + 2 * pass;
  let level = sequenceLevel(waveform, from - 1);
  const beats: Beat[] = [];
  let rise: number | undefined;
  let fall: number | undefined;
  for (const edge of sequenceEdges(waveform, from, until)) {
    level = level === 1 ? 0 : 1;
    if (level === 1) {
      if (rise !== undefined && fall !== undefined)
        beats.push({ highS: (fall - rise) / tickHz, lowS: (edge - fall) / tickHz });
      if (edge >= from + pass || beats.length > MOST_PULSES)
        return { beats, cycleS: cycleOf(waveform, pass, tickHz) };
      rise = edge;
      fall = undefined;
    } else fall = edge;
  }
  if (rise !== undefined && fall !== undefined) beats.push({ highS: (fall - rise) / tickHz, lowS: Infinity });
  return { beats, cycleS: cycleOf(waveform, pass, tickHz) };
}

function cycleOf({ once }: SequenceWaveform, pass: number, tickHz: number): number | undefined {
  return once ? undefined : pass / tickHz;
}

/** The pulses of one pass by the periods of its rows. */
function pulsesIn({ rows }: SequenceWaveform): number {
  return rows.reduce((sum, { cycle, periods }) => sum + ('level' in cycle.edges ? 0 : periods), 0);
}

/**
 * The rhythm of a sequence: how many pulses a pass really has, and where none of its values move each pulse, each low time and the length of the pass; else
 * what `rows` says of its steps.
 * `pulses` are as many as it should have, where that is told by its periods.
 */
export function rhythmChecks(
  signal: Signal,
  sequence: Sequence,
  waveform: SequenceWaveform,
  tickHz: number,
  tolerancePpm: number,
  pulses: { low: number; high: number } | undefined,
  rows: (requirement: Requirement, steps: readonly ResolvedStep[]) => Check[],
): Check[] {
  const requirement = requirementOf(signal);
  const steps = resolvedSteps(sequence, requirement);
  const many = pulses !== undefined && pulses.high > MOST_PULSES;
  const wanted = many ? undefined : wantedRhythm(requirement, steps, sequence.once === true);
  const due = pulses ?? (wanted && { low: wanted.beats.length, high: wanted.beats.length });
  const { beats, cycleS } = many ? { beats: [], cycleS: undefined } : beatsOf(waveform, tickHz);
  const count = many || beats.length > MOST_PULSES ? pulsesIn(waveform) : beats.length;
  const counted = due ? [checkPulses(count, due)] : [];
  const each =
    wanted && wanted.beats.length <= MOST_PULSES
      ? checkRhythm(beats, cycleS, wanted, tolerancePpm)
      : rows(requirement, steps);
  return [...counted, ...each];
}
