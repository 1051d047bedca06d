/** Level of a pin at a moment; 2 where it is not known. */
export type Level = 0 | 1 | 2;

/**
 * Where edges come from, in seconds, whether they are computed or captured: how many lie between two moments, which, the
 * level at a moment, and the edge before and after it. Nothing is made that is not asked for.
 */
export type EdgeSource = {
  /** Between these moments its level is known; absent where it always is. */
  known?: { fromS: number; toS: number };
  count: (fromS: number, toS: number) => number;
  edges: (fromS: number, toS: number) => Float64Array;
  level: (atS: number) => Level;
  next: (afterS: number) => number | undefined;
  previous: (beforeS: number) => number | undefined;
};
