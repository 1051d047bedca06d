/**
 * A number from 0 to `most`, the same for the same seed, stream and place: what is drawn does not depend on the order of
 * drawing. The mixing is the finalizer of MurmurHash3 (Austin Appleby, public domain), applied to the three in turn.
 */
export function drawn(seed: number, stream: number, place: number, most: number): number {
  if (most <= 0) return 0;
  const mixed = mix(mix(mix(seed) ^ stream) ^ place);
  return Math.floor((mixed / 2 ** 32) * (most + 1));
}

function mix(value: number): number {
  let h = (value + 0x9e3779b9) | 0;
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}
