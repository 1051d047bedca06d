import { exact, type Exact } from '../quantity/exact.ts';
import { bandAround, bandCents, bandPpm, dutyBand, positive, rateOf, type Band } from './band.ts';
import { levelGoal, measureGoal, pulseGoal, stringGoal, strobeGoal } from './goal-kinds.ts';
import { TargetError } from './fault.ts';
import type { Aim, BlinkTarget, DimTarget, TickTarget, ToneTarget } from './signal.ts';
import { readNote, centsFactor } from '../quantity/note.ts';
import { STANDARD } from './standard.ts';

/** What a signal moves over: its frequency, or the width of its pulse in s, from one end to the other. */
export type Span = { of: 'frequency' | 'width'; low: Exact; high: Exact };

/**
 * A target of any kind, in one form: a frequency to be near to or not to fall below (Hz), a duty (fraction of one) or a
 * width (s), and the least number of duty steps.
 */
export type Goal = {
  frequency: ({ kind: 'near' } & Band) | { kind: 'least'; low: Exact };
  duty: Band;
  /** Where the time of the pulse counts rather than its share of the period. */
  width?: Band;
  /** Other widths that the same counter must be able to make, such as those of a one and a zero. */
  alsoWidths?: readonly Band[];
  minSteps: number;
  /** Whether it is for a pin; a tick is for the processor alone. */
  pin: boolean;
  /** The most an edge or a tick may stand off its mean place, in s. */
  jitterS?: number;
  span?: Span;
  /** The voltage of a high level, where the mean is wanted in volts. */
  supply?: Exact;
  /** An input: the slowest and the fastest to be told, and the share of a period that a reading may be off by. */
  input?: { slowest: Exact; fastest: Exact; resolution: number };
};

function blinkGoal(target: BlinkTarget): Goal {
  const frequency = rateOf('A blink', target);
  if (target.duty !== undefined && target.onS !== undefined) {
    throw new TargetError('onS', 'A blink has either duty or onS, not both.');
  }
  const duty =
    target.onS !== undefined ? exact(target.onS).mul(frequency) : exact(target.duty ?? STANDARD.blinkDuty);
  return {
    frequency: { kind: 'near', ...bandPpm(frequency, target.frequencyTolerancePpm ?? STANDARD.blinkPpm) },
    duty: dutyBand(duty, target.dutyTolerance ?? STANDARD.duty, target.onS !== undefined ? 'onS' : 'duty'),
    minSteps: 1,
    pin: true,
  };
}

/** A tone's frequency: said in Hz, or as a note with cents. */
export function toneHz(target: ToneTarget): Exact {
  if ((target.frequencyHz === undefined) === (target.note === undefined)) {
    throw new TargetError('frequencyHz', 'A tone has either frequencyHz or note.');
  }
  if (target.frequencyHz !== undefined) return positive(exact(target.frequencyHz), 'frequencyHz');
  const note = readNote(target.note ?? '');
  if (!note)
    throw new TargetError('note', `note “${target.note}” is no note; say for example A4, C#5 or Bb3.`);
  return exact(note.hz * centsFactor(target.cents ?? 0));
}

function toneGoal(target: ToneTarget): Goal {
  const frequency = toneHz(target);
  if (target.toleranceCents !== undefined && target.frequencyTolerancePpm !== undefined) {
    throw new TargetError('toleranceCents', 'A tone has its tolerance either in cents or in ppm, not both.');
  }
  const band =
    target.frequencyTolerancePpm !== undefined
      ? bandPpm(frequency, target.frequencyTolerancePpm)
      : bandCents(frequency, target.toleranceCents ?? STANDARD.toneCents);
  const duty = exact(target.duty ?? STANDARD.toneDuty);
  if (duty.equals(0) || duty.equals(1))
    throw new TargetError('duty', 'A tone needs a duty between 0 and 1, without the ends.');
  return {
    frequency: { kind: 'near', ...band },
    duty: dutyBand(duty, target.dutyTolerance ?? STANDARD.duty, 'duty'),
    minSteps: 1,
    pin: true,
  };
}

function dimGoal(target: DimTarget): Goal {
  if (!Number.isInteger(target.minSteps) || target.minSteps < 1) {
    throw new TargetError(
      'minSteps',
      `minSteps must be a whole number from 1 up, and is ${target.minSteps}.`,
    );
  }
  return {
    frequency: { kind: 'least', low: positive(exact(target.minHz), 'minHz') },
    duty: dutyBand(
      exact(target.duty ?? STANDARD.dimDuty),
      target.dutyTolerance ?? 1 / target.minSteps,
      'duty',
    ),
    minSteps: target.minSteps,
    pin: true,
  };
}

function tickGoal(target: TickTarget): Goal {
  const frequency = rateOf('A tick', target);
  return {
    frequency: { kind: 'near', ...bandPpm(frequency, target.frequencyTolerancePpm ?? STANDARD.tickPpm) },
    duty: bandAround(exact('0.5'), exact('0.5')),
    minSteps: 1,
    pin: false,
    ...(target.jitterS === undefined ? {} : { jitterS: target.jitterS }),
  };
}

/** The target of a signal in the common form, exact. @throws TargetError with the field at fault. */
export function goalOf(aim: Aim): Goal {
  switch (aim.kind) {
    case 'blink':
      return blinkGoal(aim.target);
    case 'strobe':
      return strobeGoal(aim.target);
    case 'tone':
      return toneGoal(aim.target);
    case 'dim':
      return dimGoal(aim.target);
    case 'level':
      return levelGoal(aim.target);
    case 'pulse':
      return pulseGoal(aim.target);
    case 'tick':
      return tickGoal(aim.target);
    case 'string':
      return stringGoal(aim.target);
    case 'measure':
      return measureGoal(aim.target);
  }
}
