import {
  failed,
  type Part,
  type Plan,
  lanePieces,
  printSeconds,
  type Result,
  succeeded,
  tracedLanes,
  writeCsv,
  writePart,
  writeVcd,
  writeWav,
} from '@herzschlag/core';

/** Files that are written of a plan as text: edges, or its part. */
export type FileKind = 'vcd' | 'csv' | 'part';

/** The longest file that is written, in characters, and the most edges of a recording. */
const LONGEST_FILE = 100_000_000;
const MOST_EDGES = 20_000_000;

function tooLong(seconds: number): string {
  return `${printSeconds(seconds)} hold too many edges for one file; show a shorter time and save that.`;
}

/** What the pins do from the start on, or the plan's part, as the text of a file; a fault where it would be too long. */
export function fileText(plan: Plan, part: Part, kind: FileKind, seconds = 0): Result<string> {
  if (kind === 'part') return succeeded(writePart(part));
  const lanes = tracedLanes(plan, part, seconds);
  if (!lanes.ok) return lanes;
  const pieces: string[] = [];
  let length = 0;
  for (const piece of (kind === 'vcd' ? writeVcd : writeCsv)(lanes.value, seconds)) {
    pieces.push(piece);
    length += piece.length;
    if (length > LONGEST_FILE) return failed(tooLong(seconds));
  }
  return succeeded(pieces.join(''));
}

/** One pin as sound; undefined where it has no waveform, a fault where it has too many edges. */
export function soundFile(
  plan: Plan,
  part: Part,
  signal: string,
  seconds: number,
): Result<Uint8Array | undefined> {
  const lanes = tracedLanes(plan, part, seconds);
  if (!lanes.ok) return lanes;
  const own = lanes.value.find((one) => one.signal === signal);
  if (!own) return succeeded(undefined);
  let edges = 0;
  for (const piece of lanePieces(own, seconds)) {
    edges += piece.length;
    if (edges > MOST_EDGES) return failed(tooLong(seconds));
  }
  return succeeded(writeWav(own, seconds));
}
