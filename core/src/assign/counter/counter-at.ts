import { scaleOf } from '../../part/division.ts';
import { rateTop } from '../../fit/candidate.ts';
import { topSeries } from '../../fit/hardware/tops.ts';
import { cpuOf, MAX_CPU, runOf, runsIn, type CounterContext, type Share, type Shared } from './context.ts';
import { qualityLevel, qualityOf, type Scales } from './quality.ts';
import { runsFor, softwareShareAt } from './software-uses.ts';

/**
 * What one use gets at a division by n parts of the clock and a top, k runs to a change of those that count them;
 * undefined where its requirement is not met.
 */
export function shareAt(
  context: CounterContext,
  at: number,
  n: number,
  top: number,
  k: number,
): { share: Share; quality: number } | undefined {
  const [route, requirement] = [context.routes[at], context.wanted[at]];
  if (!requirement) return undefined;
  if (!route) return softwareShareAt(context, at, n, top, runOf(context.counter, n, top), k);
  const rating = rateTop(route, n, top, topSeries(context.mode, n, runsIn(route.drive)), requirement);
  if (!rating.meets) return undefined;
  const share = { compare: rating.compare, polarity: rating.polarity };
  return { share, quality: qualityOf(context.scales[at] as Scales, rating) };
}

/** What one use gets from a run with the number of runs that is best for it. */
function freeShareAt(
  context: CounterContext,
  at: number,
  n: number,
  top: number,
): (ReturnType<typeof shareAt> & { k: number }) | undefined {
  const [use, requirement] = [context.uses[at], context.wanted[at]];
  if (!use || !requirement) return undefined;
  let best: { share: Share; quality: number; k: number } | undefined;
  let cut = false;
  for (const k of runsFor(use, requirement, runOf(context.counter, n, top), () => (cut = true))) {
    const made = shareAt(context, at, n, top, k);
    if (made && (!best || made.quality > best.quality)) best = { ...made, k };
    if (best && best.quality >= 1) break;
  }
  if (cut && !best) context.limits.hit = true;
  return best;
}

/**
 * What all uses of a counter get at a division and top, `runs` of them to a change (0: the number that is best for it);
 * undefined where a requirement is not met.
 */
export function sharedAt(
  context: CounterContext,
  n: number,
  top: number,
  runs: readonly number[],
): Shared | undefined {
  const shares: Share[] = [];
  const taken = [...runs];
  let quality = 1;
  for (let at = 0; at < context.uses.length; at += 1) {
    const k = runs[at] ?? 1;
    const free = k === 0 ? freeShareAt(context, at, n, top) : undefined;
    const one = k === 0 ? free : shareAt(context, at, n, top, k);
    if (!one) return undefined;
    if (free) taken[at] = free.k;
    shares.push(one.share);
    quality = Math.min(quality, one.quality);
  }
  const cpu = cpuOf(context.cost, runOf(context.counter, n, top), taken);
  if (cpu > MAX_CPU) return undefined;
  const prescaler = n / scaleOf(context.timer.prescaler);
  return { prescaler, top, shares, level: qualityLevel(quality), quality, cpu };
}
