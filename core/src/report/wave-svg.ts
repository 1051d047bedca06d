import type { SignalEvaluation } from '../evaluate/signal.ts';
import { printSeconds } from '../quantity/print.ts';

const WIDTH = 640;
const HEIGHT = 46;
const HIGH = 6;
const LOW = 34;

/** Whole periods that a picture shows. */
const PERIODS = 3;

/** A number with as many digits as a drawing needs. */
function short(value: number): string {
  return String(Math.round(value * 100) / 100);
}

/** The edges of one period as the line of a pin, beginning at its left end. */
function line({ periodTicks, rise = 0, fall = 0, level }: SignalEvaluation['wave']): string {
  const at = (ticks: number, period: number): string =>
    short(((period + ticks / periodTicks) / PERIODS) * WIDTH);
  if (level !== undefined) return `M0 ${level === 1 ? HIGH : LOW}H${WIDTH}`;
  const first = rise < fall ? LOW : HIGH;
  const edges = (
    [
      [rise, HIGH],
      [fall, LOW],
    ] as [number, number][]
  ).sort(([one], [other]) => one - other);
  const steps = Array.from({ length: PERIODS }, (_, period) =>
    edges.map(([ticks, to]) => `H${at(ticks, period)}V${to}`).join(''),
  );
  return `M0 ${first}${steps.join('')}H${WIDTH}`;
}

/** Three periods of a pin in its steady state as a picture, with their length; without colours of its own but that of the text. */
export function waveSvg(wave: SignalEvaluation['wave']): string {
  const seconds = printSeconds(PERIODS * wave.periodTicks * wave.tickS, 4);
  return (
    `<svg viewBox="0 0 ${WIDTH} ${HEIGHT}" width="${WIDTH}" height="${HEIGHT}" role="img" aria-label="${PERIODS} periods, ${seconds}">` +
    `<path d="${line(wave)}" fill="none" stroke="currentColor" stroke-width="1.5"/>` +
    `<text x="${WIDTH}" y="${HEIGHT - 1}" text-anchor="end" font-size="10" fill="currentColor">${seconds}</text></svg>`
  );
}
