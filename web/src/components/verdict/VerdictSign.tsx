import type { Verdict } from '@herzschlag/core';
import styles from './verdict.module.css';

const SIGNS: Record<Verdict, string> = { pass: '✓', fail: '✗', unknown: '–' };

/** The class that gives a text the colour of its verdict. */
export function verdictClass(verdict: Verdict): string {
  return styles[verdict] ?? '';
}

/** A verdict's sign in its colour; never the colour alone. */
export function VerdictSign({ verdict }: { verdict: Verdict }) {
  return (
    <span className={verdictClass(verdict)} role="img" aria-label={verdict}>
      {SIGNS[verdict]}
    </span>
  );
}
