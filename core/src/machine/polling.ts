/**
 * How a program compares a running count with the count at which something is due. `signed`: the difference to the due
 * count, taken as a signed number, is not negative. `unsigned`: so much has passed since the last time, the difference taken
 * modulo the count's width. `absolute`: the count itself is not less than the due count, which is wrong at the wrap.
 */
type Comparison = 'signed' | 'unsigned' | 'absolute';

/** Something that the main loop does at an interval by looking at a count in each round. Times in s. */
export type Polled = {
  /** Time of a count, and how many bits the count has. */
  countS: number;
  bits: number;
  /** Counts from one time to the next. */
  interval: number;
  comparison: Comparison;
  /** Whether the next time is counted from when the last one was due, or from when it was seen. */
  from: 'due' | 'now';
};

/** One time at which it was done: when it was seen, and how much later that was than it should have been. */
export type Seen = { atS: number; lateS: number };

/** What polling amounts to. */
export type PollingResult = {
  /** The longest a due time waits to be seen, before the count wraps. */
  worstLateS: number;
  /** By how much the mean interval is longer than wanted, in ppm. */
  driftPpm: number;
  /** When the count wraps for the first time after a start at 0, in s. */
  wrapS: number;
  /** What happens at the wrap, and for how long. */
  atWrap: 'right' | 'burst' | 'stuck' | 'never';
  lastsS: number;
};

/** The most rounds that are looked at; those in which nothing can be due are passed over. */
const LOOKS = 100_000;

function modulo(value: number, whole: number): number {
  return ((value % whole) + whole) % whole;
}

/**
 * The times at which a loop that looks once a round sees that it is due, from a start of the count on, for some intervals'
 * time. The first is due an interval after the start.
 */
export function polled(
  { countS, bits, interval, comparison, from }: Polled,
  roundS: number,
  start: number,
  intervals: number,
): Seen[] {
  const whole = 2 ** bits;
  const step = roundS / countS;
  const rounds = Math.ceil((intervals * interval) / step);
  let last = modulo(start, whole);
  let due = modulo(last + interval, whole);
  const seen: Seen[] = [];
  let looks = 0;
  for (let round = 1; round <= rounds && looks < LOOKS; round += 1) {
    looks += 1;
    // The small part keeps a round that takes whole counts from being seen a count too early.
    const passed = Math.floor(round * step + 1e-9);
    const count = modulo(start + passed, whole);
    const isDue =
      comparison === 'unsigned'
        ? modulo(count - last, whole) >= interval
        : comparison === 'signed'
          ? modulo(count - due, whole) < whole / 2
          : count >= due;
    if (!isDue) {
      round += Math.max(0, Math.floor((modulo(due - count, whole) - 1) / step) - 1);
      continue;
    }
    const wanted = (seen.length + 1) * interval;
    seen.push({ atS: round * roundS, lateS: (round * step - wanted) * countS });
    last = from === 'due' ? modulo(last + interval, whole) : count;
    due = modulo(last + interval, whole);
  }
  return seen;
}

/** Intervals that are looked at before the wrap, and around it. */
const INTERVALS = 40;
const AROUND = 4;

function atWrap(poll: Polled, roundS: number): Pick<PollingResult, 'atWrap' | 'lastsS'> {
  const { interval, bits, countS } = poll;
  const whole = 2 ** bits;
  const wanted = interval * countS;
  const start = whole - Math.min(whole, AROUND * interval + Math.floor(interval / 2));
  const seen = polled(poll, roundS, start, 3 * AROUND);
  if (seen.length === 0) return { atWrap: 'never', lastsS: Infinity };
  const times = [0, ...seen.map(({ atS }) => atS)];
  const slack = roundS + countS;
  let burst = 0;
  let longest = 0;
  for (let i = 1; i < times.length; i += 1) {
    const apart = (times[i] ?? 0) - (times[i - 1] ?? 0);
    if (apart < wanted / 2 - slack) burst += apart;
    longest = Math.max(longest, apart);
  }
  const end = 3 * AROUND * wanted - (times[times.length - 1] ?? 0);
  if (burst > 0) return { atWrap: 'burst', lastsS: burst };
  if (Math.max(longest, end) > wanted * 1.5 + 2 * slack) return { atWrap: 'stuck', lastsS: whole * countS };
  return { atWrap: 'right', lastsS: 0 };
}

/** How late a loop with rounds of that length sees its due times, how they drift, and what happens where the count wraps. */
export function pollingResult(poll: Polled, roundS: number): PollingResult {
  const { interval, countS, bits } = poll;
  const whole = 2 ** bits;
  const possible = Math.min(INTERVALS, Math.max(1, Math.floor((whole - 1) / interval) - 1));
  const seen = polled(poll, roundS, 0, possible);
  const apart = seen.map(({ atS }, i) => atS - (seen[i - 1]?.atS ?? 0));
  const last = seen[seen.length - 1];
  const worst =
    poll.from === 'due'
      ? Math.max(0, ...seen.map(({ lateS }) => lateS))
      : Math.max(0, ...apart.map((one) => one - interval * countS));
  const mean = last && seen.length > 0 ? last.atS / seen.length : interval * countS;
  // Counted from the due time, an interval is late for once, and no more with each.
  const drift = poll.from === 'due' ? 0 : (mean / (interval * countS) - 1) * 1e6;
  return { worstLateS: worst, driftPpm: drift, wrapS: whole * countS, ...atWrap(poll, roundS) };
}
