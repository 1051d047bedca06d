import { CaptureError, type Capture } from '../wave/capture.ts';
import type { Threshold } from '../wave/threshold.ts';
import { csvReader } from './csv-read.ts';
import { vcdReader, type Reader } from './vcd-read.ts';
import { wavReader } from './wav-read.ts';

/** The kinds of capture files. */
export type CaptureKind = 'vcd' | 'csv' | 'wav';

/** The kind of a file by its first bytes, its name deciding where they do not. */
export function captureKind(name: string, first: Uint8Array): CaptureKind {
  const begin = String.fromCharCode(...first.subarray(0, 64)).trimStart();
  if (begin.startsWith('RIFF')) return 'wav';
  if (begin.startsWith('$')) return 'vcd';
  const ending = /\.(vcd|wav|csv|txt|tsv)$/i.exec(name)?.[1]?.toLowerCase();
  return ending === 'vcd' || ending === 'wav' ? ending : 'csv';
}

/** A reader of a capture of one kind; thresholds hold for columns of volts, by their names. */
function captureReader(kind: CaptureKind, thresholds?: Readonly<Record<string, Threshold>>): Reader {
  if (kind === 'vcd') return vcdReader();
  return kind === 'wav' ? wavReader() : csvReader(thresholds);
}

/** Tells how far a reader has come; answering true stops it. */
export type Progress = (bytes: number) => boolean | undefined;

/**
 * Reads a capture from pieces as they come. Undefined where it was stopped.
 * @throws CaptureError with the line or byte of what is wrong.
 */
export async function readCapture(
  name: string,
  pieces: AsyncIterable<Uint8Array>,
  progress: Progress = () => undefined,
  thresholds?: Readonly<Record<string, Threshold>>,
): Promise<Capture | undefined> {
  let reader: Reader | undefined;
  let bytes = 0;
  for await (const piece of pieces) {
    reader ??= captureReader(captureKind(name, piece), thresholds);
    reader.push(piece);
    bytes += piece.length;
    if (progress(bytes)) return undefined;
  }
  if (!reader) throw new CaptureError('Byte 0: the file is empty.');
  return reader.end();
}
