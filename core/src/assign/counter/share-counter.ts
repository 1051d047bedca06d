import type { ClockPath } from '../../clock/path.ts';
import { scaleOf } from '../../part/division.ts';
import type { Part } from '../../part/types.ts';
import { grainOf } from '../../timer/count.ts';
import { hasTimer, type Setting } from '../../timer/setting.ts';
import { bandsFor, type RunBand, type Counted, type CountedBand } from './bands.ts';
import {
  counterContext,
  better,
  costOf,
  cpuOf,
  isDirect,
  isInputUse,
  needsCompare,
  MAX_CPU,
  runOf,
  type CounterContext,
  type Limits,
  type Share,
  type Shared,
  type Use,
} from './context.ts';
import { byRunAlone, needsSteps, peakOf, type Peak } from './peak.ts';
import { cpuSteps, LEVELS } from './quality.ts';
import type { Option } from '../request.ts';
import { divisionsIn, outward, counterReach, topsIn } from './reach.ts';
import { sharedAt } from './counter-at.ts';
import { sharedInputs } from './input-uses.ts';
import { countedBand, directBand, runsFor } from './software-uses.ts';

/** Numbers that are tried for one band, and bands with a length but no numbers that suit. */
const MAX_TRIES = 2048;
const MAX_FAILING = 64;

/** A user with more numbers of runs to choose from takes the one that fits the run best. */
const FEW = 8;

/** What a search within one band works on, and how far it has come. */
type BandSearch = {
  context: CounterContext;
  runs: readonly number[];
  /** Steps of processor time below which nothing in the band is. */
  cheapest: number;
  /** Whether the longest run is the cheapest, because some user only has a minimum frequency. */
  slowest: boolean;
  /** Tops that are tried for one division. */
  farthest: number;
  best?: Shared;
  tries: number;
};

/** Whether nothing that is left can be better than what was found. */
function cannotImprove({ best, cheapest, slowest }: BandSearch, peak: Peak): boolean {
  return best !== undefined && cpuSteps(best.cpu) <= cheapest && (slowest || best.level >= peak.level);
}

/** Tries the tops of one division outward from the best one. Gives whether the search has used all its tries. */
function tryTops(search: BandSearch, n: number, range: { min: number; max: number }, peak: Peak): boolean {
  const { context, runs, slowest } = search;
  const { counter, cost, limits } = context;
  const aim = slowest ? range.max : (peak.run - counter.hold) / (counter.factor * n) - counter.shift;
  let tops = 0;
  for (const top of outward(aim, range.min, range.max)) {
    if (tops >= search.farthest) return false;
    tops += 1;
    if (counter.powers && !Number.isInteger(Math.log2(top + 1))) continue;
    const known = slowest ? search.best : undefined;
    if (known && cpuSteps(cpuOf(cost, runOf(counter, n, top), runs)) > cpuSteps(known.cpu)) return false;
    const one = sharedAt(context, n, top, runs);
    search.tries += 1;
    if (one && better(one, search.best)) search.best = one;
    if (cannotImprove(search, peak)) return false;
    if (search.tries >= MAX_TRIES) {
      limits.hit = true;
      return true;
    }
  }
  return false;
}

/** The divisions of a list, or all from one to another. */
function* each(list: readonly number[] | undefined, from: number, to: number): Generator<number> {
  if (list) yield* list;
  else for (let n = from; n <= to; n += 1) yield n;
}

/**
 * The best counter within one band. All of a band costs the same, but where a user only has a minimum frequency: there the
 * longest run is the cheapest. So for each division the tops nearest to what is best are tried first, until nothing that
 * is left can be better.
 */
function bestIn(
  context: CounterContext,
  band: CountedBand,
  runs: readonly number[],
  minSteps: number,
): { best?: Shared; tried: boolean } {
  const { cost } = context;
  const slowest = cost.cycles > 0 && !cost.fastest;
  const search: BandSearch = {
    context,
    runs,
    cheapest: cpuSteps(cpuOf(cost, band.high, runs)),
    slowest,
    // Users that take what suits the run may fail beside the peak and not farther off.
    farthest: byRunAlone(context) && !slowest && !runs.includes(0) ? 3 : Infinity,
    tries: 0,
  };
  const byDivision = needsSteps(context);
  let peak: Peak | undefined;
  const { list, from, to } = divisionsIn(context, band, minSteps);
  for (const n of each(list, from, to)) {
    const range = topsIn(context, n, band, minSteps);
    if (range.min > range.max) continue;
    if (!peak || byDivision) peak = peakOf(context, band, runs, n);
    if (cannotImprove(search, peak) || tryTops(search, n, range, peak)) break;
  }
  return { ...(search.best ? { best: search.best } : {}), tried: search.tries > 0 };
}

/** All users' limits on a counter: lengths of a run for those it makes itself, numbers of runs for those that count it. */
function limitsOf(context: CounterContext): { direct: RunBand[]; counted: Counted[]; places: number[] } {
  const direct: RunBand[] = [];
  const counted: Counted[] = [];
  const places: number[] = [];
  context.uses.forEach((use, at) => {
    const requirement = context.wanted[at];
    if (!requirement) return;
    if (isDirect(use)) direct.push(directBand(use, requirement));
    else {
      counted.push(countedBand(use, requirement));
      places.push(at);
    }
  });
  return { direct, counted, places };
}

/** Which of the counted ones must change the soonest. */
function minOf(counted: readonly Counted[]): number {
  return counted.reduce((best, { high }, at) => (high < (counted[best]?.high ?? Infinity) ? at : best), 0);
}

/** Numbers of runs by the place of the use, from those of the counted ones. */
function runsBy(context: CounterContext, places: readonly number[], counted: readonly number[]): number[] {
  const runs = context.uses.map(() => 1);
  places.forEach((at, index) => {
    runs[at] = counted[index] ?? 1;
  });
  return runs;
}

/**
 * What all users get on a run that is given: the fastest of those that count it takes each number of runs in turn, the
 * others the one that is best for them.
 */
function bestOn(context: CounterContext, n: number, top: number): Shared | undefined {
  const { uses, wanted, cost, counter, limits } = context;
  const free = uses.map((use) => (isDirect(use) ? 1 : 0));
  const first = cost.fastest?.at;
  const [use, requirement] = first === undefined ? [] : [uses[first], wanted[first]];
  if (first === undefined || !use || !requirement || isDirect(use)) return sharedAt(context, n, top, free);
  let best: Shared | undefined;
  const cut = (): void => {
    limits.hit = true;
  };
  for (const k of runsFor(use, requirement, runOf(counter, n, top), cut)) {
    const one = sharedAt(
      context,
      n,
      top,
      free.map((one, at) => (at === first ? k : one)),
    );
    if (one && better(one, best)) best = one;
  }
  return best;
}

/** All runs of a counter whose top is fixed, the longest first; undefined where its top can be chosen. */
function fixedRuns({ counter, timer }: CounterContext): { n: number; top: number }[] | undefined {
  const { prescaler } = timer;
  if (counter.min < counter.max || prescaler.kind !== 'list') return undefined;
  return prescaler.options.map(({ divide }) => ({ n: divide, top: counter.min })).reverse();
}

/** The best of the few runs that a counter with a fixed top has. */
function bestFixed(
  context: CounterContext,
  fixed: readonly { n: number; top: number }[],
  max: number,
): Shared | undefined {
  let best: Shared | undefined;
  for (const { n, top } of fixed) {
    const one = bestOn(context, n, top);
    if (one && one.cpu <= max && better(one, best)) best = one;
    const dearer = one !== undefined && best !== undefined && cpuSteps(one.cpu) > cpuSteps(best.cpu);
    if (best && (best.level >= LEVELS || dearer)) break;
  }
  return best;
}

/** A counter some user's setting already decides; the others must do with it. */
function sharedLocked(context: CounterContext, setting: Setting): Shared | undefined {
  if (!hasTimer(setting)) return undefined;
  const { uses, timer, mode } = context;
  const counters = uses.flatMap(({ request: { locked } }) => (locked && hasTimer(locked) ? [locked] : []));
  const same = counters.every(
    (one) =>
      one.timer === timer.id &&
      one.mode === mode.id &&
      one.prescaler === setting.prescaler &&
      one.top === setting.top,
  );
  if (!same) return undefined;
  const n = setting.prescaler * scaleOf(timer.prescaler);
  const free = uses.filter(({ request }) => !request.locked);
  const wanted = context.wanted.filter((_, at) => !uses[at]?.request.locked);
  const scales = context.scales.filter((_, at) => !uses[at]?.request.locked);
  const routes = context.routes.filter((_, at) => !uses[at]?.request.locked);
  const cpuHz = context.cost.cpuHz;
  const others = {
    ...context,
    uses: free,
    wanted,
    scales,
    routes,
    cost: costOf(context.part, cpuHz, free, wanted),
  };
  const best = bestOn(others, n, setting.top);
  if (!best) return undefined;
  const made = [...best.shares];
  const shares = uses.map(({ request }): Share => (request.locked ? {} : (made.shift() ?? {})));
  const locked = costOf(context.part, cpuHz, uses, context.wanted);
  const cpu = cpuOf({ ...locked, fastest: undefined }, runOf(context.counter, n, setting.top), []);
  return { ...best, prescaler: setting.prescaler, shares, cpu };
}

/** What a counter is whose numbers leave nothing to search: a locked one, one for inputs, one with a fixed run. */
function withoutSearch(context: CounterContext, max: number): { shared: Shared | undefined } | undefined {
  const { uses } = context;
  const locked = uses.find(({ request }) => request.locked)?.request.locked;
  if (locked) return { shared: sharedLocked(context, locked) };
  const inputs = uses.filter(isInputUse).length;
  if (inputs > 0) return { shared: inputs === uses.length ? sharedInputs(context) : undefined };
  const fixed = fixedRuns(context);
  return fixed && { shared: bestFixed(context, fixed, max) };
}

/** Counts that a run needs for the duty steps of its users. */
function minStepsOf({ uses, scales }: CounterContext, grain: number): number {
  const needed = uses.map(({ drive }, at) =>
    needsCompare(drive) ? Math.ceil((scales[at]?.minSteps ?? 1) / grain) : 1,
  );
  return Math.max(1, ...needed);
}

/**
 * The numbers of one counter that serve all of its users, each within its tolerance and the oscillator's on top: the one
 * with the fewest interrupts, then with the largest margin. Exact: lengths of a run are whole ticks, and every
 * length within all tolerances is looked at, or `limits` says that it was not. Undefined where there is none at no more
 * processor time than `maxCpu`.
 */
export function shareCounter(
  part: Part,
  path: ClockPath,
  { timer, mode }: Pick<Option, 'timer' | 'mode'>,
  uses: readonly Use[],
  limits: Limits = { hit: false },
  maxCpu = MAX_CPU,
): Shared | undefined {
  const context = counterContext(part, path, { timer, mode }, uses, limits);
  if (!context) return undefined;
  const max = Math.min(maxCpu, MAX_CPU);
  const given = withoutSearch(context, max);
  if (given) return given.shared;
  const { direct, counted, places } = limitsOf(context);
  const minSteps = minStepsOf(context, grainOf(mode));
  let best: Shared | undefined;
  let failing = MAX_FAILING;
  const cut = (): void => {
    if (!best) limits.hit = true;
  };
  const first = context.cost.fastest ? places.indexOf(context.cost.fastest.at) : minOf(counted);
  for (const band of bandsFor([...direct, counterReach(context)], counted, { first, few: FEW, cut })) {
    const runs = runsBy(context, places, band.runs);
    const cpu = cpuOf(context.cost, band.high, runs);
    if (cpu > max || (best && cpuSteps(cpu) > cpuSteps(best.cpu))) break;
    const { best: found, tried } = bestIn(context, band, runs, minSteps);
    if (found && better(found, best)) best = found;
    if (best && best.level >= LEVELS) return best;
    failing -= !found && tried ? 1 : 0;
    if (failing <= 0) {
      limits.hit = true;
      return best;
    }
  }
  return best;
}
