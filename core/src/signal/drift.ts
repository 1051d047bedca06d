import { exact, type Exact } from '../quantity/exact.ts';
import type { Band } from './band.ts';
import type { Requirement, Span } from './requirement.ts';

const MILLION = 1000000;

/** A band narrowed from both ends by what an oscillator is off, d as a fraction; undefined where nothing is left. */
function narrowedBand<T extends { low: Exact; high?: Exact }>(band: T, off: Exact): T | undefined {
  const low = band.low.div(exact(1).sub(off));
  if (!band.high) return { ...band, low };
  const high = band.high.div(off.add(1));
  return low.compare(high) > 0 ? undefined : { ...band, low, high };
}

/**
 * A span with what the oscillator leaves of its tolerance: a place p made as m is off by |m - p| + m d at most, so that
 * |m - p| may be (within - high d) / (1 + d) for widths, (1 + within) / (1 + d) - 1 for frequencies. Duties do not hang on it.
 */
function narrowedSpan(span: Span, off: Exact): Span {
  if (span.of === 'duty') return span;
  const left =
    span.of === 'width'
      ? span.within.sub(span.high.mul(off)).div(off.add(1))
      : span.within.add(1).div(off.add(1)).sub(1);
  return { ...span, within: left };
}

/**
 * A requirement with its frequencies and widths narrowed by what the oscillator may be off, in ppm below one million: what lies
 * within them by calculation holds on any bench, v (1 - d) >= low and v (1 + d) <= high. The checks judge by the same two
 * sums. Undefined where the oscillator alone is worse than the target allows. An input has no band of its own.
 */
export function onOscillator(requirement: Requirement, tolerancePpm: number): Requirement | undefined {
  if (requirement.input || tolerancePpm <= 0) return requirement;
  const off = exact(tolerancePpm).div(MILLION);
  if (off.compare(1) >= 0) return undefined;
  const narrowed = (band: Band): Band | undefined => narrowedBand(band, off);
  const frequency = narrowedBand(requirement.frequency, off);
  const width = requirement.width && narrowed(requirement.width);
  const alsoWidths = requirement.alsoWidths?.map(narrowed);
  const span = requirement.span && narrowedSpan(requirement.span, off);
  if (span && span.within.compare(0) < 0) return undefined;
  if (!frequency || (requirement.width && !width) || alsoWidths?.includes(undefined)) return undefined;
  return {
    ...requirement,
    frequency,
    ...(width ? { width } : {}),
    ...(span ? { span } : {}),
    ...(alsoWidths ? { alsoWidths: alsoWidths.filter((band) => band !== undefined) } : {}),
  };
}

/** The same for a search that is to find the nearest setting in any case: unchanged where the oscillator leaves nothing. */
export function heldOn(requirement: Requirement, tolerancePpm: number): Requirement {
  return onOscillator(requirement, tolerancePpm) ?? requirement;
}
