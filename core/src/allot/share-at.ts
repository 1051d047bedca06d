import { scaleOf } from '../part/division.ts';
import { rateTop } from '../fit/candidate.ts';
import { laneOf } from '../fit/tops.ts';
import { cpuOf, MOST_CPU, runOf, runsIn, type Bench, type Share, type Shared } from './bench.ts';
import { levelOf, qualityOf, type Scales } from './quality.ts';
import { runsFor, softShareAt } from './share-soft.ts';

/**
 * What one use gets at a division by n parts of the clock and a top, k runs to a change of those that count them;
 * undefined where its goal is not met.
 */
export function shareAt(
  bench: Bench,
  at: number,
  n: number,
  top: number,
  k: number,
): { share: Share; quality: number } | undefined {
  const [way, goal] = [bench.ways[at], bench.wanted[at]];
  if (!goal) return undefined;
  if (!way) return softShareAt(bench, at, n, top, runOf(bench.counter, n, top), k);
  const rating = rateTop(way, n, top, laneOf(bench.mode, n, runsIn(way.drive)), goal);
  if (!rating.meets) return undefined;
  const share = { compare: rating.compare, polarity: rating.polarity };
  return { share, quality: qualityOf(bench.scales[at] as Scales, rating) };
}

/** What one use gets from a run with the number of runs that is best for it. */
function freeShareAt(
  bench: Bench,
  at: number,
  n: number,
  top: number,
): (ReturnType<typeof shareAt> & { k: number }) | undefined {
  const [use, goal] = [bench.uses[at], bench.wanted[at]];
  if (!use || !goal) return undefined;
  let best: { share: Share; quality: number; k: number } | undefined;
  let cut = false;
  for (const k of runsFor(use, goal, runOf(bench.counter, n, top), () => (cut = true))) {
    const made = shareAt(bench, at, n, top, k);
    if (made && (!best || made.quality > best.quality)) best = { ...made, k };
    if (best && best.quality >= 1) break;
  }
  if (cut && !best) bench.limits.hit = true;
  return best;
}

/**
 * What all uses of a counter get at a division and top, `runs` of them to a change (0: the number that is best for it);
 * undefined where a goal is not met.
 */
export function sharedAt(bench: Bench, n: number, top: number, runs: readonly number[]): Shared | undefined {
  const shares: Share[] = [];
  const taken = [...runs];
  let quality = 1;
  for (let at = 0; at < bench.uses.length; at += 1) {
    const k = runs[at] ?? 1;
    const free = k === 0 ? freeShareAt(bench, at, n, top) : undefined;
    const one = k === 0 ? free : shareAt(bench, at, n, top, k);
    if (!one) return undefined;
    if (free) taken[at] = free.k;
    shares.push(one.share);
    quality = Math.min(quality, one.quality);
  }
  const cpu = cpuOf(bench.cost, runOf(bench.counter, n, top), taken);
  if (cpu > MOST_CPU) return undefined;
  const prescaler = n / scaleOf(bench.timer.prescaler);
  return { prescaler, top, shares, level: levelOf(quality), quality, cpu };
}
