import { checkRhythm, type Beat, type Limits, type WantedRhythm } from '../check/check-rhythm.ts';
import { checkPulses } from '../check/check-timing.ts';
import type { Check } from '../check/check.ts';
import type { Requirement } from '../signal/requirement.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import { resolvedSteps, type ResolvedStep, type Sequence } from '../signal/sequence.ts';
import type { Signal } from '../signal/signal.ts';
import { passTicks, sequenceEdges, sequenceLevel, type SequenceWaveform } from '../wave/sequence-waveform.ts';

/** Pulses of one pass that are compared one by one; longer ones are judged by their number and their pass. */
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

/** Whether a step keeps one frequency and one duty, with a pulse in each of its periods. */
function isEven({ fromHz, toHz, fromDuty, toDuty }: ResolvedStep): boolean {
  return fromHz.equals(toHz) && fromDuty.equals(toDuty) && fromDuty.compare(0) > 0 && fromDuty.compare(1) < 0;
}

/** What a sequence should be, pulse by pulse; undefined where frequencies or duties move, or pulses would be too many. */
function wantedRhythm(requirement: Requirement, steps: readonly ResolvedStep[]): WantedRhythm | undefined {
  const { frequency, duty } = requirement;
  if (frequency.kind !== 'near' || steps.some((step) => !step.rest && !isEven(step))) return undefined;
  // The tolerance of the frequency holds for times, that of the duty for shares.
  const apart = [frequency.low, frequency.ideal, frequency.high].map((hz) => hz.valueOf());
  const [lowHz = 1, idealHz = 1, highHz = 1] = apart;
  const [shorter, longer] = [idealHz / highHz, idealHz / lowHz];
  const [less, more] = [duty.ideal.sub(duty.low).valueOf(), duty.high.sub(duty.ideal).valueOf()];
  const beats: { high: Limits; low: Limits }[] = [];
  const cycle: Limits = { low: 0, high: 0 };
  const rests = (seconds: number): void => {
    const last = beats[beats.length - 1];
    if (!last) return;
    last.low = { low: last.low.low + seconds * shorter, high: last.low.high + seconds * longer };
  };
  let leading = 0;
  for (const step of steps) {
    const hz = step.fromHz.valueOf();
    const seconds = step.seconds?.valueOf() ?? (step.periods ?? 1) / hz;
    cycle.low += seconds * shorter;
    cycle.high += seconds * longer;
    if (step.rest) {
      if (beats.length === 0) leading += seconds;
      rests(seconds);
      continue;
    }
    const share = step.fromDuty.valueOf();
    const count = step.periods ?? Math.max(1, Math.round(seconds * hz));
    if (beats.length + count > MOST_PULSES) return undefined;
    for (let at = 0; at < count; at += 1) {
      beats.push({
        high: { low: (Math.max(0, share - less) / hz) * shorter, high: ((share + more) / hz) * longer },
        low: {
          low: (Math.max(0, 1 - share - more) / hz) * shorter,
          high: ((1 - share + less) / hz) * longer,
        },
      });
    }
  }
  rests(leading);
  return { beats, cycle };
}

/**
 * The rhythm of a sequence: how many pulses a pass really has, and where none of its values move each pulse, each low time and the length of the pass.
 * `pulses` are as many as it should have.
 */
export function rhythmChecks(
  signal: Signal,
  sequence: Sequence,
  waveform: SequenceWaveform,
  tickHz: number,
  tolerancePpm: number,
  pulses: { low: number; high: number } | undefined,
): Check[] {
  if (!pulses) return [];
  if (pulses.high > MOST_PULSES) return [checkPulses(pulsesIn(waveform), pulses)];
  const requirement = requirementOf(signal);
  const wanted = wantedRhythm(requirement, resolvedSteps(sequence, requirement));
  const { beats, cycleS } = beatsOf(waveform, tickHz);
  const counted = beats.length > MOST_PULSES ? undefined : checkPulses(beats.length, pulses);
  return [...(counted ? [counted] : []), ...(wanted ? checkRhythm(beats, cycleS, wanted, tolerancePpm) : [])];
}
