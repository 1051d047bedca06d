import { CaptureError } from '../wave/capture.ts';

/** How the samples of a WAV file are written. */
export type WavForm = { rate: number; channels: number; bits: number; float: boolean };

/** The format chunk at a place of a view. @throws CaptureError with the byte of the file. */
export function wavForm(view: DataView, at: number): WavForm {
  const fail = (sentence: string): never => {
    throw new CaptureError(`Byte ${at}: ${sentence}`);
  };
  const size = view.byteLength;
  if (size < 16) fail('the format chunk is too short.');
  const tag = view.getUint16(0, true);
  const channels = view.getUint16(2, true);
  const rate = view.getUint32(4, true);
  const bits = view.getUint16(14, true);
  const kind = tag === 0xfffe && size >= 26 ? view.getUint16(24, true) : tag;
  if (kind !== 1 && kind !== 3) fail(`samples of the format ${kind} are not read; PCM and float are.`);
  if (channels < 1 || channels > 64) fail(`${channels} channels are not read.`);
  if (rate < 1 || rate > 1e8) fail(`a sample rate of ${rate} Hz is not read.`);
  const able = kind === 3 ? [32] : [8, 16, 24, 32];
  if (!able.includes(bits)) fail(`samples of ${bits} bits are not read.`);
  return { rate, channels, bits, float: kind === 3 };
}

/** One sample between -1 and 1. Eight bits are unsigned, all others signed, least byte first. */
export function wavSample(view: DataView, at: number, { bits, float }: WavForm): number {
  if (float) return view.getFloat32(at, true);
  if (bits === 8) return (view.getUint8(at) - 128) / 128;
  if (bits === 16) return view.getInt16(at, true) / 32768;
  if (bits === 24) return (view.getUint16(at, true) + view.getInt8(at + 2) * 65536) / 8388608;
  return view.getInt32(at, true) / 2147483648;
}
