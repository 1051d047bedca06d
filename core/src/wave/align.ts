import type { EdgeSource } from './edge-source.ts';

/** So many of the most telling rises of each side are tried against one another. */
const TRIED = 8;

/** Rises that are looked at for telling ones. */
const LOOKED = 400;

/** Moments at which both levels are compared. */
const MOMENTS = 400;

/** Edges that the last correction is the mean of. */
const REFINED = 200;

/** Rises after a long time without one tell more than others: those first, as times in s. */
function tellingRises(source: EdgeSource, fromS: number, toS: number): number[] {
  const rises: { at: number; gap: number }[] = [];
  let last = fromS;
  let next = source.next(fromS - 1e-12);
  for (let tried = 0; next !== undefined && next < toS && tried < 2 * LOOKED; tried += 1) {
    if (source.level(next) === 1) {
      rises.push({ at: next, gap: next - last });
      last = next;
    }
    next = source.next(next);
  }
  rises.sort((one, other) => other.gap - one.gap || one.at - other.at);
  return rises.slice(0, TRIED).map(({ at }) => at);
}

/** The share of moments of a capture at which both levels agree; before its start a computed lane is low. */
function agreement(
  computed: EdgeSource,
  captured: EdgeSource,
  span: { fromS: number; toS: number },
  origin: number,
): number {
  let [same, known] = [0, 0];
  for (let at = 0; at < MOMENTS; at += 1) {
    const moment = span.fromS + ((at + 0.5) / MOMENTS) * (span.toS - span.fromS);
    const level = captured.level(moment);
    if (level === 2) continue;
    known += 1;
    if (computed.level(moment - origin) === level) same += 1;
  }
  return known < MOMENTS / 10 ? 0 : same / known;
}

/** Moves an origin by the mean distance of computed edges from the captured edges next to them. */
function refined(computed: EdgeSource, captured: EdgeSource, toS: number, origin: number): number {
  let [sum, count] = [0, 0];
  let before = -Infinity;
  let edge = computed.next(0);
  for (let tried = 0; edge !== undefined && edge + origin < toS && tried < REFINED; tried += 1) {
    const following = computed.next(edge);
    const reach = Math.min((following ?? Infinity) - edge, edge - before) / 4;
    const at = edge + origin;
    const near = [...captured.edges(at - reach, at + reach)].map((one) => one - at);
    const [off] = near.sort((one, other) => Math.abs(one) - Math.abs(other));
    if (off !== undefined) {
      sum += off;
      count += 1;
    }
    before = edge;
    edge = following;
  }
  return count === 0 ? origin : origin + sum / count;
}

/**
 * Where a computed lane's time 0 lies in a capture, by correlation: of the shifts that bring a telling rise of one onto
 * one of the other, that at which both levels agree for most of the time; then moved by what its edges are still off.
 * @param span what the capture covers, in s. @param passS a length of the computed lane after which it repeats.
 */
export function alignByLevels(
  computed: EdgeSource,
  captured: EdgeSource,
  span: { fromS: number; toS: number },
  passS: number,
): { originS: number; agreement: number } | undefined {
  const own = tellingRises(computed, 0, 2.5 * passS);
  const seen = tellingRises(captured, span.fromS, span.toS);
  let best: { originS: number; agreement: number } | undefined;
  for (const rise of seen) {
    for (const other of own) {
      const originS = rise - other;
      const share = agreement(computed, captured, span, originS);
      if (!best || share > best.agreement + 1e-9) best = { originS, agreement: share };
    }
  }
  if (!best) return undefined;
  return { ...best, originS: refined(computed, captured, span.toS, best.originS) };
}
