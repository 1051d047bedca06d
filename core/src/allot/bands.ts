/** Lengths of a counter's run that are wanted, in whole ticks, both ends among them. */
export type Band = { low: number; high: number };

/**
 * A signal whose changes are counted in runs of the counter: k runs take between `low` and `high` ticks, and `within(k)`
 * says how long a run may be for that k; undefined where k runs cannot make it at all.
 */
export type Counted = Band & { within: (k: number) => Band | undefined };

/** Lengths of a run with what each counted signal, in their order, takes of them to a change. */
export type CountedBand = Band & { runs: readonly number[] };

/** Numbers of runs to a change that are tried for the fastest of the counted signals, where nothing else bounds them. */
const MOST_RUNS = 4096;

/** Bands that are looked at for one set of signals. */
const MOST_BANDS = 20_000;

/** The lengths of a run that make k of them take between two times. */
export function kthOf({ low, high }: Band, k: number): Band {
  return { low: Math.ceil(low / k), high: Math.floor(high / k) };
}

/**
 * The lengths of a run, in ticks, that suit all signals of one counter: within what the direct ones want, a whole number
 * of runs to each change of the counted ones. The longest first, since few interrupts cost the least; exact, since all
 * lengths are whole ticks. `cut` is called where there are more than are looked at.
 */
export function* bandsFor(
  direct: readonly Band[],
  counted: readonly Counted[],
  cut?: () => void,
): Generator<CountedBand> {
  const base = direct.reduce(
    (one, other) => ({ low: Math.max(one.low, other.low), high: Math.min(one.high, other.high) }),
    { low: 0, high: Number.MAX_SAFE_INTEGER },
  );
  if (base.low > base.high) return;
  const order = counted.map((_, at) => at);
  order.sort((one, other) => (counted[one]?.high ?? 0) - (counted[other]?.high ?? 0));
  const runs = counted.map(() => 1);
  let count = 0;
  function* within({ low, high }: Band, depth: number): Generator<CountedBand> {
    const at = order[depth];
    const own = at === undefined ? undefined : counted[at];
    if (at === undefined || !own) {
      yield { low, high, runs: [...runs] };
      count += 1;
      return;
    }
    const from = Math.max(1, Math.ceil(own.low / high));
    const to = low > 0 ? Math.floor(own.high / low) : Infinity;
    const last = Math.min(to, from + MOST_RUNS);
    for (let k = from; k <= last && count < MOST_BANDS; k += 1) {
      const fits = own.within(k);
      if (!fits) continue;
      const next = { low: Math.max(low, fits.low), high: Math.min(high, fits.high) };
      if (next.low > next.high) continue;
      runs[at] = k;
      yield* within(next, depth + 1);
    }
    if (last < to || count >= MOST_BANDS) cut?.();
  }
  yield* within(base, 0);
}
