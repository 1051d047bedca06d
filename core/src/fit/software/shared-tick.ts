import { exact, type Exact } from '../../quantity/exact.ts';
import type { Requirement } from '../../signal/requirement.ts';

/** One signal's part in a shared tick: the ticks between two changes, the resulting frequency and error, and whether it passes. */
type TickShare = { divider: number; frequencyHz: number; errorPpm: number; meets: boolean };

/** A tick that several slow signals share, with the divider of each. */
export type SharedTick = { tickHz: Exact; shares: TickShare[] };

/** Changes of a signal in a period: a toggled pin changes twice, a tick is once. */
function changesOf(requirement: Requirement): number {
  return requirement.pin ? 2 : 1;
}

/** Ticks longer than this are not looked for in finer and finer parts. */
const MAX_PARTS = 20_000;

function sharesOf(requirements: readonly Requirement[], tickHz: Exact): TickShare[] {
  return requirements.map((requirement) => {
    const wanted =
      requirement.frequency.kind === 'near' ? requirement.frequency.ideal : requirement.frequency.low;
    const changes = changesOf(requirement);
    const divider = Math.max(1, Math.round(tickHz.div(wanted.mul(changes)).valueOf()));
    const made = tickHz.div(divider * changes);
    const { low, high } = requirement.frequency;
    const meets = made.compare(low) >= 0 && (high === undefined || made.compare(high) <= 0);
    return {
      divider,
      frequencyHz: made.valueOf(),
      errorPpm: made.div(wanted).sub(1).mul(1000000).valueOf(),
      meets,
    };
  });
}

/**
 * Ticks from which every requirement can be made, the slowest first, ever faster ones after it; see `sharedTick`.
 */
export function* sharedTicks(requirements: readonly Requirement[]): Generator<SharedTick> {
  const rates = requirements.map((requirement) => {
    const wanted =
      requirement.frequency.kind === 'near' ? requirement.frequency.ideal : requirement.frequency.low;
    return wanted.mul(changesOf(requirement));
  });
  const fastest = rates.reduce<Exact>((one, other) => (one.compare(other) >= 0 ? one : other), exact(0));
  if (fastest.equals(0)) return;
  for (let parts = 1; parts <= MAX_PARTS; parts += 1) {
    const tickHz = fastest.mul(parts);
    const shares = sharesOf(requirements, tickHz);
    if (shares.every((share) => share.meets)) yield { tickHz, shares };
  }
}

/**
 * The slowest tick from which every requirement can be made by counting ticks to a change (two changes a period on a pin, one
 * for a tick), each within its tolerance. The tick is a whole number of times as fast as the changes of one of the
 * signals; the fastest of them is tried first, in one part, then in two, three and more. Undefined where none is found.
 */
export function sharedTick(requirements: readonly Requirement[]): SharedTick | undefined {
  const { value } = sharedTicks(requirements).next() as { value?: SharedTick };
  return value;
}
