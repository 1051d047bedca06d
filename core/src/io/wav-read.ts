import { CaptureError, type Capture } from '../wave/capture.ts';
import { thresholded } from '../wave/threshold.ts';
import type { Reader } from './vcd-read.ts';

/** Parts of a sample's time in which crossings are placed. */
const PARTS = 1024;

/** Of the greatest value so much on either side of zero does not change the level. */
const HYSTERESIS = 0.05;

const MAX_BYTES = 600_000_000;

type Form = { rate: number; channels: number; bits: number; float: boolean };

function text(view: DataView, at: number): string {
  return String.fromCharCode(
    view.getUint8(at),
    view.getUint8(at + 1),
    view.getUint8(at + 2),
    view.getUint8(at + 3),
  );
}

function formOf(view: DataView, at: number, size: number): Form {
  const fail = (sentence: string): never => {
    throw new CaptureError(`Byte ${at}: ${sentence}`);
  };
  if (size < 16) fail('the format chunk is too short.');
  const tag = view.getUint16(at, true);
  const channels = view.getUint16(at + 2, true);
  const rate = view.getUint32(at + 4, true);
  const bits = view.getUint16(at + 14, true);
  const kind = tag === 0xfffe && size >= 26 ? view.getUint16(at + 24, true) : tag;
  if (kind !== 1 && kind !== 3) fail(`samples of the format ${kind} are not read; PCM and float are.`);
  if (channels < 1 || channels > 64) fail(`${channels} channels are not read.`);
  if (rate < 1 || rate > 1e8) fail(`a sample rate of ${rate} Hz is not read.`);
  const able = kind === 3 ? [32] : [8, 16, 24, 32];
  if (!able.includes(bits)) fail(`samples of ${bits} bits are not read.`);
  return { rate, channels, bits, float: kind === 3 };
}

/** One sample between -1 and 1. Eight bits are unsigned, all others signed, least byte first. */
function sample(view: DataView, at: number, { bits, float }: Form): number {
  if (float) return view.getFloat32(at, true);
  if (bits === 8) return (view.getUint8(at) - 128) / 128;
  if (bits === 16) return view.getInt16(at, true) / 32768;
  if (bits === 24) return (view.getUint16(at, true) + view.getInt8(at + 2) * 65536) / 8388608;
  return view.getInt32(at, true) / 2147483648;
}

/** The chunks of a RIFF file: the format, and where the samples lie. @throws CaptureError */
function chunksOf(view: DataView): { form: Form; from: number; to: number } {
  const { byteLength } = view;
  if (byteLength === 0) throw new CaptureError('Byte 0: the file is empty.');
  if (byteLength < 12 || text(view, 0) !== 'RIFF' || text(view, 8) !== 'WAVE') {
    throw new CaptureError('Byte 0: this is no WAV file.');
  }
  let form: Form | undefined;
  for (let at = 12; at + 8 <= byteLength;) {
    const size = view.getUint32(at + 4, true);
    const from = at + 8;
    if (text(view, at) === 'fmt ') {
      if (from + size > byteLength) throw new CaptureError(`Byte ${from}: the file ends within its format.`);
      form = formOf(view, from, size);
    }
    if (text(view, at) === 'data') {
      if (!form) throw new CaptureError(`Byte ${at}: samples come before their format.`);
      return { form, from, to: Math.min(byteLength, from + size) };
    }
    at = from + size + (size % 2);
  }
  throw new CaptureError(`Byte ${byteLength}: the file has no samples.`);
}

/**
 * Reads a WAV file (8, 16, 24, 32 bits, float) in pieces: each channel a wire that is high above zero, its changes placed
 * by a straight line between samples. @throws CaptureError with the byte.
 */
export function wavReader(): Reader {
  const pieces: Uint8Array[] = [];
  let size = 0;
  const push = (bytes: Uint8Array): void => {
    size += bytes.length;
    if (size > MAX_BYTES)
      throw new CaptureError(`Byte ${size}: the recording is too long to be kept; cut it.`);
    pieces.push(bytes.slice());
  };
  const end = (): Capture => {
    const whole = new Uint8Array(size);
    let at = 0;
    for (const piece of pieces) {
      whole.set(piece, at);
      at += piece.length;
    }
    const view = new DataView(whole.buffer);
    const { form, from, to } = chunksOf(view);
    const step = form.bits / 8;
    const count = Math.floor((to - from) / (step * form.channels));
    if (count === 0) throw new CaptureError(`Byte ${from}: the file has no samples.`);
    const times = Float64Array.from({ length: count }, (_, index) => index * PARTS);
    const wires = Array.from({ length: form.channels }, (_, channel) => {
      const values = new Float32Array(count);
      let peak = 0;
      for (let index = 0; index < count; index += 1) {
        const value = sample(view, from + (index * form.channels + channel) * step, form);
        values[index] = value;
        if (Math.abs(value) > peak) peak = Math.abs(value);
      }
      const band = HYSTERESIS * peak || 1e-9;
      const name = form.channels === 1 ? 'recording' : `channel ${channel + 1}`;
      return thresholded(name, times, values, { rise: band, fall: -band });
    });
    return { tickHz: form.rate * PARTS, from: 0, to: count * PARTS, wires };
  };
  return { push, end };
}
