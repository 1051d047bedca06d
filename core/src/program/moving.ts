import type { Part } from '../part/types.ts';
import { grainOf, highCounts, togglesTwice } from '../timer/count.ts';
import { hasFreeDuty, isOutput, resolveSetting, type Resolved } from '../timer/drives/index.ts';
import { ratio } from '../quantity/exact.ts';
import { aloneOnTimers, topRange } from '../timer/setting.ts';
import type { ProgramSignal } from './signal.ts';
import type { State } from './step.ts';

/** Shares are kept in hundredths of a percent. */
export const WHOLE_SHARE = 10_000;

/** What stands in the place of a share where a width was set. */
export const BY_WIDTH = 0xffff;

/** What stands there as long as the share of the plan's own setting holds, which may be finer. */
export const BY_PLAN = 0xfffe;

/** Products up to here fit into 32 bits. */
const WORD = 2 ** 32;

/** Whether a mode has a top that the program can set while the timer runs. */
function topMoves({ mode: { top } }: Resolved): boolean {
  return top.kind === 'register' || top.kind === 'channel';
}

/** Whether an output's period can be set, `alone` where no other signal runs on its timer. */
export function canMoveRate(resolved: Resolved, alone: boolean): boolean {
  const { setting, mode } = resolved;
  return alone && topMoves(resolved) && !setting.complement && !mode.pwm?.spread;
}

/**
 * Whether both the period and the width of an output can be set, so that each setter must know what the others did. A pulse that moves over a span of
 * widths keeps its frame, and rows of a sequence hold for one period.
 */
export function movesBoth(
  { span, sequence, sending }: ProgramSignal,
  resolved: Resolved,
  alone: boolean,
): boolean {
  if (sequence || sending || span?.of === 'width') return false;
  return hasFreeDuty(resolved.setting) && !togglesTwice(resolved.mode) && canMoveRate(resolved, alone);
}

/** Compare steps in a run of one slope, and those of them for which the pin is high. */
export function stepsInRun({ mode, setting }: Resolved): { run: number; high: number } {
  const slopes = mode.count === 'up' ? 1 : 2;
  const inverted = setting.polarity === 'inverted';
  return {
    run: (setting.top + mode.base) * grainOf(mode),
    high: highCounts(mode, setting.top, setting.compare, inverted) / slopes,
  };
}

/** The most compare steps that a run can have. */
export function mostSteps({ mode }: Resolved): number {
  return (topRange(mode).max + mode.base) * grainOf(mode);
}

/**
 * The share of the plan's setting as a fraction; undefined where it would need more than 32 bits on a counter that needs no more, and hundredths of a
 * percent have to do.
 */
export function planShare(resolved: Resolved): { n: number; d: number } | undefined {
  const { run, high } = stepsInRun(resolved);
  const share = ratio(high, run);
  const [n, d] = [Number(share.n), Number(share.d)];
  const most = mostSteps(resolved);
  return most * n + d < WORD || most * WHOLE_SHARE >= WORD ? { n, d } : undefined;
}

/**
 * What the setters of such an output keep: the run, the share that was set or else the width, what was made of it, and the frequency or period
 * that was set last in its finest unit, 0 where none was.
 */
export type MovingStates = { run: State; share: State; width: State; made: State; rate: State };

/** These variables, with what the plan has in them; a signal of a width begins with its width, all others with their share. */
export function movingStates(label: string, { keepsWidth }: ProgramSignal, resolved: Resolved): MovingStates {
  const { run, high } = stepsInRun(resolved);
  const planned = planShare(resolved) ? BY_PLAN : Math.round((high * WHOLE_SHARE) / run);
  const share = keepsWidth ? BY_WIDTH : planned;
  const of = (name: string, initial: number): State => ({
    kept: `${label}_${name}`,
    type: 'uint32_t',
    initial,
  });
  return {
    run: of('run', run),
    share: { kept: `${label}_share`, type: 'uint16_t', initial: share },
    width: of('width', high),
    made: of('made', high),
    rate: of('rate', 0),
  };
}

/** The variables of all such outputs of a program. */
export function allMovingStates(
  part: Part,
  signals: readonly ProgramSignal[],
  labels: readonly string[],
): State[] {
  const alone = aloneOnTimers(signals.map(({ setting }) => setting));
  return signals.flatMap((signal, at) => {
    const { setting } = signal;
    if (!isOutput(setting)) return [];
    const resolved = resolveSetting(part, setting);
    if (!movesBoth(signal, resolved, alone[at] ?? false)) return [];
    return Object.values(movingStates(labels[at] ?? '', signal, resolved));
  });
}
