import type { Verdict } from '@herzschlag/core';
import styles from './fit.module.css';

const SIGNS: Record<Verdict, string> = { pass: '✓', fail: '✗', unknown: '–' };

/** A verdict's sign in its colour; never the colour alone. */
export function VerdictSign({ verdict }: { verdict: Verdict }) {
  return (
    <span className={styles[verdict]} role="img" aria-label={verdict}>
      {SIGNS[verdict]}
    </span>
  );
}

/** The verdict over several checks: a miss outweighs an unknown, an unknown outweighs what holds. */
export function worst(verdicts: readonly Verdict[]): Verdict {
  if (verdicts.length === 0 || verdicts.includes('fail')) return 'fail';
  return verdicts.includes('unknown') ? 'unknown' : 'pass';
}
