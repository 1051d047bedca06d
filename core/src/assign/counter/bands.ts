/** Lengths of a counter's run that are wanted, in whole ticks, both ends among them. */
export type RunBand = { low: number; high: number };

/**
 * A signal whose changes are counted in runs of the counter: k runs take between `low` and `high` ticks, and `within(k)`
 * says how long a run may be for that k; undefined where k runs cannot make it at all.
 */
export type Counted = RunBand & { within: (k: number) => RunBand | undefined };

/**
 * Lengths of a run with what each counted signal, in their order, takes of them to a change; 0 where it could take so many
 * numbers of them that each run has one.
 */
export type CountedBand = RunBand & { runs: readonly number[] };

/** Numbers of runs to a change that are tried for one signal, where nothing else bounds them. */
const MAX_RUNS = 4096;

/** Bands that are looked at for one set of signals. */
const MAX_BANDS = 20_000;

/** The lengths of a run that make k of them take between two times. */
export function kthOf({ low, high }: RunBand, k: number): RunBand {
  return { low: Math.ceil(low / k), high: Math.floor(high / k) };
}

/** Numbers of runs, the least and the most, with which a signal is made on runs of some length. */
function numbersOf({ low, high }: RunBand, run: RunBand): { from: number; to: number } {
  return {
    from: Math.max(1, Math.ceil(low / run.high)),
    to: run.low > 0 ? Math.floor(high / run.low) : Infinity,
  };
}

/**
 * The lengths of a run, in ticks, that suit all signals of one counter: within what the direct ones want, a whole number
 * of runs to each change of the counted ones; exact, since all lengths are whole ticks. In the order of the numbers of runs
 * of the first. Another with more than `few` numbers to choose from is left to the run that is taken. `cut` is called where
 * there are more bands than are looked at.
 */
export function* bandsFor(
  direct: readonly RunBand[],
  counted: readonly Counted[],
  { first = 0, few = Infinity, cut }: { first?: number; few?: number; cut?: () => void } = {},
): Generator<CountedBand> {
  const base = direct.reduce(
    (one, other) => ({ low: Math.max(one.low, other.low), high: Math.min(one.high, other.high) }),
    { low: 0, high: Number.MAX_SAFE_INTEGER },
  );
  if (base.low > base.high) return;
  const runs = counted.map(() => 0);
  let count = 0;
  function* within(band: RunBand, rest: readonly number[]): Generator<CountedBand> {
    const [at, ...others] = rest;
    const own = at === undefined ? undefined : counted[at];
    if (at === undefined || !own) {
      yield { ...band, runs: [...runs] };
      count += 1;
      return;
    }
    const { from, to } = numbersOf(own, band);
    if (at !== first && to - from >= few) {
      runs[at] = 0;
      yield* within(band, others);
      return;
    }
    const last = Math.min(to, from + MAX_RUNS);
    for (let k = from; k <= last && count < MAX_BANDS; k += 1) {
      const fits = own.within(k);
      if (!fits) continue;
      const next = { low: Math.max(band.low, fits.low), high: Math.min(band.high, fits.high) };
      if (next.low > next.high) continue;
      runs[at] = k;
      yield* within(next, others);
    }
    if (last < to || count >= MAX_BANDS) cut?.();
  }
  const order = counted.map((_, at) => at).filter((at) => at !== first);
  order.sort((one, other) => (counted[one]?.high ?? 0) - (counted[other]?.high ?? 0));
  yield* within(base, counted[first] ? [first, ...order] : order);
}
