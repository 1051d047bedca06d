import type { Requirement } from '../signal/requirement.ts';
import { timerIdOf, type DriveId, type Setting } from '../timer/setting.ts';
import type { Candidate } from './candidate.ts';
import type { Fit } from './fit.ts';
import { bestOf, readableText } from './readable.ts';

/** A setting as a point: resolution across, error or frequency up. */
export type Point = {
  bits: number;
  /** |error| in ppm, 0 for exact ones; where only a minimum frequency is asked for, the frequency in Hz. */
  height: number;
  drive: DriveId;
  /** The timer's id; none where the program itself waits. */
  timer: string;
  meets: boolean;
  front: boolean;
  setting: Setting;
  frequencyHz: number;
  errorPpm: number;
  duty: number;
  steps: number;
  cpu: number;
  jitterS: number;
  /** What is round about its numbers and what that costs, where they are. */
  readable?: string;
};

/**
 * What a drawing of the fit needs. `limit` is the tolerance in ppm or the minimum frequency in Hz; `highest` the maximum one
 * where there is one.
 */
export type Landscape = {
  height: 'error' | 'frequency';
  limit: number;
  highest?: number;
  minBits: number;
  points: Point[];
};

/** Points closer than this in bits and in decades of height are drawn as one. */
const GRAIN = { bits: 0.06, decades: 0.04 };

function pointOf(candidate: Candidate, height: number, front: boolean, readable: string | undefined): Point {
  const { bits, setting, meets, frequencyHz, errorPpm, duty, steps, cpu, jitterS } = candidate;
  return {
    bits,
    height,
    drive: setting.drive,
    timer: timerIdOf(setting),
    meets,
    front,
    setting,
    frequencyHz,
    errorPpm,
    duty,
    steps,
    cpu,
    jitterS,
    ...(readable === undefined ? {} : { readable }),
  };
}

/** Which grain a candidate falls into, as a whole number: exact ones have a row of their own below all others. */
function grainOf({ bits }: Candidate, height: number): number {
  const row = height > 0 ? Math.round(Math.log10(height) / GRAIN.decades) + 2000 : 0;
  return Math.round(bits / GRAIN.bits) * 10000 + row;
}

/** Tells whether a text comes for the first time. */
function firstOfEach(): (text: string) => boolean {
  const seen = new Set<string>();
  return (text) => seen.size < seen.add(text).size;
}

/**
 * The fit as points, thinned to what a drawing can tell apart: of points that fall together the better one stays, the
 * front always does, and so does the best of each timer, since candidates come best first.
 */
export function landscapeOf(fit: Fit, requirement: Requirement): Landscape {
  const byError = requirement.frequency.kind === 'near';
  const front = new Set(fit.front);
  const taken = new Map<string, Set<number>>();
  const points: Point[] = [];
  const best = bestOf(fit.candidates);
  const readable = (candidate: Candidate): string | undefined =>
    candidate.meets ? readableText(candidate, best, requirement) : undefined;
  // Of settings with the same round number the first stays, whatever lies beside it.
  const firstRound = firstOfEach();
  for (const list of [fit.candidates, fit.near]) {
    for (const candidate of list) {
      const { setting, meets } = candidate;
      const height = byError ? Math.abs(candidate.errorPpm) : candidate.frequencyHz;
      if (front.has(candidate)) {
        points.push(pointOf(candidate, height, true, readable(candidate)));
        continue;
      }
      const kind = `${timerIdOf(setting)} ${setting.drive} ${meets}`;
      const grains = taken.get(kind) ?? new Set();
      const grain = grainOf(candidate, height);
      const round = readable(candidate);
      const first = round !== undefined && firstRound(`${kind} ${round}`);
      if (grains.has(grain) && !first) continue;
      taken.set(kind, grains.add(grain));
      points.push(pointOf(candidate, height, false, round));
    }
  }
  const { frequency } = requirement;
  const limit =
    frequency.kind === 'near'
      ? frequency.high.div(frequency.ideal).sub(1).mul(1000000).valueOf()
      : frequency.low.valueOf();
  const minBits = Math.log2(requirement.minSteps);
  const highest = frequency.kind === 'within' ? frequency.high?.valueOf() : undefined;
  return {
    height: byError ? 'error' : 'frequency',
    limit,
    ...(highest === undefined ? {} : { highest }),
    minBits,
    points,
  };
}
