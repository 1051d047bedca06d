import { CaptureError, type Capture, type Wire } from '../wave/capture.ts';
import { levelsOf, thresholded } from '../wave/threshold.ts';
import { latin1 } from './latin1.ts';
import { leftOutValues } from './outliers.ts';
import type { Reader } from './vcd-read.ts';
import { wavForm, wavSample, type WavForm } from './wav-header.ts';

/** Parts of a sample's time in which crossings are placed. */
const PARTS = 1024;

/** Of the greatest value so much on either side of zero does not change the level. */
const HYSTERESIS = 0.05;

/** Samples of all channels together that are read at most, at four bytes each. */
const MAX_SAMPLES = 64_000_000;

/** Up to so many samples of a channel are kept with it, so that its thresholds can be moved. */
const KEPT = 4_000_000;

/** Samples in one piece of memory. */
const BLOCK = 1 << 18;

/** The samples of one channel, growing without ever being copied. */
function samples() {
  const blocks: Float32Array[] = [];
  const own = {
    count: 0,
    peak: 0,
    push(value: number): void {
      const place = own.count % BLOCK;
      if (place === 0) blocks.push(new Float32Array(BLOCK));
      (blocks[blocks.length - 1] as Float32Array)[place] = value;
      own.count += 1;
      if (value > own.peak || -value > own.peak) own.peak = Math.abs(value);
    },
    value: (at: number): number => blocks[Math.floor(at / BLOCK)]?.[at % BLOCK] ?? 0,
  };
  return own;
}

type Channel = ReturnType<typeof samples>;

function wireOf(channel: Channel, name: string): Wire {
  const { count, peak, value } = channel;
  const band = HYSTERESIS * peak || 1e-9;
  const threshold = { rise: band, fall: -band };
  const time = (at: number): number => at * PARTS;
  if (count > KEPT) return levelsOf({ count, time, value }, threshold).wire(name);
  const times = Float64Array.from({ length: count }, (_, at) => time(at));
  const values = Float32Array.from({ length: count }, (_, at) => value(at));
  return thresholded(name, times, values, threshold);
}

/** What the reader is in: the head of a chunk, a chunk that is passed over, the format, the samples, what follows them. */
type State = 'start' | 'chunk' | 'skip' | 'format' | 'samples' | 'rest';

/** The longest format chunk there is takes 40 bytes. */
const LONGEST_FORMAT = 1024;

/**
 * Reads a WAV file (8, 16, 24, 32 bits, float) in pieces: each channel a wire that is high above zero, its changes placed
 * by a straight line between samples. @throws CaptureError with the byte.
 */
export function wavReader(): Reader {
  let state: State = 'start';
  let form: WavForm | undefined;
  let channels: Channel[] = [];
  /** Bytes that are waited for until the next thing is whole, those that came, and how many were read before them. */
  let held = new Uint8Array(0);
  let offset = 0;
  /** Bytes that are left of the chunk under way. */
  let left = 0;
  let count = 0;
  const leftOut = leftOutValues();

  const fail = (sentence: string, at = offset): never => {
    throw new CaptureError(`Byte ${at}: ${sentence}`);
  };

  const takeFrames = (view: DataView, own: WavForm, bytes: number): void => {
    const step = own.bits / 8;
    for (let at = 0; at < bytes; at += step) {
      const channel = channels[count % own.channels];
      const value = wavSample(view, at, own);
      count += 1;
      if (Number.isFinite(value)) channel?.push(value);
      else {
        leftOut.add(`Byte ${offset + at}`, String(value), `channel ${((count - 1) % own.channels) + 1}`);
        channel?.push(channel.value(channel.count - 1));
      }
    }
    if (count > MAX_SAMPLES) fail('the recording is too long to be kept; cut it.');
  };

  /** For each state: takes what is whole from the front of some bytes; gives how many that were, 0 where more must come. */
  const take: Record<State, (bytes: Uint8Array, view: DataView) => number> = {
    start: (bytes) => {
      if (bytes.length < 12) return 0;
      if (latin1(bytes.subarray(0, 4)) !== 'RIFF' || latin1(bytes.subarray(8, 12)) !== 'WAVE')
        fail('this is no WAV file.', 0);
      state = 'chunk';
      return 12;
    },
    chunk: (bytes, view) => {
      if (bytes.length < 8) return 0;
      const name = latin1(bytes.subarray(0, 4));
      const size = view.getUint32(4, true);
      if (name === 'data' && !form) fail('samples come before their format.');
      if (name === 'fmt ' && size > LONGEST_FORMAT) fail('the format chunk is too long.');
      state = name === 'fmt ' ? 'format' : name === 'data' ? 'samples' : 'skip';
      left = state === 'skip' ? size + (size % 2) : size;
      return 8;
    },
    format: (bytes) => {
      if (bytes.length < left) return 0;
      form = wavForm(new DataView(bytes.buffer, bytes.byteOffset, left), offset);
      channels = Array.from({ length: form.channels }, samples);
      const taken = left;
      left = taken % 2;
      state = 'skip';
      return taken;
    },
    samples: (bytes, view) => {
      if (!form) return fail('samples come before their format.');
      const step = (form.bits / 8) * form.channels;
      const whole = Math.floor(Math.min(bytes.length, left) / step) * step;
      takeFrames(view, form, whole);
      left -= whole;
      if (left < step) state = 'rest';
      return whole;
    },
    skip: (bytes) => {
      const passed = Math.min(bytes.length, left);
      left -= passed;
      if (left === 0) state = 'chunk';
      return passed;
    },
    rest: (bytes) => bytes.length,
  };

  const push = (bytes: Uint8Array): void => {
    let rest = bytes;
    if (held.length > 0) {
      rest = new Uint8Array(held.length + bytes.length);
      rest.set(held);
      rest.set(bytes, held.length);
    }
    for (;;) {
      const before = state;
      const taken = take[state](rest, new DataView(rest.buffer, rest.byteOffset, rest.byteLength));
      offset += taken;
      rest = rest.subarray(taken);
      if (taken === 0 && state === before) break;
    }
    held = rest.slice();
  };

  const end = (): Capture => {
    const size = offset + held.length;
    if (size === 0) fail('the file is empty.', 0);
    if (state === 'start') fail('this is no WAV file.', 0);
    if (state === 'format') fail('the file ends within its format.');
    if (!form || count < form.channels) return fail('the file has no samples.', size);
    const wires = channels.map((channel, at) =>
      wireOf(channel, channels.length === 1 ? 'recording' : `channel ${at + 1}`),
    );
    const to = Math.floor(count / form.channels) * PARTS;
    return { tickHz: form.rate * PARTS, from: 0, to, wires, ...leftOut.notes() };
  };
  return { push, end };
}
