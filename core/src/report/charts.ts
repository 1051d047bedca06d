import type { KnobReport } from '../evaluate/knob.ts';
import { knobText } from '../evaluate/knob-mapping.ts';
import type { Surroundings } from '../evaluate/surroundings.ts';
import type { Knob } from '../knob/knob.ts';
import { xmlText } from '../quantity/xml.ts';
import { printNumber } from '../quantity/print.ts';
import { seenAt, seenText, setText, type Readings } from '../readings/readings.ts';

const WIDTH = 640;
const HEIGHT = 150;
/** Room for the numbers at the left and below. */
const LEFT = 96;
const FLOOR = HEIGHT - 20;
const CEILING = 8;

/** Places at which a curve is computed. */
const PLACES = 120;

/** Points that a landscape shows; where there are more, evenly some. */
const MOST_POINTS = 400;

/** A number with as many digits as a drawing needs. */
function short(value: number): string {
  return String(Math.round(value * 100) / 100);
}

type Ends = { low: number; high: number };

function scaled({ low, high }: Ends, from: number, to: number): (value: number) => number {
  const span = high - low || 1;
  return (value) => from + ((value - low) / span) * (to - from);
}

function endsOf(values: readonly number[]): Ends {
  return { low: Math.min(...values), high: Math.max(...values) };
}

/** A drawing with its axes: the ends of both in words, and what it is called for those who do not see it. */
function chart(label: string, across: [string, string], up: [string, string], inside: string): string {
  const text = (x: number, y: number, anchor: string, words: string): string =>
    `<text x="${x}" y="${y}" text-anchor="${anchor}" font-size="10" fill="currentColor">${xmlText(words)}</text>`;
  return [
    `<svg viewBox="0 0 ${WIDTH} ${HEIGHT}" width="${WIDTH}" height="${HEIGHT}" role="img" aria-label="${xmlText(label)}">`,
    `<path d="M${LEFT} ${CEILING}V${FLOOR}H${WIDTH}" fill="none" stroke="currentColor" stroke-width="0.5"/>`,
    text(LEFT, HEIGHT - 6, 'start', across[0]),
    text(WIDTH, HEIGHT - 6, 'end', across[1]),
    text(LEFT - 6, FLOOR, 'end', up[0]),
    text(LEFT - 6, CEILING + 8, 'end', up[1]),
    inside,
    '</svg>',
  ].join('');
}

function path(points: readonly (readonly [number, number])[], dashed = false): string {
  if (points.length === 0) return '';
  const d = `M${points.map(([x, y]) => `${short(x)} ${short(y)}`).join('L')}`;
  return `<path d="${d}" fill="none" stroke="currentColor" stroke-width="${dashed ? 0.8 : 1.5}"${dashed ? ' stroke-dasharray="3 3"' : ''}/>`;
}

/** What was read on the bench, as points with the line that is taken between them. */
export function readingsSvg(readings: Readings): string {
  const { points, of } = readings;
  const sets = endsOf(points.map(({ set }) => set));
  const places = Array.from(
    { length: PLACES + 1 },
    (_, at) => sets.low + ((sets.high - sets.low) * at) / PLACES,
  );
  const curve = places.map((set) => seenAt(readings, set));
  const seen = endsOf([...curve, ...points.map((one) => one.seen)]);
  const x = scaled(sets, LEFT, WIDTH - 6);
  const y = scaled(seen, FLOOR - 4, CEILING + 4);
  const dots = points.map(
    (one) =>
      `<circle cx="${short(x(one.set))}" cy="${short(y(one.seen))}" r="3" fill="none" stroke="currentColor"/>`,
  );
  return chart(
    'What was seen for what was set',
    [setText(of, sets.low), setText(of, sets.high)],
    [seenText(readings, seen.low), seenText(readings, seen.high)],
    [path(places.map((set, at) => [x(set), y(curve[at] ?? 0)])), ...dots].join(''),
  );
}

/** What a knob gives over its turn: what is made, and dashed what its curve asks for. */
export function knobSvg({ sets }: Knob, { readings, wanted, made }: KnobReport): string {
  const step = Math.max(1, Math.floor(readings.length / PLACES));
  const kept = readings.flatMap((reading, at) =>
    at % step === 0 || at === readings.length - 1
      ? [{ reading, wanted: wanted[at] ?? 0, made: made[at] }]
      : [],
  );
  const values = endsOf(kept.flatMap((one) => [one.wanted, ...(one.made === undefined ? [] : [one.made])]));
  const turn = endsOf(kept.map(({ reading }) => reading));
  const x = scaled(turn, LEFT, WIDTH - 6);
  const y = scaled(values, FLOOR - 4, CEILING + 4);
  return chart(
    'What each reading of the knob gives',
    [`reading ${printNumber(turn.low)}`, `reading ${printNumber(turn.high)}`],
    [knobText(sets, values.low), knobText(sets, values.high)],
    [
      path(
        kept.map((one) => [x(one.reading), y(one.wanted)]),
        true,
      ),
      path(kept.flatMap((one) => (one.made === undefined ? [] : [[x(one.reading), y(one.made)] as const]))),
    ].join(''),
  );
}

/** The settings that were found for a signal: resolution across, error or frequency up, the chosen one filled. */
export function landscapeSvg(
  { landscape: { points, height } }: Surroundings,
  chosen: { bits: number; height: number },
): string {
  const step = Math.ceil(points.length / MOST_POINTS);
  const shown = points.filter((point, at) => at % step === 0 || point.front);
  // Exact ones lie on the floor: their error has no logarithm.
  const decade = (value: number): number => Math.log10(Math.max(value, 0.01));
  const all = [...shown.map((point) => ({ bits: point.bits, height: point.height })), chosen];
  const bits = { low: 0, high: Math.max(1, ...all.map((one) => one.bits)) };
  const heights = endsOf(all.map((one) => decade(one.height)));
  const x = scaled(bits, LEFT + 4, WIDTH - 8);
  const y = scaled(heights, FLOOR - 4, CEILING + 4);
  const unit = height === 'error' ? 'ppm off' : 'Hz';
  const words = (value: number): string =>
    height === 'error' && value <= -2 ? 'exact' : `${printNumber(10 ** value, 3)} ${unit}`;
  const dots = shown.map(
    (point) =>
      `<circle cx="${short(x(point.bits))}" cy="${short(y(decade(point.height)))}" r="2" fill="${point.meets ? 'currentColor' : 'none'}" fill-opacity="0.35" stroke="currentColor" stroke-opacity="${point.meets ? 0.6 : 0.25}" stroke-width="0.8"/>`,
  );
  return chart(
    'Settings by resolution and error',
    ['0 bit', `${printNumber(bits.high, 3)} bit`],
    [words(heights.low), words(heights.high)],
    [
      ...dots,
      `<circle cx="${short(x(chosen.bits))}" cy="${short(y(decade(chosen.height)))}" r="5" fill="currentColor"/>`,
    ].join(''),
  );
}
