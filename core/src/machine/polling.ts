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

/** What goes wrong with polling, whatever the phase of its rounds; the worst of it where there is more than one. */
type PollingFault =
  /** The interval is not less than the run of the count. */
  | 'never'
  /** A signed difference takes an interval of more than half of the run for one that is over. */
  | 'half'
  /** A round is longer than the interval: it is done once a round, and falls behind with each. */
  | 'behind'
  /** A round can step over all the counts at which it would be seen, so that it waits for another run of the count. */
  | 'missed'
  /** A due count beyond the wrap is a small number: it is done in each round until the count wraps, too. */
  | 'burst';

/** What polling amounts to. */
export type PollingResult = {
  /** A due time is seen less than this later, where nothing is wrong. */
  worstLateS: number;
  /** By how much the mean interval is longer than wanted, in ppm. */
  driftPpm: number;
  /** When the count wraps for the first time after a start at 0, in s. */
  wrapS: number;
  fault?: PollingFault;
  /** How long the fault lasts at most, or by how much it falls behind with each round. */
  lastsS: number;
};

/** The most rounds that are looked at; those in which nothing can be due are passed over. */
const LOOKS = 100_000;

function modulo(value: number, whole: number): number {
  return ((value % whole) + whole) % whole;
}

/**
 * The times at which a loop that looks once a round sees that it is due, from a start of the count on, for some intervals'
 * time. The first is due an interval after the start, and the first round ends `early` counts sooner than a whole one.
 */
export function polled(
  { countS, bits, interval, comparison, from }: Polled,
  roundS: number,
  start: number,
  intervals: number,
  early = 0,
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
    const passed = Math.floor(round * step - early + 1e-9);
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
    const at = round * step - early;
    seen.push({ atS: at * countS, lateS: (at - wanted) * countS });
    last = from === 'due' ? modulo(last + interval, whole) : count;
    due = modulo(last + interval, whole);
  }
  return seen;
}

/** Intervals over which a drift is measured. */
const INTERVALS = 40;

/** What is wrong with polling in rounds of so many counts, and how long that lasts, in counts. */
function faultOf(
  { bits, interval, comparison, from }: Polled,
  step: number,
): { fault: PollingFault; counts: number } | undefined {
  const whole = 2 ** bits;
  // The counts at which it is seen to be due, from the first on; of a difference they are the same in every run.
  const seen = { unsigned: whole - interval, signed: whole / 2, absolute: 1 }[comparison];
  if (interval >= whole) return { fault: 'never', counts: Infinity };
  if (comparison === 'signed' && interval > whole / 2) return { fault: 'half', counts: Infinity };
  if (step > interval && from === 'due') return { fault: 'behind', counts: step - interval };
  if (step > seen) return { fault: 'missed', counts: whole };
  // Rounds that are as long as the interval do it once each in any case.
  return comparison === 'absolute' && interval > step ? { fault: 'burst', counts: interval } : undefined;
}

/**
 * How late a loop with rounds of that length sees its due times, how they drift, and what goes wrong, at the wrap of the count or before it, in the worst
 * phase of its rounds.
 */
export function pollingResult(poll: Polled, roundS: number): PollingResult {
  const { interval, countS, bits, from } = poll;
  const whole = 2 ** bits;
  const wrong = faultOf(poll, roundS / countS);
  const possible = Math.min(INTERVALS, Math.max(1, Math.floor((whole - 1) / interval) - 1));
  const seen = from === 'now' ? polled(poll, roundS, 0, possible) : [];
  const last = seen[seen.length - 1];
  const mean = last ? last.atS / seen.length : interval * countS;
  return {
    // Counted from now, an interval begins within a count that has begun already.
    worstLateS: from === 'due' ? roundS : roundS + countS,
    driftPpm: (mean / (interval * countS) - 1) * 1e6,
    wrapS: whole * countS,
    ...(wrong ? { fault: wrong.fault } : {}),
    lastsS: wrong ? wrong.counts * countS : 0,
  };
}
