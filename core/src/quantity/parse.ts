import { failed, succeeded } from '../result/result.ts';
import { centsFactor, readNote } from './note.ts';
import { exact, type Exact } from './exact.ts';
import type { Dimension, ReadQuantity } from './quantity.ts';
import { readScaled, type Scale } from './scaled.ts';
import { singleSpaced } from './words.ts';

const PREFIX = new Map<string, Exact>([
  ['', exact(1)],
  ['k', exact(1000)],
  ['K', exact(1000)],
  ['M', exact(1000000)],
  ['m', exact('0.001')],
  ['u', exact('0.000001')],
  ['µ', exact('0.000001')],
  ['μ', exact('0.000001')],
  ['n', exact('0.000000001')],
  ['p', exact('0.000000000001')],
]);

/** The number that an entry begins with; what follows is its unit. */
const NUMBER =
  /^[+-]?(?:\d+\/\d+|\d+(?:[ _]\d{3})*(?:[.,](?:\d{3}[ _](?=\d))*\d*)?(?:e[+-]?\d{1,4})?|[.,]\d+(?:e[+-]?\d{1,4})?)/i;

const FRACTION = /^[+-]?\d+\/\d+$/;

/** No quantity of this trade is farther from one than this, either way; beyond it numbers would lose their exactness. */
const LARGEST = 1e30;

/** The examples a person is shown when an entry of this dimension is not understood. */
export const EXAMPLES: Record<Dimension, string> = {
  frequency: '2 kHz, 1.5 ms, 300 rpm or A4',
  duty: '10 %, 15/1024, 50 or 1.2 V of 3.3 V',
  tolerance: '0.2 %, 300 ppm or 5 c',
  dutyTolerance: '1 % or 1/255',
  steps: '1000 or 10 bit',
  time: '1.5 ms or 20 µs',
  volts: '3.3 V or 50 mV',
  ohms: '4.7 kΩ or 220 ohm',
  farads: '100 nF or 1 µF',
  henries: '2 mH or 470 µH',
  amps: '20 mA or 1.5 A',
  degrees: '90°',
  number: '12.5',
  count: '60',
};

/** No number and its unit take more characters than this. */
const LONGEST_NUMBER = 200;

function no(text: string, dimension: Dimension): ReadQuantity {
  return failed(`“${text}” is not understood here; say for example ${EXAMPLES[dimension]}.`);
}

function split(text: string): { value: Exact; unit: string } | undefined {
  const number = NUMBER.exec(text)?.[0];
  if (number === undefined || /\/0+$/.test(number)) return undefined;
  const digits = number.replace(/[ _]/g, '').replace(',', '.');
  return { value: exact(digits), unit: text.slice(number.length).trim() };
}

function prefixed(unit: string, base: string): Exact | undefined {
  return unit.endsWith(base) ? PREFIX.get(unit.slice(0, unit.length - base.length)) : undefined;
}

type Unit = (value: Exact, unit: string) => { value: Exact; said: string } | undefined;

const frequency: Unit = (value, unit) => {
  const hertz =
    prefixed(unit.replace(/hz$/i, 'Hz'), 'Hz') ?? (/^[kKM]?$/.test(unit) ? PREFIX.get(unit) : undefined);
  if (hertz) return { value: value.mul(hertz), said: 'Hz' };
  if (/^(rpm|min-1|\/min|1\/min)$/i.test(unit)) return { value: value.div(60), said: 'rpm' };
  const seconds =
    prefixed(unit, 's') ?? (unit === 'min' ? exact(60) : unit === 'h' ? exact(3600) : undefined);
  if (seconds && value.compare(0) > 0) return { value: exact(1).div(value.mul(seconds)), said: 's' };
  return undefined;
};

const duty: Unit = (value, unit) => {
  return unit === '%' || unit === '' ? { value: value.div(100), said: '%' } : undefined;
};

const tolerance: Unit = (value, unit) => {
  if (unit === '%' || unit === '') return { value: value.mul(10000), said: '%' };
  if (unit === '‰') return { value: value.mul(1000), said: '‰' };
  if (/^ppm$/i.test(unit)) return { value, said: 'ppm' };
  if (/^(c|ct|cents?)$/i.test(unit)) {
    return { value: exact((Math.min(centsFactor(value.valueOf()), 1e30) - 1) * 1e6), said: 'cents' };
  }
  return undefined;
};

const steps: Unit = (value, unit) => {
  if (/^(|steps?|counts?)$/i.test(unit)) return { value, said: 'steps' };
  if (/^bits?$/i.test(unit) && value.d === 1n && value.compare(32) <= 0) {
    return { value: exact(2 ** value.valueOf()), said: 'bit' };
  }
  return undefined;
};

const time: Unit = (value, unit) => {
  const seconds = prefixed(unit, 's') ?? (unit === 'min' ? exact(60) : undefined);
  return seconds ? { value: value.mul(seconds), said: 's' } : undefined;
};

const volts: Unit = (value, unit) => {
  const factor = unit === '' ? exact(1) : prefixed(unit.replace(/v$/, 'V'), 'V');
  return factor ? { value: value.mul(factor), said: 'V' } : undefined;
};

const ohms: Unit = (value, unit) => {
  const plain = unit.replace(/(Ω|Ω|ohms?|R)$/i, '').trim();
  const factor = PREFIX.get(plain);
  return factor ? { value: value.mul(factor), said: 'Ω' } : undefined;
};

const farads: Unit = (value, unit) => {
  const factor = prefixed(unit.replace(/f$/, 'F'), 'F') ?? (unit === '' ? undefined : PREFIX.get(unit));
  return factor ? { value: value.mul(factor), said: 'F' } : undefined;
};

const henries: Unit = (value, unit) => {
  const factor = prefixed(unit.replace(/h$/, 'H'), 'H');
  return factor ? { value: value.mul(factor), said: 'H' } : undefined;
};

const amps: Unit = (value, unit) => {
  const factor = unit === '' ? exact(1) : prefixed(unit.replace(/a$/, 'A'), 'A');
  return factor ? { value: value.mul(factor), said: 'A' } : undefined;
};

const degrees: Unit = (value, unit) => (/^(°|deg|degrees?|)$/i.test(unit) ? { value, said: '°' } : undefined);

const number: Unit = (value, unit) => (unit === '' ? { value, said: 'number' } : undefined);

const count: Unit = (value, unit) => (unit === '' && value.d === 1n ? { value, said: 'count' } : undefined);

const UNITS: Record<Dimension, Unit> = {
  frequency,
  duty,
  tolerance,
  dutyTolerance: duty,
  steps,
  time,
  volts,
  ohms,
  farads,
  henries,
  amps,
  degrees,
  number,
  count,
};

/** What cannot be zero or less, with what it is called. */
const ABOVE_ZERO: Partial<Record<Dimension, string>> = {
  frequency: 'frequency',
  time: 'duration',
  ohms: 'resistance',
  farads: 'capacitance',
  henries: 'inductance',
  amps: 'current',
  count: 'number of things',
};

function limits(value: Exact, dimension: Dimension, text: string): string | undefined {
  if (dimension === 'duty' && (value.compare(0) < 0 || value.compare(1) > 0)) {
    return `A duty lies between 0 % and 100 %; “${text}” does not.`;
  }
  if (dimension === 'steps' && (value.d !== 1n || value.compare(1) < 0)) {
    return `Steps are whole numbers, 1 or more; “${text}” is not a whole number.`;
  }
  if ((dimension === 'tolerance' || dimension === 'dutyTolerance') && value.compare(0) < 0) {
    return `A tolerance is not negative; “${text}” is.`;
  }
  const called = ABOVE_ZERO[dimension];
  if (called !== undefined && value.compare(0) <= 0) {
    return `“${text}” is not above zero, so it is no ${called}.`;
  }
  if (dimension === 'volts' && value.compare(0) < 0) return `“${text}” is below zero volts.`;
  return undefined;
}

/**
 * Reads what a person types: "2 kHz", "1.5 ms" (as a period), "300 rpm", "A4 +12 c", "15/1024", "10 %", "12 bit".
 * Base units: frequency Hz, duty and dutyTolerance a fraction of 1, tolerance ppm, steps a count, time s.
 * A bare number takes the unit the field shows: Hz, %, %, steps; a bare fraction n/N of a duty is that fraction.
 * Against a `scale` also "217 counts", "90°" of a window, and always "1.2 V of 3.3 V" as a duty.
 * A comma may be the decimal sign. Never throws: what is not understood comes back as a sentence.
 */
export function parseQuantity(entry: string, dimension: Dimension, scale: Scale = {}): ReadQuantity {
  const shown = singleSpaced(entry.slice(0, 80)).slice(0, 40);
  if (entry.length > LONGEST_NUMBER) return no(shown, dimension);
  const text = singleSpaced(entry);
  const scaled = readScaled(text, dimension, scale);
  if (scaled) return scaled;
  const note = dimension === 'frequency' ? readNote(text) : undefined;
  if (note) return succeeded({ value: exact(note.hz), said: 'note', spoken: note.hz });
  const parts = split(text);
  if (!parts) return no(shown, dimension);
  const bareFraction = FRACTION.test(text) && (dimension === 'duty' || dimension === 'dutyTolerance');
  const reading = bareFraction
    ? { value: parts.value, said: 'n/N' }
    : UNITS[dimension](parts.value, parts.unit);
  if (!reading) return no(shown, dimension);
  // Compared as plain numbers, so that the largest one is still read after it was rounded to one.
  const size = Math.abs(reading.value.valueOf());
  if (size > LARGEST || (reading.value.compare(0) !== 0 && size < 1 / LARGEST)) {
    return failed(`“${shown}” is too ${size > 1 ? 'large' : 'small'} to be used.`);
  }
  const wrong = limits(reading.value, dimension, shown);
  return wrong ? failed(wrong) : succeeded({ ...reading, spoken: parts.value.valueOf() });
}
