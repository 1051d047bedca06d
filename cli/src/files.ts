import { randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { rename, rm, stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { UsageError } from './usage-error.ts';

/** Stands for standard input where a file is named. */
const STDIN = '-';

const REASONS = new Map([
  ['ENOENT', 'there is no such file'],
  ['EACCES', 'permission is denied'],
  ['EISDIR', 'it is a directory'],
  ['ENOTDIR', 'a part of its path is not a directory'],
  ['EEXIST', 'a file of that name exists already'],
  ['ENOSPC', 'there is no room left'],
]);

function systemReason(error: unknown): string {
  const code = error instanceof Error && 'code' in error ? String(error.code) : '';
  return REASONS.get(code) ?? (error instanceof Error ? error.message : String(error));
}

/** Names the file in what went wrong with it. */
export function fileError(file: string, error: unknown): UsageError {
  return new UsageError(`${file}: ${systemReason(error)}.`);
}

/** The bytes of a file, or of standard input for “-”, in pieces. */
export function piecesOf(file: string, pieceBytes = 1 << 20): AsyncIterable<Uint8Array> {
  return file === STDIN ? process.stdin : createReadStream(file, { highWaterMark: pieceBytes });
}

/** Whether a name is that of a file. */
export async function isFile(name: string): Promise<boolean> {
  try {
    return (await stat(name)).isFile();
  } catch {
    // Whatever keeps it from being looked at, it is not read under that name.
    return false;
  }
}

/** The bytes of a file, or of standard input for “-”, up to a number of them. @throws UsageError with the file. */
export async function readBytes(file: string, maxBytes: number): Promise<Uint8Array> {
  const tooLarge = new UsageError(`${file}: The file is far too large.`);
  try {
    if (file !== STDIN && (await stat(file)).size > maxBytes) throw tooLarge;
    const pieces: Uint8Array[] = [];
    let bytes = 0;
    for await (const piece of piecesOf(file)) {
      pieces.push(piece);
      bytes += piece.length;
      if (bytes > maxBytes) throw tooLarge;
    }
    return Buffer.concat(pieces);
  } catch (error) {
    throw error instanceof UsageError ? error : fileError(file, error);
  }
}

/** The text of a file, or of standard input for “-”, up to a number of bytes. @throws UsageError with the file. */
export async function readText(file: string, maxBytes: number): Promise<string> {
  return Buffer.from(await readBytes(file, maxBytes)).toString('utf8');
}

/**
 * Writes a file as a whole or not at all: it is written beside its place and takes it when it is complete.
 * @throws UsageError with the file.
 */
export async function writeWhole(
  file: string,
  content: string | Uint8Array | Iterable<string>,
): Promise<void> {
  const made = `${file}.${randomUUID()}.tmp`;
  try {
    const whole = typeof content === 'string' || content instanceof Uint8Array;
    await pipeline(Readable.from(whole ? [content] : content), createWriteStream(made, { flags: 'wx' }));
    await rename(made, file);
  } catch (error) {
    await rm(made, { force: true });
    throw fileError(file, error);
  }
}
