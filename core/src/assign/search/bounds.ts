import { cpuSteps, LEVELS } from '../counter/quality.ts';
import { driveById } from '../../timer/drives/index.ts';
import { isInputUse } from '../counter/context.ts';
import type { Option, Request } from '../request.ts';
import type { CounterSolver } from '../counter/counter-solver.ts';
import type { Objective } from '../objective.ts';

/** All signals with their options. */
type Field = { requests: readonly Request[]; options: readonly Option[][]; share: CounterSolver };

/**
 * `cpu` and `level` are what no assignment can beat, `worth` that with the fewest timers at that price. `able` says which
 * signals the hardware can make.
 */
export type Bounds = {
  cpu: number;
  level: number;
  objective: () => Objective;
  levels: number[];
  able: boolean[];
  /** Whether two signals cannot use one timer at the price of `cpu`. */
  apart: (one: number, other: number) => boolean;
};

/** Whether a use costs the processor nothing, or no more than its input needs. */
export function isHardware({ drive }: Option): boolean {
  const { cause } = driveById(drive);
  return cause === 'output' || cause === 'input';
}

/** Up to this many software-driven signals, every way of grouping them is considered. */
const MAX_TICKS = 6;

/**
 * The least CPU time of signals that only the program can make, together in any grouping: each group on the
 * timer that serves it with the least, ignoring other users of that timer. Where they are too many, or could be made in
 * several ways, what the most expensive of them costs alone.
 */
function minTicks({ options, share }: Field, ticks: readonly number[]): number {
  const setCost = (set: readonly number[]): number => {
    const [first = 0] = set;
    const costs = (options[first] ?? []).map((option) => {
      const uses = set.flatMap((at) =>
        (options[at] ?? [])
          .filter(
            (one) => one.timer === option.timer && one.mode === option.mode && one.drive === option.drive,
          )
          .slice(0, 1)
          .map((one) => ({ at, option: one })),
      );
      const shared = uses.length === set.length ? share(option, uses) : undefined;
      return shared?.cpu ?? Infinity;
    });
    return Math.min(...costs);
  };
  const min = (rest: readonly number[]): number => {
    const [first, ...others] = rest;
    if (first === undefined) return 0;
    let best = Infinity;
    for (let mask = 0; mask < 2 ** others.length; mask += 1) {
      const set = [first, ...others.filter((_, at) => (mask >> at) & 1)];
      const left = others.filter((_, at) => !((mask >> at) & 1));
      const cost = setCost(set);
      if (cost < best) best = Math.min(best, cost + min(left));
    }
    return best;
  };
  const mixed = ticks.some((at) => new Set((options[at] ?? []).map(({ drive }) => drive)).size > 1);
  if (mixed || ticks.length > MAX_TICKS) return Math.max(...ticks.map((at) => setCost([at])));
  return min(ticks);
}

/** The best that the hardware can do for one signal by itself; no more is looked at once it cannot be better. */
function aloneAt(list: readonly Option[], at: number, share: CounterSolver): { level: number; cpu?: number } {
  let best: { level: number; cpu?: number } = { level: LEVELS };
  for (const option of list) {
    const shared = share(option, [{ at, option }]);
    if (!shared) continue;
    const level = best.cpu === undefined ? shared.level : Math.max(best.level, shared.level);
    best = { level, cpu: Math.min(best.cpu ?? Infinity, shared.cpu) };
    if (level >= LEVELS && !isInputUse(option)) return best;
  }
  return best;
}

/** How many signals of a list, taken one by one, can none of them share a timer. */
export function apartFrom(list: readonly number[], apart: Bounds['apart']): number {
  const chosen: number[] = [];
  for (const at of list) if (chosen.every((other) => apart(at, other))) chosen.push(at);
  return chosen.length;
}

/**
 * What no assignment can beat: hardware costs nothing, so each signal that the hardware can make at all is best there;
 * inputs and what only the program can make cost at least what they cost alone; and at that price it takes as many timers
 * as there are signals of which no two can share one.
 */
export function boundsOf(problem: Field): Bounds {
  const { requests, options, share } = problem;
  const alone = options.map((list, at) => aloneAt(list.filter(isHardware), at, share));
  const inputs = alone.flatMap(({ cpu }, at) =>
    requests[at]?.requirement.input && cpu !== undefined ? [cpu] : [],
  );
  const ticks = requests.flatMap((_, at) => (alone[at]?.cpu === undefined ? [at] : []));
  const cheapest = options.map((list, at) => (alone[at]?.cpu === undefined ? list : list.filter(isHardware)));
  const tickCpu = minTicks(problem, ticks);
  const cpu = inputs.reduce((sum, one) => sum + one, 0) + tickCpu;
  const known = new Map<string, boolean>();
  const apart = (one: number, other: number): boolean => {
    const key = `${Math.min(one, other)} ${Math.max(one, other)}`;
    // A tick alone costs what it must; on a timer that runs faster for another it would cost more.
    const single = ticks.length === 1 && (ticks[0] === one || ticks[0] === other);
    const found = known.get(key) ?? !canMeet(cheapest, share, one, other, single ? tickCpu : Infinity);
    known.set(key, found);
    return found;
  };
  const levels = alone.map(({ level }) => level);
  const level = Math.min(LEVELS, ...levels);
  const all = requests.map((_, at) => at);
  return {
    cpu,
    level,
    objective: () => ({ cpu, level, timers: apartFrom(all, apart) }),
    able: alone.map((one) => one.cpu !== undefined),
    apart,
    levels: options.map((list, at) => (list.every(isHardware) ? (levels[at] ?? LEVELS) : LEVELS)),
  };
}

/** Whether two signals can use one timer together, whatever the channels and pins, at no more than a price. */
function canMeet(
  options: readonly Option[][],
  share: CounterSolver,
  one: number,
  other: number,
  maxCpu = Infinity,
): boolean {
  return (options[one] ?? []).some((option) =>
    (options[other] ?? []).some((second) => {
      if (second.timer !== option.timer || second.mode !== option.mode) return false;
      const shared = share(
        option,
        [
          { at: one, option },
          { at: other, option: second },
        ],
        maxCpu,
      );
      return shared !== undefined && cpuSteps(shared.cpu) <= cpuSteps(maxCpu);
    }),
  );
}
