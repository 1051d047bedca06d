import { amountOf, exact, type Exact } from '../../quantity/exact.ts';
import { centsFactor, readNote } from '../../quantity/note.ts';
import { printHz, printNumber } from '../../quantity/print.ts';
import { bandCents, bandPpm, dutyBand, positive } from '../band.ts';
import type { Requirement } from '../requirement.ts';
import type { Sequence } from '../sequence.ts';
import { TargetError } from '../target-error.ts';
import { DUTY_TOLERANCE, easedPpm, without } from './common.ts';
import type { Kind, Typed } from './kind.ts';
import {
  bandAlso,
  dutyText,
  frequencyAlso,
  makerOf,
  relaxDuty,
  relaxPpm,
  toleranceText,
  wantedHz,
  words,
} from './pieces.ts';
import { FRACTION, POSITIVE, PPM, SHARE, type TargetOf } from './shape.ts';
import { morseIn, roundsIn, stretches } from '../wish/stretched.ts';
import type { Facts } from '../wish/facts.ts';
import type { Wished } from './wish.ts';

const TOLERANCE_CENTS = 5;

/** The same in ppm of a frequency, rounded down. */
const TOLERANCE_PPM = Math.floor((centsFactor(TOLERANCE_CENTS) - 1) * 1e6);

const shape = {
  frequencyHz: POSITIVE,
  note: { type: 'text', max: 12 },
  cents: { type: 'number', min: -1200, max: 1200 },
  toleranceCents: { type: 'number', min: 0, max: 1200 },
  frequencyTolerancePpm: PPM,
  duty: SHARE,
  dutyTolerance: FRACTION,
} as const;

/** Sounds: a frequency or a note with cents, and a tolerance in cents or ppm. */
export type ToneTarget = TargetOf<typeof shape>;

/** A tone's frequency: said in Hz, or as a note with cents. */
function toneHz(target: ToneTarget): Exact {
  if ((target.frequencyHz === undefined) === (target.note === undefined)) {
    throw new TargetError('frequencyHz', 'A tone has either frequencyHz or note.');
  }
  if (target.frequencyHz !== undefined) return positive(exact(target.frequencyHz), 'frequencyHz');
  const note = readNote(target.note ?? '');
  if (!note)
    throw new TargetError('note', `note “${target.note}” is not a note; use for example A4, C#5 or Bb3.`);
  return exact(note.hz * centsFactor(target.cents ?? 0));
}

function requirement(target: ToneTarget): Requirement {
  const frequency = toneHz(target);
  if (target.toleranceCents !== undefined && target.frequencyTolerancePpm !== undefined) {
    throw new TargetError('toleranceCents', 'A tone has its tolerance either in cents or in ppm, not both.');
  }
  const band =
    target.frequencyTolerancePpm !== undefined
      ? bandPpm(frequency, target.frequencyTolerancePpm)
      : bandCents(frequency, target.toleranceCents ?? TOLERANCE_CENTS);
  const duty = exact(target.duty ?? '0.5');
  if (duty.equals(0) || duty.equals(1))
    throw new TargetError('duty', 'A tone needs a duty between 0 and 1, exclusive.');
  return {
    frequency: { kind: 'near', ...band },
    duty: dutyBand(duty, target.dutyTolerance ?? DUTY_TOLERANCE, 'duty'),
    minSteps: 1,
    pin: true,
  };
}

/** A note stays a note, anything else becomes a frequency. */
function withPitch(target: ToneTarget, { value, said, text }: Typed): ToneTarget {
  const rest = without(target, 'note', 'cents', 'frequencyHz');
  const note = said === 'note' ? readNote(text) : undefined;
  if (!note) return { ...rest, frequencyHz: amountOf(value) };
  const name = text.trim().split(/\s|[+−-](?=\s*\d+\s*c)/)[0] ?? '';
  const named = name.charAt(0).toUpperCase() + name.slice(1);
  return { ...rest, note: named, ...(note.cents !== 0 ? { cents: note.cents } : {}) };
}

const tokens: Kind<ToneTarget>['tokens'] = {
  frequency: {
    dimension: 'frequency',
    label: 'frequency',
    stepped: 'frequency',
    says: ['frequencyHz'],
    set: withPitch,
  },
  tolerance: {
    dimension: 'tolerance',
    label: 'frequency tolerance',
    says: ['toleranceCents', 'frequencyTolerancePpm'],
    set: (target, { value, said, spoken }) => {
      const rest = without(target, 'toleranceCents', 'frequencyTolerancePpm');
      return said === 'cents'
        ? { ...rest, toleranceCents: spoken }
        : { ...rest, frequencyTolerancePpm: value.valueOf() };
    },
  },
  duty: {
    dimension: 'duty',
    label: 'duty',
    stepped: 'duty',
    set: (target, { value }) =>
      value.equals(0) || value.equals(1)
        ? 'A tone needs a duty between 0 % and 100 %, exclusive.'
        : { ...target, duty: amountOf(value) },
  },
};
const make = makerOf(tokens);

/** The pitch as it was said: "A4 +12 c", or in Hz. */
function pitchText(target: ToneTarget, hz: number): string {
  if (target.note === undefined) return printHz(hz);
  const { cents = 0 } = target;
  const off = cents === 0 ? '' : ` ${cents > 0 ? '+' : '−'}${Math.abs(cents)} c`;
  return `${target.note}${off}`;
}

const USUAL_HZ = 2000;

/** The pitch of a wish: a note, a frequency, or the lower end of a sweep. */
function pitchIn(facts: Facts): { target: ToneTarget; sequence?: Sequence } {
  const said = facts.take('note')?.said;
  const note = said === undefined ? undefined : readNote(said);
  if (said !== undefined && note) {
    const name = said.split(' ')[0] ?? said;
    return { target: { note: name, ...(note.cents !== 0 ? { cents: note.cents } : {}) } };
  }
  const sweep = facts.has('during') ? facts.span('hz span') : undefined;
  if (sweep) {
    const forS = facts.amount('during') ?? 1;
    const [frequencyHz, toHz] = sweep;
    return { target: { frequencyHz }, sequence: { steps: [{ frequencyHz, toHz, forS }] } };
  }
  const frequencyHz = facts.amount('hz');
  if (frequencyHz === undefined) facts.assume('2 kHz');
  return { target: { frequencyHz: frequencyHz ?? USUAL_HZ } };
}

/** A tolerance in cents where it was said in cents, else in ppm. */
function toleranceIn(facts: Facts): Pick<ToneTarget, 'toleranceCents' | 'frequencyTolerancePpm'> {
  const within = facts.take('within');
  if (!within) return {};
  return within.said === 'cents'
    ? { toleranceCents: within.spoken }
    : { frequencyTolerancePpm: within.value.valueOf() };
}

/** Whether a frequency is said that people hear. */
function heard(facts: Facts): boolean {
  const hz = facts.see('hz')?.value.valueOf() ?? 0;
  return hz > 60 && hz < 20_000;
}

function wished(facts: Facts): Wished<ToneTarget> {
  const pitch = pitchIn(facts);
  const duty = facts.amount('share');
  const target = { ...pitch.target, ...(duty === undefined ? {} : { duty }), ...toleranceIn(facts) };
  if (pitch.sequence) return { target, sequence: pitch.sequence };
  const morse = morseIn(facts);
  if (morse) {
    return 'asks' in morse
      ? morse
      : { target, sequence: stretches(morse.marks, morse.dotS, (forS) => ({ forS: amountOf(forS) })) };
  }
  const rounds = roundsIn(facts);
  if (rounds && 'asks' in rounds) return rounds;
  return rounds ? { target, sequence: rounds } : { target };
}

/** A buzzer or a speaker that sounds. */
export const tone: Kind<ToneTarget, 'tone'> = {
  id: 'tone',
  verb: 'sounds',
  high: 'high',
  name: 'Buzzer',
  starter: { text: 'a buzzer that sounds at A4', target: { note: 'A4', toleranceCents: 5 } },
  shape,
  on: 'output',
  purpose: 'sound',
  knob: { sets: 'frequency' },
  readings: { of: 'frequency', unit: 'Hz' },
  sounds: true,
  requirement,
  tokens,
  sentence: (target) => {
    const required = requirement(target);
    const hz = wantedHz(required).valueOf();
    const tolerance =
      target.frequencyTolerancePpm === undefined
        ? `${printNumber(target.toleranceCents ?? TOLERANCE_CENTS)} c`
        : toleranceText(target.frequencyTolerancePpm);
    return [
      words(' sounds '),
      make('frequency', pitchText(target, hz), frequencyAlso(hz, 'note')),
      words(' within '),
      make('tolerance', tolerance, bandAlso(tolerance, required)),
      words(', high for '),
      make('duty', ...dutyText(required)),
      words(' of the time.'),
    ];
  },
  withFrequency: (target, frequency) => ({
    ...without(target, 'note', 'cents'),
    frequencyHz: amountOf(frequency),
  }),
  withDuty: (target, duty) =>
    duty.equals(0) || duty.equals(1) ? undefined : { ...target, duty: amountOf(duty) },
  // A note is to be in tune; a pitch said in Hz is only to be heard.
  eased: (target, oscillatorPpm) =>
    target.frequencyHz === undefined || target.toleranceCents !== undefined
      ? target
      : easedPpm(target, TOLERANCE_PPM, oscillatorPpm),
  relaxations: (target) => [
    target.frequencyTolerancePpm !== undefined
      ? relaxPpm('frequencyTolerancePpm', target.frequencyTolerancePpm)
      : {
          field: 'toleranceCents',
          now: target.toleranceCents ?? TOLERANCE_CENTS,
          max: 200,
          say: (value) => `within ±${printNumber(value)} c`,
        },
    relaxDuty(target.dutyTolerance ?? DUTY_TOLERANCE),
  ],
  wish: {
    rank: 5,
    says: ['beep', 'sound', 'buzz', 'tone', 'hum', 'ring', 'whistle', 'sing', 'play', 'chirp'],
    things: [
      'buzzer',
      'speaker',
      'horn',
      'chime',
      'alarm',
      'piezo',
      'siren',
      'bell',
      'sounder',
      'loudspeaker',
      'beeper',
    ],
    suits: (facts) => facts.has('morse') || facts.has('note') || (heard(facts) && !facts.has('share')),
    read: wished,
  },
};
