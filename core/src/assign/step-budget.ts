/** How often a search tells its progress, in parts of its budget. */
const REPORTS = 50;

/**
 * Lets a search take up to `steps` steps, each of which looks at some dozens of partial assignments; `progress` gets the
 * share of them that was taken. Searches ask the function it gives whether they may continue.
 */
export function stepBudget(steps: number, progress?: (share: number) => void): () => boolean {
  const every = Math.max(1, Math.floor(steps / REPORTS));
  let taken = 0;
  return () => {
    taken += 1;
    if (taken % every === 0) progress?.(Math.min(1, taken / steps));
    return taken < steps;
  };
}
