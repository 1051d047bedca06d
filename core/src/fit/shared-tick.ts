import { exact, type Exact } from '../quantity/exact.ts';
import type { Goal } from '../target/goal.ts';

/** One signal's part in a shared tick: so many ticks to a change, what comes of it, and whether that holds. */
export type TickShare = { divider: number; frequencyHz: number; errorPpm: number; meets: boolean };

/** A tick that several slow signals share, with the divider of each. */
export type SharedTick = { tickHz: Exact; shares: TickShare[] };

/** Changes of a signal in a period: a toggled pin changes twice, a tick is once. */
function changesOf(goal: Goal): number {
  return goal.pin ? 2 : 1;
}

/** Ticks longer than this are not looked for in finer and finer parts. */
const MOST_PARTS = 20_000;

function sharesOf(goals: readonly Goal[], tickHz: Exact): TickShare[] {
  return goals.map((goal) => {
    const wanted = goal.frequency.kind === 'near' ? goal.frequency.ideal : goal.frequency.low;
    const changes = changesOf(goal);
    const divider = Math.max(1, Math.round(tickHz.div(wanted.mul(changes)).valueOf()));
    const made = tickHz.div(divider * changes);
    const high = goal.frequency.kind === 'near' ? goal.frequency.high : undefined;
    const meets = made.compare(goal.frequency.low) >= 0 && (high === undefined || made.compare(high) <= 0);
    return {
      divider,
      frequencyHz: made.valueOf(),
      errorPpm: made.div(wanted).sub(1).mul(1000000).valueOf(),
      meets,
    };
  });
}

/**
 * Ticks from which every goal can be made, the slowest first, ever faster ones after it; see `sharedTick`.
 */
export function* sharedTicks(goals: readonly Goal[]): Generator<SharedTick> {
  const rates = goals.map((goal) => {
    const wanted = goal.frequency.kind === 'near' ? goal.frequency.ideal : goal.frequency.low;
    return wanted.mul(changesOf(goal));
  });
  const fastest = rates.reduce<Exact>((one, other) => (one.compare(other) >= 0 ? one : other), exact(0));
  if (fastest.equals(0)) return;
  for (let parts = 1; parts <= MOST_PARTS; parts += 1) {
    const tickHz = fastest.mul(parts);
    const shares = sharesOf(goals, tickHz);
    if (shares.every((share) => share.meets)) yield { tickHz, shares };
  }
}

/**
 * The slowest tick from which every goal can be made by counting ticks to a change (two changes a period on a pin, one
 * for a tick), each within its tolerance. The tick is a whole number of times as fast as the changes of one of the
 * signals; the fastest of them is tried first, in one part, then in two, three and more. Undefined where none is found.
 */
export function sharedTick(goals: readonly Goal[]): SharedTick | undefined {
  const { value } = sharedTicks(goals).next() as { value?: SharedTick };
  return value;
}
