/** Lengths of a counter's run that are wanted, in whole ticks, both ends among them. */
export type Band = { low: number; high: number };

/**
 * A signal whose changes are counted in runs of the counter: k runs must take between `low` and `high` ticks, for a k that
 * is allowed.
 */
export type Counted = Band & { allows: (k: number) => boolean };

/** Numbers of runs to a change that are tried for the fastest of the counted signals, where nothing else bounds them. */
const MOST_RUNS = 4096;

/** Bands that are looked at for one set of signals. */
const MOST_BANDS = 20_000;

function* within({ low, high }: Band, rest: readonly Counted[]): Generator<Band> {
  const [first, ...others] = rest;
  if (!first) {
    yield { low, high };
    return;
  }
  const from = Math.max(1, Math.ceil(first.low / high));
  const to = low > 0 ? Math.floor(first.high / low) : MOST_RUNS;
  for (let k = from; k <= Math.min(to, from + MOST_RUNS); k += 1) {
    if (!first.allows(k)) continue;
    const next = {
      low: Math.max(low, Math.ceil(first.low / k)),
      high: Math.min(high, Math.floor(first.high / k)),
    };
    if (next.low <= next.high) yield* within(next, others);
  }
}

/**
 * The lengths of a run, in ticks, that suit all signals of one counter: within what the direct ones want, a whole number
 * of runs to each change of the counted ones. The longest first, since few interrupts cost the least; exact, since all
 * lengths are whole ticks.
 */
export function* bandsFor(direct: readonly Band[], counted: readonly Counted[]): Generator<Band> {
  const base = direct.reduce(
    (one, other) => ({ low: Math.max(one.low, other.low), high: Math.min(one.high, other.high) }),
    { low: 0, high: Number.MAX_SAFE_INTEGER },
  );
  if (base.low > base.high) return;
  const fastestFirst = [...counted].sort((one, other) => one.high - other.high);
  let count = 0;
  for (const band of within(base, fastestFirst)) {
    yield band;
    count += 1;
    if (count >= MOST_BANDS) return;
  }
}
