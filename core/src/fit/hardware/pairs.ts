/** A divider n and a top that together come near a period of n x unit x (top + shift) ticks. */
export type Pair = { n: number; top: number };

/** A search over a range of dividers, each with its best top. All lengths in ticks, whole numbers but for the period. */
export type PairSearch = {
  unit: number;
  shift: number;
  n: { min: number; max: number };
  tops: { min: number; max: number };
  /** Parts of a clock that n counts; whole clocks alone are tried where all parts would be too many. */
  scale: number;
  period: number;
  /** Relative distance up to which settings count as within reach. */
  reach: number;
};

/** So many dividers are tried one by one; beyond, whole clocks are, and the fraction is fitted afterwards. */
const MAX_TRIED = 400_000;

/** The maximum number of exact pairs listed; those with the most counts come first. */
const MAX_EXACT = 64;

/** Pairs whose counts lie within this factor of each other share a place; the best of each place is listed. */
const PLACE = 1.04;

function held(value: number, min: number, max: number): number {
  return Math.min(max, Math.max(min, value));
}

/** Collects pairs while counts descend: the Pareto-optimal ones, exact ones, and the best of each place. */
function collector(): {
  take: (n: number, top: number, counts: number, error: number) => void;
  pairs: () => Pair[];
} {
  const found: Pair[] = [];
  let exact = 0;
  let best = Infinity;
  let floor = Infinity;
  let place: Pair | undefined;
  let placed = Infinity;
  return {
    take(n, top, counts, error) {
      if (error < best || (error === 0 && exact < MAX_EXACT)) found.push({ n, top });
      if (error < best) best = error;
      if (error === 0) exact += 1;
      if (counts < floor) {
        if (place) found.push(place);
        floor = counts / PLACE;
        placed = Infinity;
      }
      if (error < placed) {
        place = { n, top };
        placed = error;
      }
    },
    pairs: () => (place ? [...found, place] : found),
  };
}

/** How many pairs of a divider within [from, to] and counts within [min, max] have a product within [low, high]. */
function countProducts(
  from: number,
  to: number,
  min: number,
  max: number,
  low: number,
  high: number,
): number {
  let count = 0;
  for (let n = from; n <= to; n += 1) {
    const upper = Math.min(max, Math.floor(high / n));
    const lower = Math.max(min, Math.ceil(low / n));
    if (upper >= lower) count += upper - lower + 1;
  }
  return count;
}

/**
 * Pairs of a divider and counts that are closest to the period: all Pareto-optimal ones (no other has as many counts at
 * a smaller error), the best of each place, and exact ones. Every pair has either a divider or counts below the root of
 * the period, so it is enough to try the small dividers with their best counts, then the small counts with their best
 * dividers. One divider beyond either end is tried too: its outermost counts may still be the nearest. `finest` is the
 * least divider that reaches the period.
 */
export function rangePairs(search: PairSearch): { pairs: Pair[]; finest: number; considered: number } {
  const { unit, shift, n, tops, scale, reach } = search;
  const min = Math.max(1, tops.min + shift);
  const max = tops.max + shift;
  const period = search.period / unit;
  const first = held(Math.floor(period / max), n.min, n.max);
  const last = held(Math.ceil(period / min), n.min, n.max);
  const middle = held(Math.floor(Math.sqrt(period)), first, last);
  const stride = middle - first > MAX_TRIED ? scale : 1;
  const { take, pairs } = collector();
  for (let at = first; at <= middle; at += stride) {
    const wanted = period / at;
    const below = held(Math.floor(wanted), min, max);
    const above = below < max ? below + 1 : below;
    const lower = Math.abs(wanted / below - 1);
    const upper = Math.abs(wanted / above - 1);
    const counts = lower <= upper ? below : above;
    take(at, counts - shift, counts, lower <= upper ? lower : upper);
  }
  const widest = held(Math.floor(period / (middle + 1)) + 1, min, max);
  const narrowest = held(Math.floor(period / last), min, max);
  for (let counts = last > middle ? widest : 0; counts >= narrowest && counts > 0; counts -= 1) {
    const wanted = period / counts;
    const below = held(Math.floor(wanted), n.min, n.max);
    const above = below < n.max ? below + 1 : below;
    const lower = Math.abs(wanted / below - 1);
    const upper = Math.abs(wanted / above - 1);
    take(lower <= upper ? below : above, counts - shift, counts, lower <= upper ? lower : upper);
  }
  const low = period * (1 - reach);
  const high = period * (1 + reach);
  const fewest = Math.max(min, Math.floor(low / last));
  const widely = Math.min(max, Math.floor(high / (middle + 1)));
  const counted =
    countProducts(first, middle, min, max, low, high) +
    (last > middle ? countProducts(fewest, widely, middle + 1, last, low, high) : 0);
  const all = pairs();
  const fitted = stride === 1 ? [] : all.map((pair) => fitFraction(pair, search));
  return {
    pairs: unique([...all, ...fitted]),
    finest: held(Math.ceil(period / max), n.min, n.max),
    considered: stride === 1 ? counted : all.length,
  };
}

/** The divider, with its fraction, that fits the top of a pair best. */
function fitFraction({ top }: Pair, { unit, shift, n, period }: PairSearch): Pair {
  return { n: held(Math.round(period / (unit * (top + shift))), n.min, n.max), top };
}

function unique(pairs: readonly Pair[]): Pair[] {
  return [...new Map(pairs.map((pair) => [`${pair.n} ${pair.top}`, pair])).values()];
}
