import { exact, exactText, type Exact } from '../quantity/exact.ts';
import { printHz, printPercent, printSeconds } from '../quantity/print.ts';
import type { Band } from '../signal/band.ts';
import type { Requirement } from '../signal/requirement.ts';
import { measure, type Measured } from '../wave/measure.ts';
import type { Outcome } from '../timer/outcome.ts';
import type { EdgeList } from '../wave/edges.ts';

/** Whether a property lies within its target. */
export type Verdict = 'pass' | 'fail' | 'unknown';

/** One property of a trace compared with its target. */
export type Check = {
  property:
    | 'frequency'
    | 'duty'
    | 'voltage'
    | 'width'
    | 'steps'
    | 'jitter'
    | 'glitches'
    | 'range'
    | 'resolution'
    | 'pulses'
    | 'first edge'
    | 'phase'
    | 'dead time'
    | 'sequence'
    | 'feeding'
    | 'interrupt'
    | 'delivered'
    | 'load';
  unit: 'Hz' | 'fraction' | 'count' | 's' | 'V' | 'A' | '°';
  /** What the property is called where a signal has several of one kind. */
  label?: string;
  /** Absent when the trace does not show it. */
  value?: number;
  valueExact?: string;
  low?: number;
  high?: number;
  /** Distance to the nearer limit in the property's unit, the oscillator's tolerance taken off; negative outside. */
  margin?: number;
  verdict: Verdict;
  /** Over how many whole periods of the trace it was measured. */
  periods?: number;
  /** Set where no other setting would change it: it hangs on the target and the load alone. */
  fixed?: true;
  /** A sentence where the verdict needs one. */
  note?: string;
};

const MILLION = 1000000;

/** A tolerance in ppm with a few digits. */
function shortPpm(ppm: number): string {
  return `${Number(ppm.toPrecision(4))} ppm`;
}

function lesser(one: Exact, other: Exact): Exact {
  return one.compare(other) <= 0 ? one : other;
}

/** A property that was seen, judged by its margin. */
function judged(
  base: Pick<Check, 'property' | 'unit' | 'low' | 'high'>,
  value: Exact,
  margin: Exact,
  note: string | undefined,
): Check {
  return {
    ...base,
    value: value.valueOf(),
    valueExact: exactText(value),
    margin: margin.valueOf(),
    verdict: margin.compare(0) >= 0 ? 'pass' : 'fail',
    ...(note ? { note } : {}),
  };
}

function frequencyCheck(
  value: Exact | undefined,
  requirement: Requirement,
  tolerancePpm: number,
  level: 0 | 1 | undefined,
  lasting: boolean,
): Check {
  const { low, high } = requirement.frequency;
  const base = {
    property: 'frequency',
    unit: 'Hz',
    low: low.valueOf(),
    ...(high ? { high: high.valueOf() } : {}),
  } as const;
  if (!value) {
    const note =
      level === undefined
        ? 'The trace holds no whole period.'
        : `The pin stays ${level === 1 ? 'high' : 'low'}: it has no frequency.`;
    return { ...base, verdict: level !== undefined && lasting ? 'fail' : 'unknown', note };
  }
  const drift = value.mul(exact(tolerancePpm)).div(MILLION);
  const below = value.sub(drift).sub(low);
  const margin = high ? lesser(below, high.sub(value.add(drift))) : below;
  const nominal = value.compare(low) >= 0 && (!high || value.compare(high) <= 0);
  const passes = margin.compare(0) >= 0;
  const note =
    nominal && !passes
      ? `The divider is right, but with an oscillator off by ${shortPpm(tolerancePpm)} it may be ${printHz(value.sub(drift).valueOf())} … ${printHz(value.add(drift).valueOf())}.`
      : undefined;
  return judged(base, value, margin, note);
}

function dutyCheck(value: Exact | undefined, band: Band): Check {
  const base = {
    property: 'duty',
    unit: 'fraction',
    low: band.low.valueOf(),
    high: band.high.valueOf(),
  } as const;
  if (!value) return { ...base, verdict: 'unknown', note: 'The trace holds no whole period.' };
  const margin = lesser(value.sub(band.low), band.high.sub(value));
  const passes = margin.compare(0) >= 0;
  const end = band.ideal.equals(0) ? '0 %' : band.ideal.equals(1) ? '100 %' : undefined;
  const note =
    !passes && end
      ? `${end} asks for a pin that never changes; this one is high for ${printPercent(value.valueOf(), 4)}.`
      : undefined;
  return judged(base, value, margin, note);
}

/** The mean voltage of the pulses compared with the target. */
function voltageCheck(duty: Exact | undefined, band: Band, supply: Exact): Check {
  const [low, high] = [band.low.mul(supply), band.high.mul(supply)];
  const base = { property: 'voltage', unit: 'V', low: low.valueOf(), high: high.valueOf() } as const;
  if (!duty) return { ...base, verdict: 'unknown', note: 'The trace holds no whole period.' };
  const value = duty.mul(supply);
  return judged(base, value, lesser(value.sub(low), high.sub(value)), undefined);
}

/** A width in s that a setting can make, compared with a band; the oscillator makes it longer or shorter, too. */
export function checkWidth(
  width: Exact,
  band: Band,
  { label, tolerancePpm = 0 }: { label?: string; tolerancePpm?: number } = {},
): Check {
  const named = label === undefined ? {} : { label };
  const base = {
    ...named,
    property: 'width',
    unit: 's',
    low: band.low.valueOf(),
    high: band.high.valueOf(),
  } as const;
  const drift = width.mul(exact(tolerancePpm)).div(MILLION);
  const nominal = lesser(width.sub(band.low), band.high.sub(width));
  const margin = nominal.sub(drift);
  const note =
    nominal.compare(0) >= 0 && margin.compare(0) < 0
      ? `Its counts are right, but within the oscillator’s ${shortPpm(tolerancePpm)} it is ${printSeconds(width.sub(drift).valueOf(), 5)} … ${printSeconds(width.add(drift).valueOf(), 5)}.`
      : undefined;
  return judged(base, width, margin, note);
}

/** The mean width of the pulses, in s. */
function widthCheck(
  duty: Exact | undefined,
  frequency: Exact | undefined,
  band: Band,
  tolerancePpm: number,
): Check {
  const base = { property: 'width', unit: 's', low: band.low.valueOf(), high: band.high.valueOf() } as const;
  if (!duty || !frequency) return { ...base, verdict: 'unknown', note: 'The trace holds no whole period.' };
  return checkWidth(duty.div(frequency), band, { tolerancePpm });
}

function stepsCheck(steps: number, minSteps: number): Check {
  const margin = steps - minSteps;
  return {
    property: 'steps',
    unit: 'count',
    value: steps,
    low: minSteps,
    margin,
    verdict: margin >= 0 ? 'pass' : 'fail',
  };
}

/** The setting's own jitter, since a computed trace shows each edge at its mean place. */
function jitterCheck(jitterS: number, max: number): Check {
  const margin = max - jitterS;
  return {
    property: 'jitter',
    unit: 's',
    value: jitterS,
    high: max,
    margin,
    verdict: margin >= 0 ? 'pass' : 'fail',
  };
}

/**
 * Holds a trace against a requirement: frequency (with the oscillator's tolerance, in ppm, on top of the quantisation), duty,
 * and, where asked for, the number of duty steps, which is the setting's and not the trace's.
 * @param tickHz ticks of the trace in a second.
 */
export function checkEdges(
  trace: EdgeList,
  requirement: Requirement,
  tickHz: Exact,
  tolerancePpm: number,
  steps: number,
  jitterS = 0,
): Check[] {
  return checkMeasured(measure(trace), requirement, tickHz, { tolerancePpm, steps, jitterS, lasting: true });
}

/**
 * The same on what was measured of a trace. `lasting` tells whether that was long enough for a pin without edges to have no frequency.
 */
export function checkMeasured(
  seen: Measured,
  requirement: Requirement,
  tickHz: Exact,
  {
    tolerancePpm,
    steps,
    jitterS,
    lasting,
  }: Pick<Outcome, 'steps' | 'jitterS'> & { tolerancePpm: number; lasting: boolean },
): Check[] {
  const frequency = seen.period ? tickHz.div(seen.period) : undefined;
  const duty = seen.level === undefined ? seen.duty : exact(seen.level);
  const ends = requirement.duty.ideal.equals(0) || requirement.duty.ideal.equals(1);
  const asked =
    ends && seen.level !== undefined
      ? []
      : [frequencyCheck(frequency, requirement, tolerancePpm, seen.level, lasting)];
  const periods = seen.rising - 1;
  const told = (check: Check): Check => (periods > 0 ? { ...check, periods } : check);
  const pulse = requirement.width
    ? widthCheck(duty, frequency, requirement.width, tolerancePpm)
    : dutyCheck(duty, requirement.duty);
  return [
    ...asked.map(told),
    ...(requirement.pin ? [told(pulse)] : []),
    ...(requirement.supply ? [told(voltageCheck(duty, requirement.duty, requirement.supply))] : []),
    ...(requirement.jitterS === undefined ? [] : [jitterCheck(jitterS, requirement.jitterS)]),
    ...(requirement.minSteps > 1 ? [stepsCheck(steps, requirement.minSteps)] : []),
  ];
}
