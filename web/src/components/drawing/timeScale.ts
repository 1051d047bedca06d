import { printSeconds } from '@herzschlag/core';

const ROUND = [1, 2, 5, 10];

/** A round time span that shows four periods of the slowest signal; 1 s without signals. */
export function scaleOf(periods: readonly number[]): number {
  if (periods.length === 0) return 1;
  const wanted = 4 * Math.max(...periods);
  const decade = 10 ** Math.floor(Math.log10(wanted));
  return decade * (ROUND.find((digit) => digit * decade >= wanted * (1 - 1e-9)) ?? 10);
}

const WORDS: Record<number, string> = {
  1: 'One second',
  2: 'Two seconds',
  5: 'Five seconds',
  10: 'Ten seconds',
};

/** The stretch in words where it has some: "Ten seconds", "200 ms". */
export function timeText(seconds: number): string {
  return WORDS[seconds] ?? printSeconds(seconds);
}
