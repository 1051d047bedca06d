import type { Exact } from '../quantity/exact.ts';
import type { Band } from './band.ts';

/** What a signal moves over, from one end to the other: its frequency in Hz, the width of its pulse in s, or its duty. */
export type Ends = { of: 'frequency' | 'width' | 'duty'; low: Exact; high: Exact };

/** A span as a target: each place in between is to be met within a share of the frequency, a time in s, or a share of the period. */
export type Span = Ends & { within: Exact };

/** Frequencies that will do: those near an ideal one, or any from the lowest up, to the highest where there is one. */
export type FrequencyBand = ({ kind: 'near' } & Band) | { kind: 'within'; low: Exact; high?: Exact };

/**
 * A target of any kind, in one form: a frequency band (Hz), a duty (fraction of one) or a
 * width (s), and the least number of duty steps.
 */
export type Requirement = {
  frequency: FrequencyBand;
  duty: Band;
  /** Where the time of the pulse counts rather than its share of the period. */
  width?: Band;
  /** Other widths that the same counter must be able to make, such as those of a one and a zero. */
  alsoWidths?: readonly Band[];
  /** What is sent at once, in periods, and how often a second. */
  burst?: { periods: number; everyHz: number };
  minSteps: number;
  /** Whether it is for a pin; a tick is for the processor alone. */
  pin: boolean;
  /** The most an edge or a tick may stand off its mean place, in s. */
  jitterS?: number;
  span?: Span;
  /** The voltage of a high level, where the mean is wanted in volts. */
  supply?: Exact;
  /** An input: the slowest and the fastest to be measured, and the error of a reading as a share of a period. */
  input?: { slowest: Exact; fastest: Exact; resolution: number };
};

/**
 * Whether the pin has to change: for every output but one that is wanted at 0 % or 100 %. A pin that never changes has no
 * frequency, however close its duty comes.
 */
export function needsEdges({ pin, input, duty }: Pick<Requirement, 'pin' | 'input' | 'duty'>): boolean {
  return pin && !input && !duty.ideal.equals(0) && !duty.ideal.equals(1);
}

/** Whether a pin that is high for half of each period will do. */
export function canBeHalf({ duty: { low, high } }: Pick<Requirement, 'duty'>): boolean {
  return low.compare(0.5) <= 0 && high.compare(0.5) >= 0;
}

/** Whether the pulse or the frequency has to change while the timer runs. */
export function hasToMove({ span, alsoWidths }: Pick<Requirement, 'span' | 'alsoWidths'>): boolean {
  return span !== undefined || alsoWidths !== undefined;
}
