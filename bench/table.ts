/** The value below which so large a share of the values lies; share from 0 to 1. */
export function quantile(values: readonly number[], share: number): number {
  const sorted = [...values].sort((one, other) => one - other);
  return sorted[Math.min(sorted.length - 1, Math.ceil(share * sorted.length) - 1)] ?? NaN;
}

/** A row of a timing table: median, 95th percentile and longest, in milliseconds. */
export function timings(name: string, values: readonly number[]): Record<string, string | number> {
  const ms = (value: number): string => value.toFixed(2);
  return {
    what: name,
    runs: values.length,
    'median ms': ms(quantile(values, 0.5)),
    'p95 ms': ms(quantile(values, 0.95)),
    'longest ms': ms(Math.max(...values)),
  };
}
