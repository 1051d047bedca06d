import { exact, type Exact } from '../quantity/exact.ts';
import { bandAround, bandCents, bandPpm, dutyBand, positive, rateOf, type Band } from './band.ts';
import {
  levelRequirement,
  measureRequirement,
  pulseRequirement,
  stringRequirement,
  strobeRequirement,
} from './requirement-kinds.ts';
import { TargetError } from './target-error.ts';
import type { Aim, BlinkTarget, DimTarget, TickTarget, ToneTarget } from './signal.ts';
import { readNote, centsFactor } from '../quantity/note.ts';
import { DEFAULTS } from './defaults.ts';

/** What a signal moves over: its frequency, or the width of its pulse in s, from one end to the other. */
export type Span = { of: 'frequency' | 'width'; low: Exact; high: Exact };

/**
 * A target of any kind, in one form: a frequency to be near to or not to fall below (Hz), a duty (fraction of one) or a
 * width (s), and the least number of duty steps.
 */
export type Requirement = {
  frequency: ({ kind: 'near' } & Band) | { kind: 'min'; low: Exact };
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

function blinkRequirement(target: BlinkTarget): Requirement {
  const frequency = rateOf('A blink', target);
  if (target.duty !== undefined && target.onS !== undefined) {
    throw new TargetError('onS', 'A blink has either duty or onS, not both.');
  }
  const duty =
    target.onS !== undefined ? exact(target.onS).mul(frequency) : exact(target.duty ?? DEFAULTS.blinkDuty);
  return {
    frequency: { kind: 'near', ...bandPpm(frequency, target.frequencyTolerancePpm ?? DEFAULTS.blinkPpm) },
    duty: dutyBand(duty, target.dutyTolerance ?? DEFAULTS.duty, target.onS !== undefined ? 'onS' : 'duty'),
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

function toneRequirement(target: ToneTarget): Requirement {
  const frequency = toneHz(target);
  if (target.toleranceCents !== undefined && target.frequencyTolerancePpm !== undefined) {
    throw new TargetError('toleranceCents', 'A tone has its tolerance either in cents or in ppm, not both.');
  }
  const band =
    target.frequencyTolerancePpm !== undefined
      ? bandPpm(frequency, target.frequencyTolerancePpm)
      : bandCents(frequency, target.toleranceCents ?? DEFAULTS.toneCents);
  const duty = exact(target.duty ?? DEFAULTS.toneDuty);
  if (duty.equals(0) || duty.equals(1))
    throw new TargetError('duty', 'A tone needs a duty between 0 and 1, without the ends.');
  return {
    frequency: { kind: 'near', ...band },
    duty: dutyBand(duty, target.dutyTolerance ?? DEFAULTS.duty, 'duty'),
    minSteps: 1,
    pin: true,
  };
}

function dimRequirement(target: DimTarget): Requirement {
  if (!Number.isInteger(target.minSteps) || target.minSteps < 1) {
    throw new TargetError(
      'minSteps',
      `minSteps must be a whole number from 1 up, and is ${target.minSteps}.`,
    );
  }
  return {
    frequency: { kind: 'min', low: positive(exact(target.minHz), 'minHz') },
    duty: dutyBand(
      exact(target.duty ?? DEFAULTS.dimDuty),
      target.dutyTolerance ?? 1 / target.minSteps,
      'duty',
    ),
    minSteps: target.minSteps,
    pin: true,
  };
}

function tickRequirement(target: TickTarget): Requirement {
  const frequency = rateOf('A tick', target);
  return {
    frequency: { kind: 'near', ...bandPpm(frequency, target.frequencyTolerancePpm ?? DEFAULTS.tickPpm) },
    duty: bandAround(exact('0.5'), exact('0.5')),
    minSteps: 1,
    pin: false,
    ...(target.jitterS === undefined ? {} : { jitterS: target.jitterS }),
  };
}

/** The target of a signal in the common form, exact. @throws TargetError with the field at fault. */
export function requirementOf(aim: Aim): Requirement {
  switch (aim.kind) {
    case 'blink':
      return blinkRequirement(aim.target);
    case 'strobe':
      return strobeRequirement(aim.target);
    case 'tone':
      return toneRequirement(aim.target);
    case 'dim':
      return dimRequirement(aim.target);
    case 'level':
      return levelRequirement(aim.target);
    case 'pulse':
      return pulseRequirement(aim.target);
    case 'tick':
      return tickRequirement(aim.target);
    case 'string':
      return stringRequirement(aim.target);
    case 'measure':
      return measureRequirement(aim.target);
  }
}
