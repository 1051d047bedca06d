import { exact, type Exact } from '../quantity/exact.ts';
import { centsFactor, readNote } from '../quantity/note.ts';
import type { Aim, Amount, BlinkTarget, DimTarget, TickTarget, ToneTarget } from './signal.ts';

/** A wanted value with the least and the greatest that still will do. */
export type Band = { ideal: Exact; low: Exact; high: Exact };

/**
 * A target of any kind, in one form: a frequency to be near to or not to fall below (Hz), a duty (fraction of one) and
 * the least number of duty steps.
 */
export type Goal = {
  frequency: ({ kind: 'near' } & Band) | { kind: 'least'; low: Exact };
  duty: Band;
  minSteps: number;
  /** Whether it is for a pin; a tick is for the processor alone. */
  pin: boolean;
  /** The most an edge or a tick may stand off its mean place, in s. */
  jitterS?: number;
};

/** Thrown when a target cannot be understood; `key` is the field at fault. */
export class TargetError extends Error {
  readonly key: string;
  constructor(key: string, message: string) {
    super(message);
    this.key = key;
  }
}

/** What holds where a target gives no tolerance of its own. */
export const STANDARD = {
  blinkPpm: 10000,
  tickPpm: 1000,
  toneCents: 5,
  duty: 0.01,
  blinkDuty: '0.5',
  toneDuty: '0.5',
  dimDuty: '0.5',
};

const MILLION = 1000000;

function positive(value: Exact, key: string): Exact {
  if (value.compare(0) > 0) return value;
  throw new TargetError(key, `${key} must be above zero, and is ${value.toString()}.`);
}

function bandPpm(ideal: Exact, ppm: number): Band {
  const part = ideal.mul(exact(ppm)).div(MILLION);
  return { ideal, low: ideal.sub(part), high: ideal.add(part) };
}

function bandCents(ideal: Exact, cents: number): Band {
  const factor = exact(centsFactor(cents));
  return { ideal, low: ideal.div(factor), high: ideal.mul(factor) };
}

/** 0 % and 100 % mean off and on: there a pulse in each period is a miss, whatever the tolerance. */
function dutyBand(ideal: Exact, tolerance: number, key: string): Band {
  if (ideal.compare(0) < 0 || ideal.compare(1) > 0) {
    throw new TargetError(key, `${key} must lie between 0 and 1, and is ${ideal.toString()}.`);
  }
  if (ideal.equals(0) || ideal.equals(1)) return { ideal, low: ideal, high: ideal };
  const low = ideal.sub(exact(tolerance));
  const high = ideal.add(exact(tolerance));
  return { ideal, low: low.compare(0) < 0 ? exact(0) : low, high: high.compare(1) > 0 ? exact(1) : high };
}

/** A frequency said as such or as a period. */
function rateOf(what: string, { frequencyHz, periodS }: { frequencyHz?: Amount; periodS?: Amount }): Exact {
  if ((frequencyHz === undefined) === (periodS === undefined)) {
    throw new TargetError('frequencyHz', `${what} has either frequencyHz or periodS.`);
  }
  return frequencyHz !== undefined
    ? positive(exact(frequencyHz), 'frequencyHz')
    : exact(1).div(positive(exact(periodS ?? 1), 'periodS'));
}

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
  const half = exact('0.5');
  return {
    frequency: { kind: 'near', ...bandPpm(frequency, target.frequencyTolerancePpm ?? STANDARD.tickPpm) },
    duty: { ideal: half, low: exact(0), high: exact(1) },
    minSteps: 1,
    pin: false,
    ...(target.jitterS === undefined ? {} : { jitterS: target.jitterS }),
  };
}

/** The target of a signal in the common form, exact. @throws TargetError with the field at fault. */
export function goalOf(aim: Aim): Goal {
  if (aim.kind === 'blink') return blinkGoal(aim.target);
  if (aim.kind === 'tone') return toneGoal(aim.target);
  if (aim.kind === 'tick') return tickGoal(aim.target);
  return dimGoal(aim.target);
}
