import type { ClockPath } from '../clock/path.ts';
import type { Part, Writes } from '../part/types.ts';
import {
  BY_PLAN,
  BY_WIDTH,
  planShare,
  stepsInRun,
  WHOLE_SHARE,
  type MovingStates,
} from '../program/moving.ts';
import type { ProgramSignal } from '../program/signal.ts';
import type { Exact } from '../quantity/exact.ts';
import { grainOf } from '../timer/count.ts';
import type { Resolved } from '../timer/drives/index.ts';
import { compareBody } from './compare-body.ts';

/** An output whose period and width both move, with all that its setters are written from. */
export type Moving = {
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
export const WORD = 2 ** 32;

/** A type for products of the run with a number. */
export function wideFor({ most }: Moving, factor: number): string {
  return most * factor + factor < WORD ? 'uint32_t' : 'uint64_t';
}

/** A text less a number. */
export function minus(text: string, number: number): string {
  return number === 0 ? text : `${text} - ${number}u`;
}

export function body(head: string, lines: readonly string[]): string[] {
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

/** The functions that the setters share: the compare value of what was set last, and what puts it in force. */
export function movingFunctions(own: Moving): string[] {
  return [...compareFunction(own), ...putFunction(own), ...takeFunction(own)];
}
