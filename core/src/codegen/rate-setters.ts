import { plainWrites } from '../timer/fields.ts';
import { unsignedFor } from '../program/step.ts';
import type { KnobCode } from '../program/signal.ts';
import { clockOf, type ClockPath } from '../clock/path.ts';
import { steadyComment, steadyLines } from './knob-steady.ts';
import { tablesOf } from '../part/tables.ts';
import type { Part, Writes } from '../part/types.ts';
import { canMoveRate } from '../program/moving.ts';
import { exact, ratio, type Exact } from '../quantity/exact.ts';
import type { Ends } from '../signal/requirement.ts';
import { countsOf } from '../timer/count.ts';
import { isToggled, runsOf, type Resolved } from '../timer/drives/index.ts';
import { topRange } from '../timer/setting.ts';
import { knobFunction } from '../knob/arithmetic.ts';
import { registerName } from '../part/register-names.ts';
import { canExclude, changes, keptTogether, variableStores } from './statement.ts';

/** Fewer counts than these in a run are too coarse a step of the frequency. */
export const FEWEST_COUNTS = 50;

/** Slower signals are set by their period. */
const SLOW_HZ = 20;

/** Values beyond this do not fit a type of 32 bits. */
const LARGEST = 2 ** 32;

/** How a frequency becomes a top: counts = `counts` / Hz, or `counts` x ms, and the top is `shift` less. */
export type RateRange = {
  unit: 'hz' | 'millihertz' | 'period_ms' | 'period_us';
  /** What it is, in words. */
  what: string;
  counts: Exact;
  shift: number;
  min: number;
  max: number;
};

/** Where the top goes while the timer runs, if the mode has one that can be set. */
function topWrites({ mode }: Resolved): Writes | undefined {
  const { top } = mode;
  if (top.kind === 'register') return top.running ?? top.writes;
  return top.kind === 'channel' ? top.writes : undefined;
}

/** Units of a rate: how many of them are one of its basic unit, and the words for it. */
const UNITS = {
  hz: { per: 1, what: 'frequency in Hz' },
  millihertz: { per: 1000, what: 'frequency in mHz' },
  period_ms: { per: 1000, what: 'period in ms' },
  period_us: { per: 1_000_000, what: 'period in us' },
} as const satisfies Record<RateRange['unit'], object>;

/** A step of a unit coarser than this share of the rate wants a finer unit beside it. */
const COARSE = 1000;

/**
 * How a frequency follows from the tops of a mode: f = clock / (prescaler x runs x (counts of a run)), with the counts
 * either top + base or twice that. A span of frequencies bounds it.
 */
function rangeIn(
  path: ClockPath,
  { mode, timer, division, setting }: Resolved,
  unit: RateRange['unit'],
  span: Ends | undefined,
): RateRange[] {
  const { min, max } = topRange(mode);
  const slope = countsOf(mode, 1) - countsOf(mode, 0);
  const shift = mode.base;
  const { per, what } = UNITS[unit];
  const period = unit.startsWith('period');
  const perRun = clockOf(path, timer.clock)
    .mul(division.scale)
    .div(division.n)
    .div(runsOf(setting.drive) * slope);
  const counts = period ? perRun.div(per) : perRun.mul(per);
  const [fewest, most] = [Math.max(min + shift, FEWEST_COUNTS), max + shift];
  const ends = period
    ? { min: exact(fewest).div(counts), max: exact(most).div(counts) }
    : { min: counts.div(most), max: counts.div(fewest) };
  const inUnit = (hz: Exact): Exact => (period ? hz.inverse().mul(per) : hz.mul(per));
  const [one, other] = span?.of === 'frequency' ? [inUnit(span.low), inUnit(span.high)] : [];
  const wanted = one && other ? (one.compare(other) < 0 ? [one, other] : [other, one]) : [ends.min, ends.max];
  const [low = ends.min, high = ends.max] = wanted;
  const bounds = {
    min: Math.max(1, Math.ceil((low.compare(ends.min) > 0 ? low : ends.min).valueOf() - 1e-9)),
    max: Math.min(LARGEST - 2, Math.floor((high.compare(ends.max) < 0 ? high : ends.max).valueOf() + 1e-9)),
  };
  return bounds.max > bounds.min ? [{ unit, what, counts, shift, ...bounds }] : [];
}

/** The units in which a rate can be set: Hz, or ms where it is slow, and a finer one where a step of that is coarse. */
export function rateRanges(
  path: ClockPath,
  resolved: Resolved,
  hz: Exact,
  span: Ends | undefined,
): RateRange[] {
  const slow = hz.compare(SLOW_HZ) < 0;
  const [unit, finer] = slow ? (['period_ms', 'period_us'] as const) : (['hz', 'millihertz'] as const);
  const coarse = slow ? hz.inverse().mul(1000).compare(COARSE) < 0 : hz.compare(COARSE) < 0;
  return [unit, ...(coarse ? [finer] : [])].flatMap((one) => rangeIn(path, resolved, one, span));
}

/** Counts of a run for a value, as whole numbers rounded to the nearest. */
export function countsText({ unit, counts, max }: RateRange): string | undefined {
  const [n, d] = [Number(counts.n), Number(counts.d)];
  const half = Math.floor(d / 2);
  const divides = !unit.startsWith('period');
  const greatest = divides ? n + (d * max) / 2 + d * max : n * max + half;
  if (greatest >= Number.MAX_SAFE_INTEGER) return undefined;
  const wide = greatest < LARGEST ? 'uint32_t' : 'uint64_t';
  const value = `(${wide})${unit}`;
  if (divides) {
    const by = d === 1 ? value : `(${value} * ${d}u)`;
    return `(${n}${n < LARGEST ? 'u' : 'ull'} + ${by} / 2u) / ${by}`;
  }
  const product = n === 1 ? value : `${value} * ${n}u`;
  return d === 1 ? product : `(${product} + ${half}u) / ${d}u`;
}

/** Statements for the compare value that keeps the share of high time; none where the channel's own value is the top. */
function compareLines({ mode, timer, setting }: Resolved): string[] {
  if (mode.top.kind === 'channel' && mode.top.channel === setting.channel) return [];
  const type = unsignedFor(2 ** (mode.pwm?.bits ?? timer.width) - 1);
  if (isToggled(setting.drive) && setting.compare === setting.top) return [`${type} compare = top;`];
  const extra = !isToggled(setting.drive) && mode.pwm?.high === 'compare+1' ? 1 : 0;
  const share = ratio(setting.compare + extra, setting.top + mode.base);
  const [n, d] = [Number(share.n), Number(share.d)];
  const half = Math.floor(d / 2);
  const wide = (topRange(mode).max + mode.base) * n + half < LARGEST ? '' : '(uint64_t)';
  const product = n === 1 ? `${wide}counts` : `${wide}counts * ${n}u`;
  const high = d === 1 ? product : `(${product} + ${half}u) / ${d}u`;
  if (extra === 0) return [`${type} compare = (${type})(${high});`];
  return [`uint32_t high = (uint32_t)(${high});`, `${type} compare = (${type})(high > 0u ? high - 1u : 0u);`];
}

/** The stores of a new top, and of a new compare value where there is one. */
export function rateStores(
  part: Part,
  { mode, timer, channel }: Resolved,
  writes: Writes,
  compare: boolean,
): string[] {
  return keptTogether(part, [
    ...variableStores(part, writes, 'top'),
    ...(compare ? variableStores(part, channel.running ?? channel.compare, 'compare') : []),
    ...(channel.commit ? changes(part, plainWrites([channel.commit])) : []),
    // A counter beyond a top that holds at once would run to its end first.
    ...(mode.update.top === 'immediate' && timer.counter !== undefined && mode.count === 'up'
      ? [`if (${registerName(part, timer.counter)} > top) ${registerName(part, timer.counter)} = 0;`]
      : []),
  ]);
}

/**
 * The setter of a knob that moves the frequency or the period: the counts of a run for each reading, with the same share of
 * high time, or with the same time high. A reading without a result leaves everything as it is.
 */
export function knobRateSetter(
  part: Part,
  label: string,
  resolved: Resolved,
  knob: KnobCode,
  alone: boolean,
): string[] {
  const { arithmetic, rate } = knob;
  const { mode } = resolved;
  const writes = topWrites(resolved);
  if (!writes || !canMoveRate(resolved, alone)) return [];
  const top = unsignedFor(topRange(mode).max);
  const compare = rate?.keepsWidth ? [] : compareLines(resolved);
  const shift = mode.base;
  const guarded = rateStores(part, resolved, writes, compare.length > 0);
  return [
    `/* The counts of a run for a reading of 0 to ${arithmetic.highest}. */`,
    ...knobFunction(`${label}_knob`, arithmetic, tablesOf(part.code)).trimEnd().split('\n'),
    ...steadyComment(knob),
    `static inline void ${label}_set_knob(uint16_t reading)`,
    '{',
    ...steadyLines(label, knob),
    `    uint32_t counts = ${label}_knob(reading);`,
    '    if (counts == 0u) return;',
    `    ${top} top = (${top})(counts${shift === 0 ? '' : ` - ${shift}u`});`,
    ...compare.map((line) => `    ${line}`),
    ...guarded.map((line) => `    ${line}`),
    '}',
  ];
}

/**
 * A setter of the frequency, or of the period where it is slow, of an output without a duty of its own. Nothing where the top cannot be
 * set, where the program makes the edges, or where other signals run on the timer (`alone` is false).
 */
export function rateSetter(
  part: Part,
  path: ClockPath,
  label: string,
  resolved: Resolved,
  hz: Exact,
  span: Ends | undefined,
  alone: boolean,
): string[] {
  const { mode } = resolved;
  const writes = topWrites(resolved);
  if (!writes || !canMoveRate(resolved, alone)) return [];
  const compare = compareLines(resolved);
  const guarded = rateStores(part, resolved, writes, compare.length > 0);
  const safety = canExclude(part) ? 'Interrupt-safe.' : 'Not interrupt-safe: it takes more than one step.';
  const top = unsignedFor(topRange(mode).max);
  return rateRanges(path, resolved, hz, span).flatMap((rate) => {
    const { unit, what, shift, min, max } = rate;
    const counted = countsText(rate);
    if (counted === undefined) return [];
    const upper = `${label.toUpperCase()}_${unit.toUpperCase()}`;
    return [
      `#define ${upper}_MIN ${min}u`,
      `#define ${upper}_MAX ${max}u`,
      `/* Sets the ${what}, clamped to ${min} to ${max}, with the same share of high time. ${safety} */`,
      `static inline void ${label}_set_${unit}(${unsignedFor(max + 1)} ${unit})`,
      '{',
      `    if (${unit} < ${upper}_MIN) ${unit} = ${upper}_MIN;`,
      `    if (${unit} > ${upper}_MAX) ${unit} = ${upper}_MAX;`,
      `    uint32_t counts = (uint32_t)(${counted});`,
      `    ${top} top = (${top})(counts${shift === 0 ? '' : ` - ${shift}u`});`,
      ...compare.map((line) => `    ${line}`),
      ...guarded.map((line) => `    ${line}`),
      '}',
    ];
  });
}
