import { amountOf, exact } from '../../quantity/exact.ts';
import { printHz, printNumber, printSeconds } from '../../quantity/print.ts';
import { positive } from '../band.ts';
import type { Requirement } from '../requirement.ts';
import { TargetError } from '../target-error.ts';
import { widthBand } from './common.ts';
import type { Kind } from './kind.ts';
import { makerOf, secondsText, words } from './pieces.ts';
import { FRACTION, POSITIVE, required, whole, type TargetOf } from './shape.ts';

/** Bits of one LED: eight each for three colours. */
export const BITS_OF_LED = 24;

/** Frames a second where a target does not say. */
export const FRAMES_HZ = 30;

/** The default tolerance of a width, in s. */
const TOLERANCE_S = 0.00000015;

const shape = {
  bitS: required(POSITIVE),
  zeroS: required(POSITIVE),
  oneS: required(POSITIVE),
  toleranceS: FRACTION,
  leds: required(whole(100_000)),
  frameHz: POSITIVE,
} as const;

/** Bits for a string of addressable LEDs: the time of a bit, how long a zero and a one are high, within what. */
export type StringTarget = TargetOf<typeof shape>;

/** One counter makes the width of a one and that of a zero. @throws TargetError */
function requirement(target: StringTarget): Requirement {
  const bit = positive(exact(target.bitS), 'bitS');
  const off = exact(target.toleranceS ?? TOLERANCE_S);
  const frequency = bit.inverse();
  const zero = widthBand(exact(target.zeroS), off, frequency, 'zeroS');
  if (!Number.isInteger(target.leds) || target.leds < 1) {
    throw new TargetError('leds', `leds must be a whole number, 1 or more, and is ${target.leds}.`);
  }
  return {
    frequency: { kind: 'near', ideal: frequency, low: bit.add(off).inverse(), high: bit.sub(off).inverse() },
    ...widthBand(exact(target.oneS), off, frequency, 'oneS'),
    alsoWidths: [zero.width],
    burst: {
      periods: target.leds * BITS_OF_LED,
      everyHz: target.frameHz === undefined ? FRAMES_HZ : exact(target.frameHz).valueOf(),
    },
    minSteps: 1,
    pin: true,
  };
}

const tokens: Kind<StringTarget>['tokens'] = {
  bit: { dimension: 'time', label: 'time of a bit', field: 'bitS' },
  zero: { dimension: 'time', label: 'width of a zero', field: 'zeroS' },
  one: { dimension: 'time', label: 'width of a one', field: 'oneS' },
  tolerance: { dimension: 'time', label: 'width tolerance', field: 'toleranceS', plain: true },
  leds: { dimension: 'count', label: 'number of LEDs', field: 'leds', plain: true },
};
const make = makerOf(tokens);

/** The times of the usual strings. */
const USUAL = { bitS: 0.00000125, zeroS: 0.0000004, oneS: 0.0000008 };

/** The data line of a string of addressable LEDs. */
export const ledString: Kind<StringTarget, 'string'> = {
  id: 'string',
  verb: 'sends',
  high: 'high',
  name: 'String',
  starter: {
    text: 'a string of 60 addressable LEDs',
    target: { ...USUAL, leds: 60 },
  },
  shape,
  on: 'output',
  purpose: 'bits',
  ledBits: ({ leds, bitS, frameHz }) => ({
    leds,
    bitS: exact(bitS).valueOf(),
    ...(frameHz === undefined ? {} : { frameHz: exact(frameHz).valueOf() }),
  }),
  requirement,
  tokens,
  sentence: (target) => {
    const bit = exact(target.bitS).valueOf();
    const [bitText] = secondsText(target.bitS);
    const all = printSeconds(target.leds * BITS_OF_LED * bit);
    return [
      words(' sends bits of '),
      make('bit', bitText, `${printSeconds(bit)} = ${printHz(1 / bit)}`),
      words(', high for '),
      make('zero', ...secondsText(target.zeroS, bit)),
      words(' or '),
      make('one', ...secondsText(target.oneS, bit)),
      words(' within '),
      make('tolerance', ...secondsText(target.toleranceS ?? TOLERANCE_S)),
      words(', to '),
      make('leds', printNumber(target.leds), `${target.leds} x ${BITS_OF_LED} bits = ${all} for all`),
      words(' LEDs.'),
    ];
  },
  withFrequency: (target, frequency) => ({ ...target, bitS: amountOf(frequency.inverse()) }),
  withDuty: (target, duty, frequency) => ({ ...target, oneS: amountOf(duty.div(frequency)) }),
  relaxations: ({ toleranceS: now = TOLERANCE_S }) => [
    {
      field: 'toleranceS',
      now,
      max: 2 * now,
      say: (value) => `with its bits within ±${printSeconds(value)}`,
    },
  ],
  wish: {
    rank: 0,
    says: ['addressable', 'LED strip', 'LED string'],
    is: ['strip'],
    things: ['pixel', 'LEDs'],
    suits: (facts) => facts.has('leds'),
    read: (facts) => {
      const leds = facts.number('leds', 'number', 'count');
      if (leds === undefined) return { asks: 'How many LEDs? Say for example 60 LEDs.' };
      const frameHz = facts.amount('frames a second', 'hz');
      facts.assume('bits of 1.25 µs, 0.4 µs and 0.8 µs high');
      return { target: { ...USUAL, leds, ...(frameHz === undefined ? {} : { frameHz }) } };
    },
  },
};
