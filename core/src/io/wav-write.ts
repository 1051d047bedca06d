import { highShares } from '../wave/sound.ts';
import { lanePieces, type Lane } from '../wave/merge.ts';

/** Of full scale, so that a speaker is not driven into its stops. */
const LOUDNESS = 0.6;

const HEAD = 44;

function head(view: DataView, rate: number, bytes: number): void {
  const put = (at: number, text: string): void =>
    [...text].forEach((letter, index) => view.setUint8(at + index, letter.charCodeAt(0)));
  put(0, 'RIFF');
  view.setUint32(4, HEAD - 8 + bytes, true);
  put(8, 'WAVEfmt ');
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true);
  view.setUint16(22, 1, true);
  view.setUint32(24, rate, true);
  view.setUint32(28, 2 * rate, true);
  view.setUint16(32, 2, true);
  view.setUint16(34, 16, true);
  put(36, 'data');
  view.setUint32(40, bytes, true);
}

/**
 * A pin as sound: 16 bits, one channel, each sample the mean of the level over its time, high above zero and low below,
 * so that the edges keep their places between samples.
 */
export function writeWav(lane: Lane, seconds: number, rate = 48000): Uint8Array {
  const count = Math.floor(seconds * rate);
  const bytes = new Uint8Array(HEAD + 2 * count);
  const view = new DataView(bytes.buffer);
  head(view, rate, 2 * count);
  const pieces = lanePieces(lane, seconds);
  const shares = highShares({ pieces, start: 0, fromTick: 0, tickHz: lane.tickHz }, count, rate);
  shares.forEach((part, at) =>
    view.setInt16(HEAD + 2 * at, Math.round((2 * part - 1) * LOUDNESS * 32767), true),
  );
  return bytes;
}
