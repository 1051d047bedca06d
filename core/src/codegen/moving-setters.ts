import type { ClockPath } from '../clock/path.ts';
import { tablesOf } from '../part/tables.ts';
import type { Channel, Part, Timer, Writes } from '../part/types.ts';
import { knobFunction } from '../knob/arithmetic.ts';
import {
  BY_PLAN,
  BY_WIDTH,
  mostSteps,
  movingStates,
  planShare,
  stepsInRun,
  WHOLE_SHARE,
  type MovingStates,
} from '../program/moving.ts';
import type { ProgramSignal } from '../program/signal.ts';
import { unsignedFor } from '../program/step.ts';
import { exact, type Exact } from '../quantity/exact.ts';
import { clockOf } from '../clock/path.ts';
import { grainOf } from '../timer/count.ts';
import type { Resolved } from '../timer/drives/index.ts';
import { topRange } from '../timer/setting.ts';
import { readingsSetter } from './bench-setters.ts';
import { steadyComment, steadyLines } from './knob-steady.ts';
import { countsText, FEWEST_COUNTS, rateRanges, rateStores, type RateRange } from './rate-setters.ts';
import { compareBody } from './compare-body.ts';

/** An output whose period and width both move, with all that its setters are written from. */
type Moving = {
  part: Part;
  path: ClockPath;
  label: string;
  signal: ProgramSignal;
  resolved: Resolved;
  /** Where a new top goes. */
  writes: Writes;
  hz: Exact;
  states: MovingStates;
  /** The most compare steps in a run, and the type of a compare value. */
  most: number;
  compareType: string;
};

/** Products up to here fit into 32 bits. */
const WORD = 2 ** 32;

/** Values beyond this are not taken by a setter. */
const LARGEST = 2 ** 31;

/** A type for products of the run with a number. */
function wideFor({ most }: Moving, factor: number): string {
  return most * factor + factor < WORD ? 'uint32_t' : 'uint64_t';
}

/** A text less a number. */
function minus(text: string, number: number): string {
  return number === 0 ? text : `${text} - ${number}u`;
}

function body(head: string, lines: readonly string[]): string[] {
  return [head, '{', ...lines.map((line) => `    ${line}`), '}'];
}

/** Limits of the target's span, in compare steps of the present run. */
function limitLines(own: Moving): string[] {
  const { span } = own.signal;
  if (span?.of !== 'duty') return [];
  const [low, high] = [span.low, span.high].map((share) => share.mul(WHOLE_SHARE).valueOf());
  const wide = wideFor(own, WHOLE_SHARE);
  const times = (share: number): string => `(${wide})run * ${share}u`;
  return [
    `uint32_t least = (uint32_t)((${times(Math.ceil((low ?? 0) - 1e-9))} + ${WHOLE_SHARE - 1}u) / ${WHOLE_SHARE}u);`,
    `uint32_t greatest = (uint32_t)(${times(Math.floor((high ?? 0) + 1e-9))} / ${WHOLE_SHARE}u);`,
    'if (high > greatest) high = greatest;',
    'if (high < least) high = least;',
  ];
}

/** The width of a share that was set, or of the plan's. */
function shareLines(own: Moving, share: string): string[] {
  const planned = own.signal.keepsWidth ? undefined : planShare(own.resolved);
  const of = (n: number | string, most: number, d: number): string => {
    const product =
      n === 1 ? `(${wideFor(own, most)})run` : `(${wideFor(own, most)})run * ${n}${n === share ? '' : 'u'}`;
    return d === 1 ? `(uint32_t)(${product})` : `(uint32_t)((${product} + ${Math.floor(d / 2)}u) / ${d}u)`;
  };
  return [
    `if (${share} <= ${WHOLE_SHARE}u) high = ${of(share, WHOLE_SHARE, WHOLE_SHARE)};`,
    ...(planned ? [`if (${share} == ${BY_PLAN}u) high = ${of(planned.n, planned.n, planned.d)};`] : []),
  ];
}

/** The compare value of the present run, and what it makes. */
function compareFunction(own: Moving): string[] {
  const { label, resolved, states, compareType } = own;
  const { run, share, width, made } = states;
  const { mode, timer, setting } = resolved;
  const extra = mode.pwm?.high === 'compare+1' ? 1 : 0;
  const inverted = setting.polarity === 'inverted';
  const widest = 2 ** (mode.pwm?.bits ?? timer.width) - 1;
  const atTop = extra === 1 || mode.pwm?.full === 'top';
  const most = atTop ? minus(grainOf(mode) === 1 ? 'run' : `run / ${grainOf(mode)}u`, mode.base) : 'run';
  const up = inverted ? 'run - high' : 'high';
  const shown = `compare${extra === 1 ? ' + 1u' : ''}`;
  return body(`static ${compareType} ${label}_compare(void)`, [
    `uint32_t run = ${run.kept};`,
    `uint32_t high = ${width.kept};`,
    ...shareLines(own, `${share.kept}`),
    ...limitLines(own),
    'if (high > run) high = run;',
    `uint32_t compare = ${up};`,
    ...(extra === 1 ? ['if (compare > 0u) compare -= 1u;'] : []),
    `uint32_t most = ${most};`,
    ...(own.most > widest ? [`if (most > ${widest}u) most = ${widest}u;`] : []),
    'if (compare > most) compare = most;',
    ...(mode.pwm?.full === 'top'
      ? [`uint32_t shown = compare >= most ? run : ${shown};`]
      : [`uint32_t shown = ${shown};`]),
    `${made.kept} = ${inverted ? 'run - shown' : 'shown'};`,
    `return (${compareType})compare;`,
  ]);
}

/** Puts the width in force in the present run. */
function putFunction({ part, label, resolved, compareType }: Moving): string[] {
  const { timer, channel } = resolved;
  return body(`static void ${label}_put(void)`, [
    `${compareType} compare = ${label}_compare();`,
    ...compareBody(part, timer, channel),
  ]);
}

/** Takes a compare value of the plan's own period, as knobs and readings have it: its width, or its share of that period. */
function takeFunction(own: Moving): string[] {
  const { label, resolved, states, signal } = own;
  if (!signal.readings && (!signal.knob || signal.knob.rate)) return [];
  const { run } = stepsInRun(resolved);
  const { mode, setting } = resolved;
  const extra = mode.pwm?.high === 'compare+1' ? ' + 1u' : '';
  const wide = run * WHOLE_SHARE + run < WORD ? 'uint32_t' : 'uint64_t';
  const high = setting.polarity === 'inverted' ? `${run}u - (compare${extra})` : `compare${extra}`;
  return body(`static void ${label}_take(uint32_t compare)`, [
    `uint32_t high = ${high};`,
    ...(signal.keepsWidth
      ? [`${states.width.kept} = high;`, `${states.share.kept} = ${BY_WIDTH}u;`]
      : [
          `if (high > ${run}u) high = ${run}u;`,
          `${states.share.kept} = (uint16_t)(((${wide})high * ${WHOLE_SHARE}u + ${Math.floor(run / 2)}u) / ${run}u);`,
        ]),
    `${label}_put();`,
  ]);
}

/** A setter of the width in a unit of time. */
function widthSetter(own: Moving, unit: 'us' | 'ns'): string[] {
  const { label, resolved, states, hz, most } = own;
  const { run } = stepsInRun(resolved);
  const perUnit = hz.mul(run).div(unit === 'us' ? 1_000_000 : 1_000_000_000);
  const [n, d] = [Number(perUnit.n), Number(perUnit.d)];
  const max = Math.min(LARGEST - 2, Math.floor(exact(most).div(perUnit).valueOf() + 1e-9));
  const product = max * n + d;
  if (max < 1 || product >= Number.MAX_SAFE_INTEGER) return [];
  const wide = product < WORD ? 'uint32_t' : 'uint64_t';
  const upper = `${label.toUpperCase()}_${unit.toUpperCase()}`;
  const times = n === 1 ? `(${wide})${unit}` : `(${wide})${unit} * ${n}u`;
  const counts = d === 1 ? times : `(${times} + ${Math.floor(d / 2)}u) / ${d}u`;
  return [
    `#define ${upper}_MAX ${max}u`,
    `/* Sets the time high in ${unit}, at most ${max}, kept when the frequency changes; high for good where it is a whole period. */`,
    ...body(`static inline void ${label}_set_${unit}(${unsignedFor(max + 1)} ${unit})`, [
      `if (${unit} > ${upper}_MAX) ${unit} = ${upper}_MAX;`,
      `${states.width.kept} = (uint32_t)(${counts});`,
      `${states.share.kept} = ${BY_WIDTH}u;`,
      `${label}_put();`,
    ]),
  ];
}

/** A setter of the share of high time, in percent or in hundredths of it, within the span of the target. */
function shareSetter({ label, signal, states }: Moving, unit: 'percent' | 'hundredths'): string[] {
  const { span } = signal;
  const factor = unit === 'percent' ? 1 : 100;
  const end = (share: number, round: (value: number) => number, slack: number): number =>
    round(share * 100 * factor + slack);
  const low = span?.of === 'duty' ? end(span.low.valueOf(), Math.ceil, -1e-9) : 0;
  const high = span?.of === 'duty' ? end(span.high.valueOf(), Math.floor, 1e-9) : 100 * factor;
  if (high <= low) return [];
  const upper = `${label.toUpperCase()}_${unit.toUpperCase()}`;
  const type = unsignedFor(high + 1);
  const text = unit === 'percent' ? 'percent' : 'hundredths of a percent';
  return [
    `#define ${upper}_MIN ${low}u`,
    `#define ${upper}_MAX ${high}u`,
    `/* Sets the share of high time in ${text}, clamped to ${low} to ${high}, kept when the frequency changes. */`,
    ...body(`static inline void ${label}_set_${unit}(${type} ${unit})`, [
      ...(low > 0 ? [`if (${unit} < ${upper}_MIN) ${unit} = ${upper}_MIN;`] : []),
      `if (${unit} > ${upper}_MAX) ${unit} = ${upper}_MAX;`,
      `${states.share.kept} = ${unit === 'percent' ? `(uint16_t)(${unit} * 100u)` : unit};`,
      `${label}_put();`,
    ]),
  ];
}

/** Statements that bring a new run into force, from `counts` of it. */
function runLines({ part, label, resolved, writes, states, compareType }: Moving): string[] {
  const { mode } = resolved;
  const top = unsignedFor(topRange(mode).max);
  const grain = grainOf(mode);
  return [
    `${top} top = (${top})(${minus('counts', mode.base)});`,
    `${states.run.kept} = counts${grain === 1 ? '' : ` * ${grain}u`};`,
    `${compareType} compare = ${label}_compare();`,
    ...rateStores(part, resolved, writes, true),
  ];
}

/** A setter of the frequency or the period in a unit. */
function rateSetterIn(own: Moving, rate: RateRange): string[] {
  const { label } = own;
  const { unit, min, max, what } = rate;
  const counted = countsText(rate);
  if (counted === undefined) return [];
  const upper = `${label.toUpperCase()}_${unit.toUpperCase()}`;
  return [
    `#define ${upper}_MIN ${min}u`,
    `#define ${upper}_MAX ${max}u`,
    `/* Sets the ${what}, clamped to ${min} to ${max}; the share of high time, or the width where that was set, stays. */`,
    ...body(`static inline void ${label}_set_${unit}(${unsignedFor(max + 1)} ${unit})`, [
      `if (${unit} < ${upper}_MIN) ${unit} = ${upper}_MIN;`,
      `if (${unit} > ${upper}_MAX) ${unit} = ${upper}_MAX;`,
      `uint32_t counts = (uint32_t)(${counted});`,
      ...runLines(own),
    ]),
  ];
}

/** The setter of the compare value itself. */
function rawSetter({ label, resolved, states, compareType }: Moving): string[] {
  const { mode, setting, timer } = resolved;
  const max = 2 ** (mode.pwm?.bits ?? timer.width) - 1;
  const extra = mode.pwm?.high === 'compare+1' ? ' + 1u' : '';
  const shown = `(uint32_t)compare${extra}`;
  const inverted = setting.polarity === 'inverted';
  return [
    `/* Sets the compare value, at most ${max} and what the period has; its width is kept when the frequency changes. */`,
    ...body(`static inline void ${label}_set(${compareType} compare)`, [
      ...(inverted
        ? [
            `uint32_t low = ${shown};`,
            `${states.width.kept} = low > ${states.run.kept} ? 0u : ${states.run.kept} - low;`,
          ]
        : [`${states.width.kept} = ${shown};`]),
      `${states.share.kept} = ${BY_WIDTH}u;`,
      `${label}_put();`,
    ]),
  ];
}

/** What the pin really makes: its frequency in mHz, and its share of high time. */
function getters(own: Moving): string[] {
  const { path, label, resolved, states } = own;
  const { timer, mode, division } = resolved;
  const slopes = mode.count === 'up' ? 1 : 2;
  const steps = clockOf(path, timer.clock).mul(division.scale).div(division.n).mul(grainOf(mode)).div(slopes);
  const milli = Math.round(steps.mul(1000).valueOf());
  const fewest = Math.min(stepsInRun(resolved).run, FEWEST_COUNTS * grainOf(mode));
  const fastest = milli / fewest;
  const wide = wideFor(own, WHOLE_SHARE);
  const { run, made } = states;
  const frequency =
    fastest < WORD
      ? [
          '/* The frequency that is made, in mHz by the nominal clock. */',
          ...body(`static inline uint32_t ${label}_made_millihertz(void)`, [
            `return (uint32_t)((${milli}ull + ${run.kept} / 2u) / ${run.kept});`,
          ]),
        ]
      : [];
  return [
    ...frequency,
    '/* The share of high time that is made, in hundredths of a percent. */',
    ...body(`static inline uint16_t ${label}_made_hundredths(void)`, [
      `return (uint16_t)(((${wide})${made.kept} * ${WHOLE_SHARE}u + ${run.kept} / 2u) / ${run.kept});`,
    ]),
  ];
}

/** The setter of a knob, by the counts of a run or by a compare value of the plan's period. */
function knobLines(own: Moving): string[] {
  const { part, label, signal } = own;
  const { knob } = signal;
  if (!knob) return [];
  const { arithmetic, rate } = knob;
  const calls = rate
    ? [`uint32_t counts = ${label}_knob(reading);`, 'if (counts == 0u) return;', ...runLines(own)]
    : [`${label}_take(${label}_knob(reading));`];
  return [
    `/* The ${rate ? 'counts of a run' : 'compare value of the plan’s period'} for a reading of 0 to ${arithmetic.highest}. */`,
    ...knobFunction(`${label}_knob`, arithmetic, tablesOf(part.code)).trimEnd().split('\n'),
    ...steadyComment(knob),
    `static inline void ${label}_set_knob(uint16_t reading)`,
    '{',
    ...steadyLines(label, knob),
    ...calls.map((line) => `    ${line}`),
    '}',
  ];
}

/**
 * The setters of an output whose period and width both move. They keep what was set last, a share or a width, so that any order of calls leaves the
 * pin with it; the limits of the target hold at every frequency.
 */
export function movingSetters(
  part: Part,
  path: ClockPath,
  label: string,
  signal: ProgramSignal,
  resolved: Resolved,
  hz: Exact,
  timer: Timer,
  channel: Channel,
): string[] {
  const { mode } = resolved;
  const { top } = mode;
  if (top.kind !== 'register' && top.kind !== 'channel') return [];
  const own: Moving = {
    ...{ part, path, label, signal, hz },
    resolved: { ...resolved, timer, channel },
    writes: top.kind === 'register' ? (top.running ?? top.writes) : top.writes,
    states: movingStates(label, signal, resolved),
    most: mostSteps(resolved),
    compareType: unsignedFor(2 ** (mode.pwm?.bits ?? timer.width) - 1),
  };
  const { run } = stepsInRun(resolved);
  return [
    '/* What was set last stays, whatever else is set. Not interrupt-safe: call the setters from one place at a time. */',
    ...compareFunction(own),
    ...putFunction(own),
    ...takeFunction(own),
    ...rawSetter(own),
    ...widthSetter(own, 'us'),
    ...(hz.mul(run).compare(2_000_000) > 0 ? widthSetter(own, 'ns') : []),
    ...shareSetter(own, 'percent'),
    ...(run > 200 ? shareSetter(own, 'hundredths') : []),
    ...(signal.readings
      ? readingsSetter(part, signal.readings, label, (value) => `${label}_take((uint32_t)${value})`)
      : []),
    ...rateRanges(path, resolved, hz, signal.span).flatMap((rate) => rateSetterIn(own, rate)),
    ...knobLines(own),
    ...getters(own),
  ];
}
