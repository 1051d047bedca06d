import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { FILE_LIMIT } from '../result/file-limit.ts';
import { failed, type Result, succeeded } from '../result/result.ts';

/** A file of an archive. */
export type ArchiveFile = { name: string; bytes: Uint8Array };

/** An archive has up to so many bytes when it is unpacked, and so many files. */
const MOST = { bytes: 400_000_000, files: 500 };

/** Files get the first moment that an archive can tell, so that the same files give the same bytes. */
const FIRST_MOMENT = new Date(1980, 0, 1);

/** A text as a file of an archive. */
export function textFile(name: string, text: string): ArchiveFile {
  return { name, bytes: strToU8(text) };
}

/** Files packed into a ZIP archive; the same files in the same order give the same bytes. */
export function writeArchive(files: readonly ArchiveFile[]): Uint8Array {
  const all = Object.fromEntries(files.map(({ name, bytes }) => [name, bytes]));
  return zipSync(all, { mtime: FIRST_MOMENT, level: 6 });
}

/** Whether bytes begin as a ZIP archive does. */
export function isArchive(bytes: Uint8Array): boolean {
  return bytes[0] === 0x50 && bytes[1] === 0x4b && bytes[2] === 3 && bytes[3] === 4;
}

/** The files of a ZIP archive; a sentence where it is damaged, encrypted or far too large. Directories are left out. */
export function readArchive(bytes: Uint8Array): Result<ArchiveFile[]> {
  let size = 0;
  let count = 0;
  try {
    const all = unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        if (name.endsWith('/')) return false;
        size += originalSize;
        count += 1;
        return size <= MOST.bytes && count <= MOST.files;
      },
    });
    if (size > MOST.bytes || count > MOST.files)
      return failed(
        `The archive holds ${count} files of ${Math.ceil(size / 1e6)}\u00a0MB; up to ${MOST.files} files and ${MOST.bytes / 1e6}\u00a0MB are read.`,
      );
    return succeeded(Object.entries(all).map(([name, own]) => ({ name, bytes: own })));
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error);
    return failed(`The archive cannot be unpacked: ${why}.`);
  }
}

/** What an archive holds of a plan: the text of its file, a capture, and a backup with everything the browser kept. */
export type ArchivedPlan = { plan: string; capture?: ArchiveFile; backup?: string };

const CAPTURE = /\.(?:vcd|csv|wav|tsv)$/i;

function formatOf(text: string): string | undefined {
  return /^\s*\{\s*"format"\s*:\s*"([\w-]+)"/.exec(text)?.[1];
}

/** The plan of an archive, wherever it lies in it; a sentence where there is none, or more than one. */
export function planInArchive(files: readonly ArchiveFile[]): Result<ArchivedPlan> {
  const texts = files
    .filter(({ name, bytes }) => /\.json$/i.test(name) && bytes.length <= 50 * FILE_LIMIT)
    .map(({ bytes }) => strFromU8(bytes));
  const plans = texts.filter((text) => formatOf(text) === 'herzschlag-plan');
  const [plan, second] = plans;
  if (plan === undefined) return failed('The archive holds no plan.');
  if (second !== undefined)
    return failed(`The archive holds ${plans.length} plans; unpack it and open one of them.`);
  const capture = files.find(({ name }) => CAPTURE.test(name));
  const backup = texts.find((text) => formatOf(text) === 'herzschlag-backup');
  return succeeded({
    plan,
    ...(capture ? { capture } : {}),
    ...(backup === undefined ? {} : { backup }),
  });
}
