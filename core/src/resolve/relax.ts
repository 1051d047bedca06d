import type { PlanSignal } from '../plan/plan.ts';
import { printNumber, printPercent, printPpm, printSeconds, printUnit } from '../quantity/print.ts';
import { DEFAULTS } from '../signal/defaults.ts';

/** A signal that asks for less than it did, and what was loosened, in words. */
export type Relaxed = { signal: PlanSignal; text: string };

/** How many times as much is allowed, the least first. */
const TIMES = [1.5, 2, 3, 5, 7, 10, 15, 20, 30, 50, 70, 100, 150, 200, 300, 500];

/** A tolerance of a target: what it is, up to what it is still worth proposing, and how it is said. */
type Tolerance = { key: string; now: number; max: number; say: (value: number) => string };

const MAX_PPM = 200000;

function ppm(key: string, now: number): Tolerance {
  return {
    key,
    now,
    max: MAX_PPM,
    say: (value) =>
      `within ±${value >= 1000 ? printPercent(value / 1e6, 3) : printPpm(value).replace('+', '')}`,
  };
}

function duty(now: number | undefined): Tolerance {
  return {
    key: 'dutyTolerance',
    now: now ?? DEFAULTS.duty,
    max: 0.2,
    say: (value) => `with its duty within ±${printPercent(value, 3)}`,
  };
}

/** The tolerances of a signal, the one of its frequency first. */
function tolerancesOf(signal: PlanSignal): Tolerance[] {
  switch (signal.kind) {
    case 'blink':
    case 'strobe': {
      const standard = signal.kind === 'blink' ? DEFAULTS.blinkPpm : DEFAULTS.strobePpm;
      const { frequencyTolerancePpm, dutyTolerance } = signal.target;
      return [ppm('frequencyTolerancePpm', frequencyTolerancePpm ?? standard), duty(dutyTolerance)];
    }
    case 'tone': {
      const { frequencyTolerancePpm, toleranceCents, dutyTolerance } = signal.target;
      const rate: Tolerance =
        frequencyTolerancePpm !== undefined
          ? ppm('frequencyTolerancePpm', frequencyTolerancePpm)
          : {
              key: 'toleranceCents',
              now: toleranceCents ?? DEFAULTS.toneCents,
              max: 200,
              say: (value) => `within ±${printNumber(value)} c`,
            };
      return [rate, duty(dutyTolerance)];
    }
    case 'tick':
      return [ppm('frequencyTolerancePpm', signal.target.frequencyTolerancePpm ?? DEFAULTS.tickPpm)];
    case 'pulse': {
      const { frameTolerancePpm, widthToleranceS } = signal.target;
      const say = (value: number): string => `with its width within ±${printSeconds(value)}`;
      return [
        ppm('frameTolerancePpm', frameTolerancePpm ?? DEFAULTS.framePpm),
        { key: 'widthToleranceS', now: widthToleranceS ?? DEFAULTS.widthS, max: 0.001, say },
      ];
    }
    case 'measure': {
      const now = signal.target.resolution ?? DEFAULTS.resolution;
      return [{ key: 'resolution', now, max: 0.1, say: (value) => `to ${printPercent(value, 3)}` }];
    }
    case 'level': {
      const now = signal.target.toleranceV;
      const say = (value: number): string => `within ±${printUnit(value, 'V')}`;
      return now === undefined ? [] : [{ key: 'toleranceV', now, max: 20 * now, say }];
    }
    case 'string': {
      const now = signal.target.toleranceS ?? DEFAULTS.stringS;
      const say = (value: number): string => `with its bits within ±${printSeconds(value)}`;
      return [{ key: 'toleranceS', now, max: 2 * now, say }];
    }
    case 'dim':
      return [];
  }
}

function withTarget(signal: PlanSignal, key: string, value: number, said: string): Relaxed {
  return {
    signal: { ...signal, target: { ...signal.target, [key]: value } } as PlanSignal,
    text: `${signal.name} ${said}`,
  };
}

/** Two digits are enough for a tolerance. */
function rounded(value: number): number {
  return Number(value.toPrecision(2));
}

/** Each way to ask less of a signal, from a little less to much less: tolerances, and the steps of what dims. */
function ladders(signal: PlanSignal): Relaxed[][] {
  if (signal.kind === 'dim') {
    const { minSteps } = signal.target;
    const steps = TIMES.map((times) => Math.floor(minSteps / times)).filter((one) => one >= 8);
    return [steps.map((one) => withTarget(signal, 'minSteps', one, `in ${printNumber(one)} steps`))];
  }
  return tolerancesOf(signal).map(({ key, now, max, say }) =>
    TIMES.map((times) => rounded(now * times))
      .filter((value) => value > now && value <= max)
      .map((value) => withTarget(signal, key, value, say(value))),
  );
}

/**
 * The least of what a signal must give up so that it goes, one for each of its tolerances that helps at all. `goes` says
 * whether it does, and must stay true for all that are looser still.
 */
export function minRelaxation<T>(
  signal: PlanSignal,
  goes: (relaxed: PlanSignal) => T | undefined,
): { relaxed: Relaxed; found: T }[] {
  return ladders(signal).flatMap((ladder) => {
    const last = ladder[ladder.length - 1];
    const found = last && goes(last.signal);
    if (!last || found === undefined) return [];
    let best = { relaxed: last, found };
    let [low, high] = [0, ladder.length - 1];
    while (low < high) {
      const middle = (low + high) >> 1;
      const one = ladder[middle] as Relaxed;
      const made = goes(one.signal);
      if (made === undefined) low = middle + 1;
      else [high, best] = [middle, { relaxed: one, found: made }];
    }
    return [best];
  });
}
