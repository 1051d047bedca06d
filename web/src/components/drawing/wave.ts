import type { SignalEvaluation } from '@herzschlag/core';

/** The period that is drawn, in s: that of the pin, or of the fastest signal a capture is to measure. */
export function shownPeriod({ place, frequencyHz, wave }: SignalEvaluation): number {
  return place.cause === 'input' ? wave.periodTicks * wave.tickS : 1 / frequencyHz;
}

/** A periodic level that rises at 0, s, for drawing between two times; `x` and `level` give places in the drawing. */
export type WaveShape = {
  periodS: number;
  highS: number;
  from: number;
  to: number;
  x: (s: number) => number;
  level: (high: boolean) => number;
};

type Segment = { start: number; end: number; high: boolean };

/** A drawing shows up to so many periods one by one; more of them lie closer than its pixels. */
const MAX_PERIODS = 300;

/** Whether the periods lie too close to be told apart, so that only the room between both levels is drawn. */
function isDense({ periodS, highS, from, to }: WaveShape): boolean {
  return highS > 0 && highS < periodS && !((to - from) / periodS <= MAX_PERIODS);
}

function segments({ periodS, highS, from, to }: WaveShape): Segment[] {
  if (highS <= 0 || highS >= periodS) return [{ start: from, end: to, high: highS > 0 }];
  const list: Segment[] = [];
  for (let at = Math.floor(from / periodS); at * periodS < to; at += 1) {
    const rise = at * periodS;
    const parts: Segment[] = [
      { start: rise, end: rise + highS, high: true },
      { start: rise + highS, end: rise + periodS, high: false },
    ];
    for (const { start, end, high } of parts) {
      if (end > from && start < to) list.push({ start: Math.max(from, start), end: Math.min(to, end), high });
    }
  }
  return list;
}

/** The level as one line with its edges; a box between both levels where edges lie closer than pixels. */
export function wavePath(shape: WaveShape): string {
  const { x, level, from, to } = shape;
  if (isDense(shape)) return `M${x(from)},${level(false)}V${level(true)}H${x(to)}V${level(false)}Z`;
  const start = shape.highS > 0 && from === 0 ? `M${x(from)},${level(false)}` : '';
  return segments(shape)
    .map(({ start: a, end, high }, at) => {
      const y = level(high);
      return `${at === 0 && start === '' ? 'M' : 'L'}${x(a).toFixed(2)},${y}H${x(end).toFixed(2)}`;
    })
    .reduce((path, piece) => path + piece, start);
}

/** The same level as separate stretches without edges, to be drawn broad behind the line. */
export function bandPath(shape: WaveShape): string {
  const { x, level, from, to } = shape;
  if (isDense(shape)) return [true, false].map((high) => `M${x(from)},${level(high)}H${x(to)}`).join('');
  return segments(shape)
    .map(({ start, end, high }) => `M${x(start).toFixed(2)},${level(high)}H${x(end).toFixed(2)}`)
    .join('');
}
