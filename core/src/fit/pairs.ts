/** A divider n and a top that together come near a period of n x unit x (top + shift) ticks. */
export type Pair = { n: number; top: number };

/** A search over a range of dividers, each with its best top. All lengths in ticks, whole numbers but for the period. */
export type PairSearch = {
  unit: number;
  shift: number;
  n: { least: number; most: number };
  tops: { least: number; most: number };
  /** Parts of a clock that n counts; whole clocks alone are tried where all parts would be too many. */
  scale: number;
  period: number;
  /** Relative distance up to which settings count as within reach. */
  reach: number;
};

/** So many dividers are tried one by one; beyond, whole clocks are, and the fraction is fitted afterwards. */
const MOST_TRIED = 400_000;

/** At the most so many exact pairs are listed, those with the most counts first. */
const MOST_EXACT = 64;

/** Pairs whose counts lie within this factor of each other share a place; the best of each place is listed. */
const PLACE = 1.04;

function held(value: number, least: number, most: number): number {
  return Math.min(most, Math.max(least, value));
}

/**
 * For every divider the counts that come nearest to the period; of these all that nothing beats (no divider has as many
 * counts at a smaller error), the best of each place, and exact ones. Dividers ascend, so counts descend, and one pass
 * finds the front. One divider beyond either end is tried too: its outermost counts may still be the nearest.
 * `finest` is the least divider that reaches the period.
 */
export function rangePairs(search: PairSearch): { pairs: Pair[]; finest: number; considered: number } {
  const { unit, shift, n, tops, scale, period, reach } = search;
  const least = Math.max(1, tops.least + shift);
  const most = tops.most + shift;
  const first = held(Math.floor(period / (unit * most)), n.least, n.most);
  const last = held(Math.ceil(period / (unit * least)), n.least, n.most);
  const stride = last - first > MOST_TRIED ? scale : 1;
  const start = stride === 1 ? first : held(Math.ceil(first / stride) * stride, n.least, n.most);
  const pairs: Pair[] = [];
  let considered = 0;
  let exact = 0;
  let best = Infinity;
  let floor = Infinity;
  let place = { n: start, top: least - shift };
  let placed = Infinity;
  for (let at = start; at <= last; at += stride) {
    const wanted = period / (unit * at);
    const whole = Math.floor(wanted);
    const below = whole < least ? least : whole > most ? most : whole;
    const above = below < most ? below + 1 : below;
    const lower = Math.abs(wanted / below - 1);
    const upper = Math.abs(wanted / above - 1);
    const counts = lower <= upper ? below : above;
    const error = lower <= upper ? lower : upper;
    const high = Math.floor(wanted * (1 + reach));
    considered += Math.max(
      0,
      (high > most ? most : high) - Math.max(least, Math.ceil(wanted * (1 - reach))) + 1,
    );
    if (error < best || (error === 0 && exact < MOST_EXACT)) pairs.push({ n: at, top: counts - shift });
    if (error < best) best = error;
    if (error === 0) exact += 1;
    if (counts < floor) {
      if (placed < Infinity) pairs.push(place);
      floor = counts / PLACE;
      placed = Infinity;
    }
    if (error < placed) {
      place = { n: at, top: counts - shift };
      placed = error;
    }
  }
  pairs.push(place);
  const fitted = stride === 1 ? [] : pairs.map((pair) => fitFraction(pair, search));
  return {
    pairs: unique([...pairs, ...fitted]),
    finest: held(Math.ceil(period / (unit * most)), n.least, n.most),
    considered,
  };
}

/** The divider, with its fraction, that suits the top of a pair best. */
function fitFraction({ top }: Pair, { unit, shift, n, period }: PairSearch): Pair {
  return { n: held(Math.round(period / (unit * (top + shift))), n.least, n.most), top };
}

function unique(pairs: readonly Pair[]): Pair[] {
  return [...new Map(pairs.map((pair) => [`${pair.n} ${pair.top}`, pair])).values()];
}
