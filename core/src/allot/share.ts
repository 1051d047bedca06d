import type { ClockPath } from '../clock/path.ts';
import { scaleOf } from '../part/division.ts';
import type { Part } from '../part/schema.ts';
import { grainOf } from '../timer/count.ts';
import type { Setting } from '../timer/setting.ts';
import { bandsFor, type Band, type Counted, type CountedBand } from './bands.ts';
import {
  benchOf,
  better,
  costOf,
  cpuOf,
  isDirect,
  MOST_CPU,
  runOf,
  type Bench,
  type Limits,
  type Share,
  type Shared,
  type Use,
} from './bench.ts';
import { byRunAlone, needsSteps, peakOf, type Peak } from './peak.ts';
import { cpuSteps, LEVELS } from './quality.ts';
import type { Option } from './request.ts';
import { divisionsIn, outward, reachOf, topsIn } from './reach.ts';
import { sharedAt } from './share-at.ts';
import { sharedInputs } from './share-inputs.ts';
import { countedBand, directBand, runsFor } from './share-soft.ts';

/** Numbers that are tried for one band, and bands with a length but no numbers that suit. */
const MOST_TRIES = 2048;
const MOST_FAILING = 64;

/** A user with more numbers of runs to choose from takes whichever suits the run. */
const FEW = 8;

/**
 * The best counter within one band. All of a band costs the same, but where a user only has a least frequency: there the
 * longest run is the cheapest. So for each division the tops nearest to what is best are tried first, until nothing that
 * is left can be better.
 */
function bestIn(
  bench: Bench,
  band: CountedBand,
  runs: readonly number[],
  leastSteps: number,
): { best?: Shared; tried: boolean } {
  const { counter, cost, limits } = bench;
  const cheapest = cpuSteps(cpuOf(cost, band.high, runs));
  const slowest = cost.cycles > 0 && !cost.fastest;
  const byDivision = needsSteps(bench);
  // Users that take what suits the run may fail beside the peak and not farther off.
  const farthest = byRunAlone(bench) && !slowest && !runs.includes(0) ? 3 : Infinity;
  let peak: Peak | undefined;
  let best: Shared | undefined;
  let tries = 0;
  const { list, from, to } = divisionsIn(bench, band, leastSteps);
  for (
    let place = 0, n = list?.[0] ?? from;
    list ? place < list.length : n <= to;
    place += 1, n = list?.[place] ?? n + 1
  ) {
    const { least, most } = topsIn(bench, n, band, leastSteps);
    if (least > most) continue;
    if (!peak || byDivision) peak = peakOf(bench, band, runs, n);
    const done = (): boolean =>
      best !== undefined && cpuSteps(best.cpu) <= cheapest && (slowest || best.level >= (peak?.level ?? 0));
    if (done()) break;
    const aim = slowest ? most : (peak.run - counter.hold) / (counter.factor * n) - counter.shift;
    let tops = 0;
    for (const top of outward(aim, least, most)) {
      if (tops >= farthest) break;
      tops += 1;
      if (counter.powers && !Number.isInteger(Math.log2(top + 1))) continue;
      if (slowest && best && cpuSteps(cpuOf(cost, runOf(counter, n, top), runs)) > cpuSteps(best.cpu)) break;
      const one = sharedAt(bench, n, top, runs);
      tries += 1;
      if (one && better(one, best)) best = one;
      if (done()) break;
      if (tries >= MOST_TRIES) {
        limits.hit = true;
        return { ...(best ? { best } : {}), tried: true };
      }
    }
  }
  return { ...(best ? { best } : {}), tried: tries > 0 };
}

/** All users' limits on a counter: lengths of a run for those it makes itself, numbers of runs for those that count it. */
function limitsOf(bench: Bench): { direct: Band[]; counted: Counted[]; places: number[] } {
  const direct: Band[] = [];
  const counted: Counted[] = [];
  const places: number[] = [];
  bench.uses.forEach((use, at) => {
    const goal = bench.wanted[at];
    if (!goal) return;
    if (isDirect(use)) direct.push(directBand(use, goal));
    else {
      counted.push(countedBand(use, goal));
      places.push(at);
    }
  });
  return { direct, counted, places };
}

/** Which of the counted ones must change the soonest. */
function leastOf(counted: readonly Counted[]): number {
  return counted.reduce((best, { high }, at) => (high < (counted[best]?.high ?? Infinity) ? at : best), 0);
}

/** Numbers of runs by the place of the use, from those of the counted ones. */
function runsBy(bench: Bench, places: readonly number[], counted: readonly number[]): number[] {
  const runs = bench.uses.map(() => 1);
  places.forEach((at, index) => {
    runs[at] = counted[index] ?? 1;
  });
  return runs;
}

/**
 * What all users get on a run that is given: the fastest of those that count it takes each number of runs in turn, the
 * others the one that is best for them.
 */
function bestOn(bench: Bench, n: number, top: number): Shared | undefined {
  const { uses, wanted, cost, counter, limits } = bench;
  const free = uses.map((use) => (isDirect(use) ? 1 : 0));
  const first = cost.fastest?.at;
  const [use, goal] = first === undefined ? [] : [uses[first], wanted[first]];
  if (first === undefined || !use || !goal || isDirect(use)) return sharedAt(bench, n, top, free);
  let best: Shared | undefined;
  const cut = (): void => {
    limits.hit = true;
  };
  for (const k of runsFor(use, goal, runOf(counter, n, top), cut)) {
    const one = sharedAt(
      bench,
      n,
      top,
      free.map((one, at) => (at === first ? k : one)),
    );
    if (one && better(one, best)) best = one;
  }
  return best;
}

/** All runs of a counter whose top is fixed, the longest first; undefined where its top can be chosen. */
function fixedRuns({ counter, timer }: Bench): { n: number; top: number }[] | undefined {
  const { prescaler } = timer;
  if (counter.least < counter.most || prescaler.kind !== 'list') return undefined;
  return prescaler.options.map(({ divide }) => ({ n: divide, top: counter.least })).reverse();
}

/** The best of the few runs that a counter with a fixed top has. */
function bestFixed(
  bench: Bench,
  fixed: readonly { n: number; top: number }[],
  most: number,
): Shared | undefined {
  let best: Shared | undefined;
  for (const { n, top } of fixed) {
    const one = bestOn(bench, n, top);
    if (one && one.cpu <= most && better(one, best)) best = one;
    const dearer = one !== undefined && best !== undefined && cpuSteps(one.cpu) > cpuSteps(best.cpu);
    if (best && (best.level >= LEVELS || dearer)) break;
  }
  return best;
}

/** A counter some user's setting already decides; the others must do with it. */
function sharedStaying(bench: Bench, setting: Setting): Shared | undefined {
  if (setting.drive === 'busy') return undefined;
  const { uses, timer, mode } = bench;
  const counters = uses.flatMap(({ request: { stays } }) => (stays && stays.drive !== 'busy' ? [stays] : []));
  const same = counters.every(
    (one) =>
      one.timer === timer.id &&
      one.mode === mode.id &&
      one.prescaler === setting.prescaler &&
      one.top === setting.top,
  );
  if (!same) return undefined;
  const n = setting.prescaler * scaleOf(timer.prescaler);
  const free = uses.filter(({ request }) => !request.stays);
  const wanted = bench.wanted.filter((_, at) => !uses[at]?.request.stays);
  const scales = bench.scales.filter((_, at) => !uses[at]?.request.stays);
  const ways = bench.ways.filter((_, at) => !uses[at]?.request.stays);
  const cpuHz = bench.cost.cpuHz;
  const others = {
    ...bench,
    uses: free,
    wanted,
    scales,
    ways,
    cost: costOf(bench.part, cpuHz, free, wanted),
  };
  const best = bestOn(others, n, setting.top);
  if (!best) return undefined;
  const made = [...best.shares];
  const shares = uses.map(({ request }): Share => (request.stays ? {} : (made.shift() ?? {})));
  const staying = costOf(bench.part, cpuHz, uses, bench.wanted);
  const cpu = cpuOf({ ...staying, fastest: undefined }, runOf(bench.counter, n, setting.top), []);
  return { ...best, prescaler: setting.prescaler, shares, cpu };
}

/**
 * The numbers of one counter that serve all of its users, each within its tolerance and the oscillator's on top: the one
 * with the least interrupts, then with the most left of what is scarce. Exact: lengths of a run are whole ticks, and every
 * length within all tolerances is looked at, or `limits` says that it was not. Undefined where there is none at no more
 * processor time than `mostCpu`.
 */
export function shareCounter(
  part: Part,
  path: ClockPath,
  { timer, mode }: Pick<Option, 'timer' | 'mode'>,
  uses: readonly Use[],
  limits: Limits = { hit: false },
  mostCpu = MOST_CPU,
): Shared | undefined {
  const bench = benchOf(part, path, { timer, mode }, uses, limits);
  if (!bench) return undefined;
  const inputs = uses.filter(({ drive }) => drive === 'capture').length;
  const staying = uses.find(({ request }) => request.stays)?.request.stays;
  if (staying) return sharedStaying(bench, staying);
  if (inputs > 0) return inputs === uses.length ? sharedInputs(bench) : undefined;
  const most = Math.min(mostCpu, MOST_CPU);
  const fixed = fixedRuns(bench);
  if (fixed) return bestFixed(bench, fixed, most);
  const { direct, counted, places } = limitsOf(bench);
  const leastSteps = Math.max(
    1,
    ...uses.map(({ drive }, at) =>
      drive === 'compare' ? Math.ceil((bench.scales[at]?.minSteps ?? 1) / grainOf(mode)) : 1,
    ),
  );
  let best: Shared | undefined;
  let failing = MOST_FAILING;
  const cut = (): void => {
    if (!best) limits.hit = true;
  };
  const first = bench.cost.fastest ? places.indexOf(bench.cost.fastest.at) : leastOf(counted);
  for (const band of bandsFor([...direct, reachOf(bench)], counted, { first, few: FEW, cut })) {
    const runs = runsBy(bench, places, band.runs);
    const cpu = cpuOf(bench.cost, band.high, runs);
    if (cpu > most || (best && cpuSteps(cpu) > cpuSteps(best.cpu))) break;
    const { best: found, tried } = bestIn(bench, band, runs, leastSteps);
    if (found && better(found, best)) best = found;
    if (best && best.level >= LEVELS) break;
    if (!found && tried) failing -= 1;
    if (failing > 0) continue;
    limits.hit = true;
    break;
  }
  return best;
}
