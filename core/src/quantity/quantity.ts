import type { Result } from '../result/result.ts';
import type { Exact } from './exact.ts';

/** What a typed quantity is about; it decides which units are understood and what a bare number means. */
export type Dimension =
  | 'frequency'
  | 'duty'
  | 'tolerance'
  | 'dutyTolerance'
  | 'steps'
  | 'time'
  | 'volts'
  | 'ohms'
  | 'farads'
  | 'henries'
  | 'amps'
  | 'degrees'
  | 'number'
  | 'count';

/**
 * A quantity as read: its value in the base unit, the unit it was said in and the bare number in that unit ("5 c" as a
 * tolerance: value 2892.3 ppm, said "cents", spoken 5), or a sentence that says what is wrong.
 */
export type Quantity = { value: Exact; said: string; spoken: number };

/** A quantity, or a sentence that says what is wrong with its text. */
export type ReadQuantity = Result<Quantity>;
