import { plainWrites } from '../timer/fields.ts';
import { unsignedFor } from '../program/step.ts';
import type { KnobCode } from '../program/signal.ts';
import { clockOf, type ClockPath } from '../clock/path.ts';
import { steadyComment, steadyLines } from './knob-steady.ts';
import { tablesOf } from '../part/tables.ts';
import type { Part, Writes } from '../part/types.ts';
import { exact, ratio, type Exact } from '../quantity/exact.ts';
import { countsOf } from '../timer/count.ts';
import { isToggled, runsOf, type Resolved } from '../timer/drives/index.ts';
import { topRange } from '../timer/setting.ts';
import { knobFunction } from '../knob/arithmetic.ts';
import { registerName } from '../part/register-names.ts';
import { canExclude, changes, keptTogether, variableStores } from './statement.ts';

/** Fewer counts than these in a run are too coarse a step of the frequency. */
const FEWEST_COUNTS = 50;

/** Slower signals are set by their period. */
const SLOW_HZ = 20;

/** Values beyond this do not fit a type of 32 bits. */
const LARGEST = 2 ** 32;

/** How a frequency becomes a top: counts = `counts` / Hz, or `counts` x ms, and the top is `shift` less. */
type RateRange = {
  unit: 'hz' | 'period_ms';
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

/**
 * How a frequency follows from the tops of a mode: f = clock / (prescaler x runs x (counts of a run)), with the counts
 * either top + base or twice that.
 */
function rateOf(
  path: ClockPath,
  { mode, timer, division, setting }: Resolved,
  hz: Exact,
): RateRange | undefined {
  const { min, max } = topRange(mode);
  const slope = countsOf(mode, 1) - countsOf(mode, 0);
  const shift = mode.base;
  const clock = clockOf(path, timer.clock).mul(division.scale).div(division.n);
  const perRun = clock.div(runsOf(setting.drive) * slope);
  const [fewest, most] = [Math.max(min + shift, FEWEST_COUNTS), max + shift];
  const slow = hz.compare(SLOW_HZ) < 0;
  const counts = slow ? perRun.div(1000) : perRun;
  const ends = slow
    ? { min: exact(fewest).div(counts), max: exact(most).div(counts) }
    : { min: counts.div(most), max: counts.div(fewest) };
  const bounds = {
    min: Math.max(1, Math.ceil(ends.min.valueOf() - 1e-9)),
    max: Math.min(LARGEST - 2, Math.floor(ends.max.valueOf() + 1e-9)),
  };
  return bounds.max > bounds.min ? { unit: slow ? 'period_ms' : 'hz', counts, shift, ...bounds } : undefined;
}

/** Counts of a run for a value, as whole numbers rounded to the nearest. */
function countsText({ unit, counts, max }: RateRange): string | undefined {
  const [n, d] = [Number(counts.n), Number(counts.d)];
  const half = Math.floor(d / 2);
  const greatest = unit === 'hz' ? n + (d * max) / 2 + d * max : n * max + half;
  if (greatest >= Number.MAX_SAFE_INTEGER) return undefined;
  const wide = greatest < LARGEST ? 'uint32_t' : 'uint64_t';
  const value = `(${wide})${unit}`;
  if (unit === 'hz') {
    const by = d === 1 ? value : `(${value} * ${d}u)`;
    return `(${n}u + ${by} / 2u) / ${by}`;
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
function rateStores(
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
  const { mode, setting } = resolved;
  const writes = topWrites(resolved);
  if (!writes || !alone || setting.complement || mode.pwm?.spread) return [];
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
 * A setter of the frequency, or of the period where it is slow, that keeps the share of high time. Nothing where the top cannot be
 * set, where the program makes the edges, or where other signals run on the timer (`alone` is false).
 */
export function rateSetter(
  part: Part,
  path: ClockPath,
  label: string,
  resolved: Resolved,
  hz: Exact,
  alone: boolean,
): string[] {
  const { mode, setting } = resolved;
  const writes = topWrites(resolved);
  if (!writes || !alone || setting.complement || mode.pwm?.spread) return [];
  const rate = rateOf(path, resolved, hz);
  const counted = rate && countsText(rate);
  if (!rate || counted === undefined) return [];
  const { unit, shift, min, max } = rate;
  const upper = `${label.toUpperCase()}_${unit.toUpperCase()}`;
  const top = unsignedFor(topRange(mode).max);
  const compare = compareLines(resolved);
  const guarded = rateStores(part, resolved, writes, compare.length > 0);
  const what = unit === 'hz' ? 'frequency in Hz' : 'period in ms';
  const safety = canExclude(part) ? 'Interrupt-safe.' : 'Not interrupt-safe: it takes more than one step.';
  const type = unsignedFor(max + 1);
  return [
    `#define ${upper}_MIN ${min}u`,
    `#define ${upper}_MAX ${max}u`,
    `/* Sets the ${what}, clamped to ${min} to ${max}, with the same share of high time. ${safety} */`,
    `static inline void ${label}_set_${unit}(${type} ${unit})`,
    '{',
    `    if (${unit} < ${upper}_MIN) ${unit} = ${upper}_MIN;`,
    `    if (${unit} > ${upper}_MAX) ${unit} = ${upper}_MAX;`,
    `    uint32_t counts = (uint32_t)(${counted});`,
    `    ${top} top = (${top})(counts${shift === 0 ? '' : ` - ${shift}u`});`,
    ...compare.map((line) => `    ${line}`),
    ...guarded.map((line) => `    ${line}`),
    '}',
  ];
}
