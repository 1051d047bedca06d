import { clockOf, type ClockPath } from '../clock/path.ts';
import { divisionRange, scaleOf } from '../part/division.ts';
import type { Part } from '../part/schema.ts';
import { rateTop, tickGoal, type TickGoal } from '../fit/candidate.ts';
import { softCandidate } from '../fit/soft.ts';
import { laneOf } from '../fit/tops.ts';
import { grainOf } from '../timer/count.ts';
import { produceSoft } from '../timer/produce-soft.ts';
import { type InterruptDriven, type Setting } from '../timer/setting.ts';
import { bandsFor, type Band } from './bands.ts';
import {
  better,
  costOf,
  counterOf,
  cpuOf,
  isDirect,
  isSoft,
  MOST_CPU,
  runOf,
  runsIn,
  type Bench,
  type Limits,
  type Share,
  type Shared,
  type Use,
} from './bench.ts';
import { cpuSteps, LEVELS, levelOf, qualityOf } from './quality.ts';
import { narrowed, type Option } from './request.ts';
import { sharedInputs } from './share-inputs.ts';
import { countedBand, directBand, softPinOf, softSetting } from './share-soft.ts';

/** Tops of a division are tried one by one up to so many; of more the middle ones. */
const WHOLE = 256;

/** Divisions of a range that are tried once something suits. */
const TRIED = 4096;

/**
 * What the program counts hardly depends on how a run is divided, so after so many failures in one band, and so many
 * failing bands, the others would fail too.
 */
const FAILED = 24;

/** The highest counts of a division whose run lies within a band, thinned to those around the middle where they are many. */
function topsIn(bench: Bench, n: number, { low, high }: Band, leastSteps: number): number[] {
  const { counter } = bench;
  const { shift } = counter;
  const unit = counter.factor * n;
  const hold = counter.hold + (counter.latency % n);
  const least = Math.max(counter.least, leastSteps - shift, Math.ceil((low - hold) / unit) - shift);
  const most = Math.min(counter.most, Math.floor((high - hold) / unit) - shift);
  if (least > most) return [];
  if (counter.powers) {
    const powers = Array.from({ length: 33 }, (_, bits) => 2 ** bits - 1);
    return powers.filter((top) => top >= least && top <= most);
  }
  if (most - least < WHOLE) return Array.from({ length: most - least + 1 }, (_, at) => least + at);
  const middle = (Math.max(low, least * unit) + Math.min(high, (most + shift) * unit)) / 2 / unit - shift;
  const balanced = Math.sqrt(Math.max(1, (least + shift) * (most + shift))) - shift;
  return [least, Math.round(balanced), Math.floor(middle), Math.ceil(middle), most];
}

/** What one use gets at a division and top; undefined where its goal is not met. */
function shareAt(
  bench: Bench,
  at: number,
  n: number,
  top: number,
): { share: Share; quality: number } | undefined {
  const { part, path, timer, mode, uses, wanted } = bench;
  const [use, goal] = [uses[at], wanted[at]];
  if (!use || !goal) return undefined;
  const { drive, outputs } = use;
  if (drive === 'compare' || drive === 'toggle') {
    const [output] = outputs;
    const channel = timer.channels.find(({ id }) => id === use.channel) ?? timer.channels[0];
    if (!output || !channel) return undefined;
    const way = { timer, mode, drive, channel, pin: output.pin, outputs: [...outputs] };
    const rating = rateTop(way, n, top, laneOf(mode, n, runsIn(drive)), goal);
    if (!rating.meets) return undefined;
    const share = { compare: rating.compare, polarity: rating.polarity };
    return { share, quality: qualityOf(goal.goal, rating) };
  }
  const prescaler = n / scaleOf(timer.prescaler);
  const setting = softSetting(bench, use, prescaler, top, runOf(bench.counter, n, top), goal);
  const cpuHz = clockOf(path, part.cpu.clock);
  const placed = setting.pin === '' ? ({ ...setting, pin: softPinOf(part) } as InterruptDriven) : setting;
  const made = softCandidate(goal.goal, placed, produceSoft(part, placed, clockOf(path, timer.clock), cpuHz));
  if (!made.meets) return undefined;
  const share: Share = {
    ...('divider' in setting ? { divider: setting.divider } : {}),
    ...('compare' in setting ? { compare: setting.compare } : {}),
  };
  return { share, quality: qualityOf(goal.goal, made) };
}

/** Divisions by n parts of the clock in ascending order, of a range those that can reach a band. */
function divisionsIn(
  bench: Bench,
  { low, high }: Band,
  leastSteps: number,
): { list?: number[]; from: number; to: number } {
  const { prescaler } = bench.timer;
  if (prescaler.kind === 'list') return { list: prescaler.options.map((one) => one.divide), from: 0, to: 0 };
  const { factor, shift, least: leastTop, most: mostTop } = bench.counter;
  const { least, most } = divisionRange(prescaler);
  const fewest = Math.max(leastTop, leastSteps - shift) + shift;
  return {
    from: Math.max(least, Math.ceil(low / factor / (mostTop + shift))),
    to: Math.min(most, Math.floor(high / factor / Math.max(1, fewest))),
  };
}

function sharedAt(bench: Bench, n: number, top: number): Shared | undefined {
  const cpu = cpuOf(bench.cost, runOf(bench.counter, n, top));
  if (cpu > MOST_CPU) return undefined;
  const shares: Share[] = [];
  let quality = 1;
  for (let at = 0; at < bench.uses.length; at += 1) {
    const one = shareAt(bench, at, n, top);
    if (!one) return undefined;
    shares.push(one.share);
    quality = Math.min(quality, one.quality);
  }
  const prescaler = n / scaleOf(bench.timer.prescaler);
  return { prescaler, top, shares, level: levelOf(quality), quality, cpu };
}

/** The shortest and the longest run that a counter can make at all; what holds it makes none shorter. */
function reachOf(bench: Bench): Band {
  const { prescaler } = bench.timer;
  const divisions =
    prescaler.kind === 'list'
      ? prescaler.options.map((one) => one.divide)
      : [prescaler.least, prescaler.most];
  const [first, last] = [Math.min(...divisions), Math.max(...divisions)];
  const { factor, shift, least, most } = bench.counter;
  return { low: factor * first * (least + shift), high: runOf(bench.counter, last, most) + last };
}

/** The best counter within one band. */
function bestIn(bench: Bench, band: Band, leastSteps: number): { best?: Shared; tried: boolean } {
  const { list, from, to } = divisionsIn(bench, band, leastSteps);
  let best: Shared | undefined;
  let tried = false;
  let left = bench.uses.some(isSoft) ? FAILED : TRIED;
  const cheapest = cpuSteps(cpuOf(bench.cost, band.high));
  let failing = bench.uses.some(isSoft) ? FAILED : Infinity;
  const tryAt = (n: number): boolean => {
    for (const top of topsIn(bench, n, band, leastSteps)) {
      const one = sharedAt(bench, n, top);
      tried = true;
      if (one && better(one, best)) best = one;
      if (one) continue;
      failing -= 1;
      if (failing <= 0) {
        bench.limits.hit = true;
        return true;
      }
    }
    if (best) left -= 1;
    if (left <= 0) bench.limits[bench.uses.some(isSoft) ? 'finer' : 'hit'] = true;
    return (best !== undefined && best.level >= LEVELS && cpuSteps(best.cpu) <= cheapest) || left <= 0;
  };
  if (list) for (const n of list) tryAt(n);
  else for (let n = from; n <= to; n += 1) if (tryAt(n)) break;
  return { ...(best ? { best } : {}), tried };
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
  const shares: Share[] = [];
  let quality = 1;
  for (const [at, { request }] of uses.entries()) {
    const one = request.stays ? { share: {}, quality: 1 } : shareAt(bench, at, n, setting.top);
    if (!one) return undefined;
    shares.push(one.share);
    quality = Math.min(quality, one.quality);
  }
  const cpu = cpuOf(bench.cost, runOf(bench.counter, n, setting.top));
  return { prescaler: setting.prescaler, top: setting.top, shares, level: levelOf(quality), quality, cpu };
}

/**
 * The numbers of one counter that serve all of its users, each within its tolerance and the oscillator's on top: the one
 * with the least interrupts, then with the most left of what is scarce. Exact: lengths of a run are whole ticks, and every
 * length within all tolerances is looked at. Undefined where there is none.
 */
export function shareCounter(
  part: Part,
  path: ClockPath,
  { timer, mode }: Pick<Option, 'timer' | 'mode'>,
  uses: readonly Use[],
  limits: Limits = { hit: false, finer: false },
): Shared | undefined {
  const scale = scaleOf(timer.prescaler);
  const clockHz = clockOf(path, timer.clock).mul(scale);
  const goals = uses.map(({ request }) => narrowed(request.goal, path, timer));
  if (goals.some((goal) => goal === undefined)) return undefined;
  const wanted = goals.flatMap((goal) => (goal ? [tickGoal(goal, clockHz, scale)] : []));
  const cpuHz = clockOf(path, part.cpu.clock).valueOf();
  const counter = counterOf(part, timer, mode);
  const cost = costOf(part, cpuHz, uses, wanted);
  const bench: Bench = { part, path, timer, mode, uses, wanted, cpuHz, limits, counter, cost };
  const inputs = uses.filter(({ drive }) => drive === 'capture').length;
  const staying = uses.find(({ request }) => request.stays)?.request.stays;
  if (staying) return sharedStaying(bench, staying);
  if (inputs > 0) return inputs === uses.length ? sharedInputs(bench) : undefined;
  const pairs = uses.map((use, at) => ({ use, goal: wanted[at] as TickGoal }));
  const direct = pairs.filter(({ use }) => isDirect(use)).map(({ use, goal }) => directBand(use, goal));
  const counted = pairs.filter(({ use }) => !isDirect(use)).map(({ use, goal }) => countedBand(use, goal));
  const leastSteps = Math.max(
    1,
    ...pairs.map(({ use, goal }) =>
      use.drive === 'compare' ? Math.ceil(goal.goal.minSteps / grainOf(mode)) : 1,
    ),
  );
  let best: Shared | undefined;
  let failing = FAILED;
  for (const band of bandsFor([...direct, reachOf(bench)], counted)) {
    if (failing <= 0) {
      limits.hit = true;
      break;
    }
    if (best && cpuSteps(cpuOf(bench.cost, band.high)) > cpuSteps(best.cpu)) break;
    if (cpuOf(bench.cost, band.high) > MOST_CPU) break;
    const { best: found, tried } = bestIn(bench, band, leastSteps);
    if (found && better(found, best)) best = found;
    if (!found && tried) failing -= 1;
    if (best && best.level >= LEVELS) break;
  }
  return best;
}
