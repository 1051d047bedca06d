import type { Goal } from '../target/goal.ts';
import type { Candidate } from './candidate.ts';

type Order = (one: Candidate, other: Candidate) => number;

/**
 * How far a candidate exceeds the two things a dimmed lamp asks for, by the weaker of the two: the lesser of
 * f / f_min and steps / steps_min.
 */
function balance(candidate: Candidate, leastHz: number, minSteps: number): number {
  return Math.min(candidate.frequencyHz / leastHz, candidate.steps / minSteps);
}

/**
 * Best first. Near a frequency: smallest error, then smallest duty error, then most steps. Above a least frequency:
 * the best balance of frequency and steps, since more of one costs the other; of equals the slowest, which switches least. Where all is equal, the part's own order.
 */
export function closestFirst(goal: Goal): Order {
  if (goal.frequency.kind === 'least') {
    const leastHz = goal.frequency.low.valueOf();
    const worth = (candidate: Candidate): number => balance(candidate, leastHz, goal.minSteps);
    return (one, other) =>
      worth(other) - worth(one) || other.steps - one.steps || one.frequencyHz - other.frequencyHz;
  }
  return (one, other) =>
    Math.abs(one.errorPpm) - Math.abs(other.errorPpm) ||
    Math.abs(one.dutyError) - Math.abs(other.dutyError) ||
    other.steps - one.steps;
}

/**
 * The candidates that nothing beats (the Pareto front), from few steps to many: near a frequency, no other has as many
 * steps at a smaller error; above a least frequency, no other has as many steps at a higher frequency.
 */
export function frontOf(candidates: readonly Candidate[], goal: Goal): Candidate[] {
  const cost = (candidate: Candidate): number =>
    goal.frequency.kind === 'least' ? -candidate.frequencyHz : Math.abs(candidate.errorPpm);
  const byStepsDown = [...candidates].sort(
    (one, other) => other.steps - one.steps || cost(one) - cost(other),
  );
  const front: Candidate[] = [];
  let best = Infinity;
  for (const candidate of byStepsDown) {
    if (cost(candidate) >= best) continue;
    best = cost(candidate);
    front.push(candidate);
  }
  return front.reverse();
}
