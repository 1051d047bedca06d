import type { Dimension } from '../../quantity/quantity.ts';

/** What a number in a wish is a number of. */
export type UnitDimension =
  | Extract<Dimension, 'frequency' | 'time' | 'duty' | 'tolerance' | 'steps' | 'volts' | 'ohms' | 'farads'>
  | 'angle'
  | 'leds'
  | 'images'
  | 'pulses a turn'
  | 'frames a second';

/** A unit: what it measures, and how `parseQuantity` knows it. */
export type Unit = { of: UnitDimension; as: string };

const unit = (of: UnitDimension, as: string, ...words: string[]): [string, Unit][] =>
  [as, ...words].map((word) => [word, { of, as }]);

/** Units by what people write, upper and lower case as they stand; looked for in lower case where that fails. */
const UNITS = new Map<string, Unit>([
  ...unit('frequency', 'Hz', 'hz', 'hertz', 'herz'),
  ...unit('frequency', 'kHz', 'khz', 'kilohertz'),
  ...unit('frequency', 'MHz', 'mhz', 'megahertz'),
  ...unit('frequency', 'mHz', 'millihertz'),
  ...unit('frequency', 'rpm', 'bpm', 'u/min'),
  ...unit('time', 'ns', 'nanosecond', 'nanoseconds'),
  ...unit('time', 'µs', 'μs', 'us', 'usec', 'microsecond', 'microseconds'),
  ...unit('time', 'ms', 'msec', 'millisecond', 'milliseconds', 'millis'),
  ...unit('time', 's', 'sec', 'secs', 'second', 'seconds'),
  ...unit('time', 'min', 'mins', 'minute', 'minutes'),
  ...unit('time', 'h', 'hour', 'hours'),
  ...unit('duty', '%', 'percent', 'per cent', 'pct'),
  ...unit('tolerance', 'ppm'),
  ...unit('tolerance', '‰'),
  ...unit('tolerance', 'cents', 'cent', 'c', 'ct'),
  ...unit('steps', 'bit', 'bits'),
  ...unit('steps', 'steps', 'step', 'counts'),
  ...unit('volts', 'V', 'v', 'volt', 'volts'),
  ...unit('volts', 'mV', 'mv', 'millivolt', 'millivolts'),
  ...unit('ohms', 'Ω', 'Ω', 'ohm', 'ohms', 'R'),
  ...unit('ohms', 'kΩ', 'k', 'K', 'kohm', 'kohms', 'kiloohm', 'kilohm'),
  ...unit('farads', 'pF', 'pf', 'picofarad'),
  ...unit('farads', 'nF', 'nf', 'n', 'nanofarad'),
  ...unit('farads', 'µF', 'μF', 'uF', 'uf', 'µf', 'u', 'microfarad'),
  ...unit('angle', '°', 'deg', 'degree', 'degrees'),
  ...unit('leds', 'LEDs', 'leds', 'pixel', 'pixels'),
  ...unit('images', 'images', 'image', 'blades', 'marks', 'spokes'),
  ...unit('pulses a turn', 'pulses per turn', 'pulses a turn', 'pulses per revolution', 'pulses per rev'),
  ...unit('frames a second', 'fps', 'frames per second', 'frames a second'),
]);

/** The unit of some words: "kHz", "milliseconds", "%". Undefined where they name none. */
export function unitNamed(words: string): Unit | undefined {
  return UNITS.get(words) ?? UNITS.get(words.toLowerCase());
}

/** The most words that a unit has. */
export const LONGEST_UNIT = 3;

const NUMBERS = new Map<string, number>(
  [
    'zero one two three four five six seven eight nine ten eleven twelve'
      .split(' ')
      .map((word, at): [string, number] => [word, at]),
    [
      ['twenty', 20] as [string, number],
      ['thirty', 30] as [string, number],
      ['fifty', 50] as [string, number],
      ['hundred', 100] as [string, number],
    ],
  ].flat(),
);

/** The value of a number that is written out: "three". */
export function numberNamed(word: string): number | undefined {
  return NUMBERS.get(word.toLowerCase());
}

const PARTS = new Map([
  ['half', '1/2'],
  ['halves', '1/2'],
  ['third', '1/3'],
  ['thirds', '1/3'],
  ['quarter', '1/4'],
  ['quarters', '1/4'],
  ['tenth', '1/10'],
]);

/** The value of a part that is written out: "third" is 1/3. */
export function partNamed(word: string): string | undefined {
  return PARTS.get(word.toLowerCase());
}

const TIMES = new Map([
  ['once', 1],
  ['twice', 2],
  ['thrice', 3],
]);

/** How often, in one word: "twice" is 2. */
export function timesNamed(word: string): number | undefined {
  return TIMES.get(word.toLowerCase());
}
