const THIN = '\u202f';

/** Characters in groups of a size, the first of them filled up last: 15999 in threes is 15, 999. */
function groups(text: string, size: number): string[] {
  const first = text.length % size || size;
  const count = Math.ceil(text.length / size);
  return Array.from({ length: count }, (_, at) =>
    at === 0 ? text.slice(0, first) : text.slice(first + size * (at - 1), first + size * at),
  );
}

/** Digits in groups of three with a narrow space, on both sides of the point: 15 999, 0.976 562 5. */
function grouped(digits: string): string {
  const [whole = '', part] = digits.split('.');
  const left = groups(whole, 3).join(THIN);
  return part === undefined ? left : `${left}.${part.replace(/\d{3}(?=\d)/g, `$&${THIN}`)}`;
}

/** A decimal without zeros at its end, and without its point where nothing is left behind it. */
function withoutZeros(decimal: string): string {
  if (!decimal.includes('.')) return decimal;
  let end = decimal.length;
  while (decimal[end - 1] === '0') end -= 1;
  return decimal.slice(0, decimal[end - 1] === '.' ? end - 1 : end);
}

/** A number with at most the given significant digits, without trailing zeros, grouped, with a true minus sign. */
export function printNumber(value: number, significant = 6): string {
  if (!Number.isFinite(value)) return '–';
  if (value === 0) return '0';
  const places = Math.max(0, Math.min(20, significant - 1 - Math.floor(Math.log10(Math.abs(value)))));
  const size = Math.abs(value);
  // From 1e21 on toFixed would write an exponent.
  const fixed = size >= 1e21 ? BigInt(size).toString() : size.toFixed(places);
  return (value < 0 ? '−' : '') + grouped(withoutZeros(fixed));
}

const TIMES: readonly (readonly [number, string])[] = [
  [1, 's'],
  [1e-3, 'ms'],
  [1e-6, 'µs'],
  [1e-9, 'ns'],
];

const FREQUENCIES: readonly (readonly [number, string])[] = [
  [1e6, 'MHz'],
  [1e3, 'kHz'],
  [1, 'Hz'],
  [1e-3, 'mHz'],
];

function scaled(value: number, scale: readonly (readonly [number, string])[], significant: number): string {
  const smallest = scale[scale.length - 1];
  if (!smallest) return printNumber(value, significant);
  const size = Math.abs(value) * (1 + 1e-12);
  const [unit, name] =
    value === 0 ? (scale[0] ?? smallest) : (scale.find(([min]) => size >= min) ?? smallest);
  return `${printNumber(value / unit, significant)} ${name}`;
}

/** Seconds in the unit that fits: "62.5 ns", "1.5 ms", "2 s". */
export function printSeconds(seconds: number, significant = 6): string {
  return scaled(seconds, TIMES, significant);
}

/** Hz in the unit that fits, from kHz on only above 10 kHz, since a tone is said in Hz: "440 Hz", "15.625 kHz". */
export function printHz(hz: number, significant = 6): string {
  const plain = Math.abs(hz) >= 0.01 && Math.abs(hz) < 1e4;
  return plain ? `${printNumber(hz, significant)} Hz` : scaled(hz, FREQUENCIES, significant);
}

/** Parts per million with a sign; "exact" for zero: "−62.5 ppm". From one in a hundred on in percent: "−2.344 %". */
export function printPpm(ppm: number): string {
  if (ppm === 0) return 'exact';
  const sign = ppm > 0 ? '+' : '';
  if (Math.abs(ppm) >= 10000) return `${sign}${printNumber(ppm / 1e4, 4)} %`;
  return `${sign}${printNumber(ppm, 4)} ppm`;
}

/** A fraction of one in percent: 0.1 is "10 %". */
export function printPercent(share: number, significant = 6): string {
  return `${printNumber(share * 100, significant)} %`;
}

/** 0x and as many digits as the width in bits needs: hex(15999, 16) is "0x3E7F". */
export function hex(value: number, bits: number): string {
  return `0x${value
    .toString(16)
    .toUpperCase()
    .padStart(Math.ceil(bits / 4), '0')}`;
}

/** Binary in groups of four: binary(5, 8) is "0000 0101". */
export function binary(value: number, bits: number): string {
  return groups(value.toString(2).padStart(bits, '0'), 4).join(' ');
}

const PREFIXES: readonly (readonly [number, string])[] = [
  [1e6, 'M'],
  [1e3, 'k'],
  [1, ''],
  [1e-3, 'm'],
  [1e-6, 'µ'],
  [1e-9, 'n'],
  [1e-12, 'p'],
];

/** A value with its unit and the prefix that fits: "3.3 V", "4.7 kΩ", "100 nF". */
export function printUnit(value: number, unit: string, significant = 6): string {
  if (value === 0) return `0 ${unit}`;
  return scaled(
    value,
    PREFIXES.map(([size, prefix]) => [size, `${prefix}${unit}`] as const),
    significant,
  );
}

/** Counts from here on are said in millions. */
const MILLION = 1e6;

/** How many there are of something, to three digits where a million or more: "73 281", "720 million". */
export function printCount(count: number): string {
  return count < MILLION ? printNumber(count, 12) : `${printNumber(count / MILLION, 3)}\u00a0million`;
}
