import { clockOf, type ClockPath } from '../clock/path.ts';
import { tablesOf } from '../part/tables.ts';
import type { Channel, Part, Timer } from '../part/types.ts';
import { knobFunction } from '../knob/arithmetic.ts';
import { BY_WIDTH, mostSteps, movingStates, stepsInRun, WHOLE_SHARE } from '../program/moving.ts';
import type { ProgramSignal } from '../program/signal.ts';
import { unsignedFor } from '../program/step.ts';
import { exact, type Exact } from '../quantity/exact.ts';
import { grainOf } from '../timer/count.ts';
import type { Resolved } from '../timer/drives/index.ts';
import { topRange } from '../timer/setting.ts';
import { readingsSetter } from './bench-setters.ts';
import { steadyComment, steadyLines } from './knob-steady.ts';
import { body, minus, movingFunctions, wideFor, WORD, type Moving } from './moving-functions.ts';
import { countsText, FEWEST_COUNTS, rateRanges, rateStores, type RateRange } from './rate-setters.ts';

/** A finer unit of a frequency or a period is this part of the unit itself. */
const FINER = 1000;

/** Values beyond this are not taken by a setter. */
const LARGEST = 2 ** 31;

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

/** What a setter of the frequency or the period keeps: its value in the finest unit there is, or 0 where that is beyond 32 bits. */
function rateKept({ states }: Moving, { unit, max }: RateRange, finest: RateRange['unit']): string {
  const { kept } = states.rate;
  if (unit === finest) return `${kept} = ${unit};`;
  const most = Math.floor((WORD - 1) / FINER);
  return max <= most
    ? `${kept} = ${unit} * ${FINER}ul;`
    : `${kept} = ${unit} > ${most}ul ? 0u : ${unit} * ${FINER}ul;`;
}

/** A setter of the frequency or the period in a unit. */
function rateSetterIn(own: Moving, rate: RateRange, finest: RateRange['unit']): string[] {
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
      rateKept(own, rate, finest),
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

/** What was set last: the frequency or the period in its finest unit, and the share of high time. */
function wantedGetters({ label, states }: Moving, finest: RateRange | undefined): string[] {
  const { share, rate } = states;
  return [
    ...(finest
      ? [
          `/* The ${finest.what} as it was last set; 0 before, and where a knob has set it. */`,
          ...body(`static inline uint32_t ${label}_wanted_${finest.unit}(void)`, [`return ${rate.kept};`]),
        ]
      : []),
    '/* The share of high time as it was last set, in hundredths of a percent; what is made before, and where a width was set. */',
    ...body(`static inline uint16_t ${label}_wanted_hundredths(void)`, [
      `return ${share.kept} <= ${WHOLE_SHARE}u ? ${share.kept} : ${label}_made_hundredths();`,
    ]),
  ];
}

/** What the pin really makes: its frequency in mHz, and its share of high time. */
function madeGetters(own: Moving): string[] {
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
    ? [
        `uint32_t counts = ${label}_knob(reading);`,
        'if (counts == 0u) return;',
        `${own.states.rate.kept} = 0u;`,
        ...runLines(own),
      ]
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
  const rates = rateRanges(path, resolved, hz, signal.span).filter((rate) => countsText(rate) !== undefined);
  const finest = rates.at(-1);
  return [
    '/* What was set last stays, whatever else is set. Not interrupt-safe: call the setters from one place at a time. */',
    ...movingFunctions(own),
    ...rawSetter(own),
    ...widthSetter(own, 'us'),
    ...(hz.mul(run).compare(2_000_000) > 0 ? widthSetter(own, 'ns') : []),
    ...shareSetter(own, 'percent'),
    ...(run > 200 ? shareSetter(own, 'hundredths') : []),
    ...(signal.readings
      ? readingsSetter(part, signal.readings, label, (value) => `${label}_take((uint32_t)${value})`)
      : []),
    ...rates.flatMap((rate) => rateSetterIn(own, rate, finest?.unit ?? rate.unit)),
    ...knobLines(own),
    ...madeGetters(own),
    ...wantedGetters(own, finest),
  ];
}
