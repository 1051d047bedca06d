import { createReadStream } from 'node:fs';
import { type Capture, CaptureError, readCapture } from '@herzschlag/core';
import { fileError } from './plan.ts';
import { UsageError } from './usage-error.ts';

/** Bytes read at once. */
const PIECE = 1 << 20;

/** Reads a capture file. @throws UsageError with the file, the place and a sentence. */
export async function loadCapture(file: string): Promise<Capture> {
  try {
    const capture = await readCapture(file, createReadStream(file, { highWaterMark: PIECE }));
    if (!capture) throw new UsageError(`${file}: reading was stopped.`);
    return capture;
  } catch (error) {
    if (error instanceof UsageError) throw error;
    if (error instanceof CaptureError) throw new UsageError(`${file}: ${error.message}`);
    throw fileError(file, error);
  }
}

/** Which wire is which signal, from WIRE=SIGNAL. @throws UsageError */
export function wireMap(said: readonly string[]): Record<string, string> {
  return Object.fromEntries(
    said.map((one) => {
      const at = one.lastIndexOf('=');
      if (at < 1) throw new UsageError(`“${one}” is not WIRE=SIGNAL.`);
      return [one.slice(0, at), one.slice(at + 1)];
    }),
  );
}
