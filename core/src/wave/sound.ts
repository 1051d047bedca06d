import { waveformEdges, type Waveform } from './stream.ts';

/** Edges in pieces, in ticks, with the level before the first of them. */
export type Pieces = { pieces: Iterable<ArrayLike<number>>; start: 0 | 1; fromTick: number; tickHz: number };

/**
 * The share of each of `count` equal stretches during which a pin is high, so that the edges keep their places between
 * them. @param rate stretches in a second.
 */
export function highShares(
  { pieces, start, fromTick, tickHz }: Pieces,
  count: number,
  rate: number,
): Float64Array {
  const shares = new Float64Array(count);
  const high = (from: number, to: number): void => {
    const last = Math.min(count, Math.ceil(to));
    for (let at = Math.max(0, Math.floor(from)); at < last; at += 1) {
      shares[at] = (shares[at] ?? 0) + Math.max(0, Math.min(to, at + 1) - Math.max(from, at));
    }
  };
  let rise: number | undefined = start === 1 ? 0 : undefined;
  for (const piece of pieces) {
    for (let at = 0; at < piece.length; at += 1) {
      const place = (((piece[at] ?? 0) - fromTick) / tickHz) * rate;
      if (rise === undefined) rise = place;
      else {
        high(rise, place);
        rise = undefined;
      }
    }
  }
  if (rise !== undefined) high(rise, count);
  return shares;
}

/** Stretches a sample, and taps of the low-pass to either side, in stretches. */
const OVER = 4;
const REACH = 48;

/** Where the low-pass ends, as a share of the samples' rate: below the half of it, above which tones would fold down. */
const CORNER = 0.42;

/** What is slower than this is not heard and would only move the cone, in Hz. */
const LOWEST_HZ = 20;

/** Time over which a sound comes and goes, so that neither is a click, in s. */
const RAMP_S = 0.006;

/** Of full scale, so that a speaker is not driven into its stops. */
const LOUDNESS = 0.5;

/** A low-pass of a windowed sine over its argument (Blackman), its sum one. */
function lowPass(): Float64Array {
  const taps = Float64Array.from({ length: 2 * REACH + 1 }, (_, at) => {
    const x = at - REACH;
    const corner = (2 * CORNER) / OVER;
    const sinc = x === 0 ? corner : Math.sin(Math.PI * corner * x) / (Math.PI * x);
    const phase = (Math.PI * at) / REACH;
    return sinc * (0.42 - 0.5 * Math.cos(phase) + 0.08 * Math.cos(2 * phase));
  });
  const sum = taps.reduce((total, one) => total + one, 0);
  return taps.map((one) => one / sum);
}

/** A pin's edges as samples from -1 to 1: without tones above the half of the rate, without a mean, without clicks. */
export function soundOfEdges(edges: Pieces, seconds: number, rate: number): Float32Array {
  const count = Math.floor(seconds * rate);
  const fine = highShares(edges, count * OVER, rate * OVER);
  const taps = lowPass();
  const keep = Math.exp((-2 * Math.PI * LOWEST_HZ) / rate);
  const ramp = Math.max(1, Math.round(RAMP_S * rate));
  const sound = new Float32Array(count);
  let mean = 0;
  for (let at = 0; at < count; at += 1) {
    let value = 0;
    for (let tap = 0; tap < taps.length; tap += 1) {
      // Before its first and after its last moment a pin is taken to stay as it is there.
      const place = at * OVER + tap - REACH;
      const level = place < 0 ? edges.start : (fine[Math.min(fine.length - 1, place)] ?? 0);
      value += (taps[tap] ?? 0) * level;
    }
    if (at === 0) mean = value;
    mean = keep * mean + (1 - keep) * value;
    const edge = Math.min(1, at / ramp, (count - 1 - at) / ramp);
    sound[at] = 2 * LOUDNESS * edge * (value - mean);
  }
  return sound;
}

/** What a computed waveform sounds like from the start of its timer on. */
export function soundOf(waveform: Waveform, tickHz: number, seconds: number, rate = 48_000): Float32Array {
  const pieces = waveformEdges(waveform, Math.ceil(seconds * tickHz));
  return soundOfEdges({ pieces, start: 0, fromTick: 0, tickHz }, seconds, rate);
}
