import type { Requirement } from '../signal/requirement.ts';
import type { Candidate } from './candidate.ts';
import { readabilityOf } from './readable.ts';

/** What ranking looks at: all of a candidate but its setting. */
export type Ranked = Omit<Candidate, 'setting'>;

/** Below zero where the first is better. */
export type Order = (one: Ranked, other: Ranked) => number;

/**
 * How far a candidate stays from the limits of a band of frequencies and from the least number of steps, by the nearest of
 * them: the least of f / f_min, f_max / f and steps / steps_min.
 */
function balance({ frequencyHz, steps }: Ranked, minHz: number, maxHz: number, minSteps: number): number {
  return Math.min(frequencyHz / minHz, maxHz / frequencyHz, steps / minSteps);
}

/** What counts first when settings are ranked: processor time, closeness, resolution, steady edges, or round numbers. */
export type Ranking = 'cpu' | 'closest' | 'finest' | 'jitter' | 'readable';

/** The rankings in the order a list shows them. */
export const RANKINGS: readonly Ranking[] = ['cpu', 'closest', 'finest', 'jitter', 'readable'];

const FIRST: Record<Ranking, Order> = {
  cpu: (one, other) => Number(other.sends ?? false) - Number(one.sends ?? false) || one.cpu - other.cpu,
  closest: () => 0,
  finest: (one, other) => other.steps - one.steps,
  jitter: (one, other) => one.jitterS - other.jitterS,
  readable: (one, other) => readabilityOf(one).level - readabilityOf(other).level || one.cpu - other.cpu,
};

/** Best first by a ranking; where that is equal, the closest, then what takes the least CPU time. */
export function rankedBy(requirement: Requirement, ranking: Ranking): Order {
  const first = FIRST[ranking];
  const closest = closenessOf(requirement);
  return (one, other) => first(one, other) || closest(one, other) || one.cpu - other.cpu;
}

/**
 * The order settings are proposed in: least CPU time, so hardware before software, then the closest. Where a period has two widths
 * a timer takes the program for each of them, so a loop that sends them comes first.
 */
export function closestFirst(requirement: Requirement): Order {
  return rankedBy(requirement, 'cpu');
}

/** An error in whole thousandths of what is allowed, or as it is where nothing is. */
function inThousandths(error: number, allowed: number): number {
  return allowed > 0 ? Math.floor((1000 * Math.abs(error)) / allowed) : Math.abs(error);
}

/**
 * Closest first. Near a frequency: smallest error, then smallest duty error, each in thousandths of what the target allows, so
 * that neither is worse for nothing; then by what is left of both, then most steps. Of bits only the frequency counts so, since their
 * widths are several. Within a band of frequencies: the best balance of frequency and steps, since more of one costs the other; on ties the slowest, which
 * switches least. Where all is equal, the part's own order.
 */
function closenessOf(requirement: Requirement): Order {
  if (requirement.frequency.kind === 'within') {
    const minHz = requirement.frequency.low.valueOf();
    const maxHz = requirement.frequency.high?.valueOf() ?? Infinity;
    const objective = (candidate: Ranked): number => balance(candidate, minHz, maxHz, requirement.minSteps);
    return (one, other) =>
      objective(other) - objective(one) || other.steps - one.steps || one.frequencyHz - other.frequencyHz;
  }
  const { frequency, duty, alsoWidths } = requirement;
  const allowedPpm = 1e6 * frequency.high.div(frequency.ideal).sub(1).valueOf();
  const allowedDuty = duty.high.sub(duty.low).div(2).valueOf();
  const weighed: Order = (one, other) =>
    inThousandths(one.errorPpm, allowedPpm) - inThousandths(other.errorPpm, allowedPpm) ||
    inThousandths(one.dutyError, allowedDuty) - inThousandths(other.dutyError, allowedDuty);
  return (one, other) =>
    (alsoWidths ? 0 : weighed(one, other)) ||
    Math.abs(one.errorPpm) - Math.abs(other.errorPpm) ||
    Math.abs(one.dutyError) - Math.abs(other.dutyError) ||
    other.steps - one.steps;
}

/**
 * The candidates that are Pareto-optimal (the Pareto front), from few steps to many: near a frequency, no other has as many
 * steps at a smaller error; above a minimum frequency, no other has as many steps at a higher frequency. Software drives
 * are among them only where the hardware can do nothing.
 */
export function frontOf<T extends Ranked>(all: readonly T[], requirement: Requirement): T[] {
  const alone = all.filter((candidate) => candidate.cpu === 0);
  const candidates = alone.length > 0 ? alone : all;
  const cost = (candidate: Ranked): number =>
    requirement.frequency.kind === 'within' ? -candidate.frequencyHz : Math.abs(candidate.errorPpm);
  const cheapest = new Map<number, T>();
  for (const candidate of candidates) {
    const known = cheapest.get(candidate.steps);
    if (!known || cost(candidate) < cost(known)) cheapest.set(candidate.steps, candidate);
  }
  const byStepsDown = [...cheapest.values()].sort((one, other) => other.steps - one.steps);
  const front: T[] = [];
  let best = Infinity;
  for (const candidate of byStepsDown) {
    if (cost(candidate) >= best) continue;
    best = cost(candidate);
    front.push(candidate);
  }
  return front.reverse();
}
