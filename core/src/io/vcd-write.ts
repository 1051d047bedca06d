import { moments, unitFor, type Lane } from '../wave/merge.ts';
import { plainLine, uniqueNames } from '../quantity/words.ts';

/** Characters collected before they are handed on. */
const PIECE = 65_536;

const NAMES: readonly (readonly [number, string])[] = [
  [1, 's'],
  [1e3, 'ms'],
  [1e6, 'us'],
  [1e9, 'ns'],
  [1e12, 'ps'],
  [1e15, 'fs'],
];

function timescale(unitHz: number): string {
  const [per, name] = NAMES.find(([hz]) => hz >= unitHz) ?? [1e15, 'fs'];
  return `${per / unitHz} ${name}`;
}

/** Short codes from printable characters: ! to ~, then two of them and more. */
export function vcdCode(index: number): string {
  let code = '';
  for (let rest = index; ; rest = Math.floor(rest / 94) - 1) {
    code = String.fromCharCode(33 + (rest % 94)) + code;
    if (rest < 94) return code;
  }
}

/**
 * What wires are called: words without spaces and control characters that differ from each other. A word that begins with $
 * would be a keyword, and brackets at its end would be the numbers of its bits.
 */
export function vcdNames(names: readonly string[]): string[] {
  const words = names.map((name) => {
    const word = plainLine(name).replace(/ /g, '_').replace(/\[/g, '(').replace(/\]/g, ')');
    return word.startsWith('$') || word === '' ? `_${word.slice(1)}` : word;
  });
  return uniqueNames(words, '_');
}

/**
 * Lanes as a VCD file (IEEE 1364), from the start to a time in s, in pieces of text. The same lanes give the same bytes:
 * no date is written.
 */
export function* writeVcd(lanes: readonly Lane[], seconds: number): Generator<string> {
  const unitHz = unitFor(lanes, seconds);
  const codes = lanes.map((_, at) => vcdCode(at));
  const names = vcdNames(lanes.map(({ name }) => name));
  let text = [
    '$version herzschlag $end',
    `$timescale ${timescale(unitHz)} $end`,
    '$scope module plan $end',
    ...names.map((name, at) => `$var wire 1 ${codes[at]} ${name} $end`),
    '$upscope $end',
    '$enddefinitions $end',
    '#0',
    '$dumpvars',
    ...codes.map((code) => `0${code}`),
    '$end',
    '',
  ].join('\n');
  let last = 0;
  for (const { time, changes } of moments(lanes, unitHz, seconds)) {
    if (time !== last) text += `#${time}\n`;
    last = time;
    for (const { signal, level } of changes) text += `${level}${codes[signal]}\n`;
    if (text.length < PIECE) continue;
    yield text;
    text = '';
  }
  const end = Math.round(seconds * unitHz);
  if (end > last) text += `#${end}\n`;
  yield text;
}
