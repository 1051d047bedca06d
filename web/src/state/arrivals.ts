import { proxy } from 'comlink';
import { failed, FILE_LIMIT, type Result, succeeded } from '@herzschlag/core';
import { ask } from '../worker/engine.ts';
import { restoreBackup } from './backup.ts';
import { storeCapture } from './captures.ts';
import { openPlanFile } from './file.ts';
import { keepPart } from './own-parts.ts';
import { storePlan } from './plans.ts';

/** What a file turns out to be. */
export type FileKind = 'plan' | 'part' | 'backup' | 'archive' | 'capture' | 'program';

/** Letters that are looked at to tell what a file is. */
const BEGINNING = 4096;

const PROGRAM = /\.(?:c|h|cc|cpp|hpp|ino|s|asm|inc)$/i;
const CAPTURE = /\.(?:vcd|csv|tsv|wav)$/i;

/** What a file is, by its first bytes, by what it says of itself, and by its name where these do not tell. */
export async function kindOfFile(file: File): Promise<FileKind> {
  const begin = await file.slice(0, BEGINNING).text();
  if (begin.startsWith('PK\u0003\u0004')) return 'archive';
  if (begin.startsWith('RIFF') || begin.trimStart().startsWith('$')) return 'capture';
  if (PROGRAM.test(file.name)) return 'program';
  if (CAPTURE.test(file.name)) return 'capture';
  const format = /^\s*\{\s*"format"\s*:\s*"herzschlag-(\w+)"/.exec(begin)?.[1];
  if (format === 'part' || format === 'backup') return format;
  if (format !== undefined || begin.trimStart().startsWith('{') || /\.json$/i.test(file.name)) return 'plan';
  // A text: statements, or a table.
  return /\w\s*[|&]?=[^=][^;]*;/.test(begin) ? 'program' : 'capture';
}

/** What came of a file: a plan to show, a sentence about what was done, or something for the plan that is open. */
export type Arrival =
  | { is: 'plan'; id: string }
  | { is: 'done'; sentence: string }
  | { is: 'capture'; file: File }
  | { is: 'program'; text: string };

function inFile(file: File, sentence: string): Result<never> {
  return failed(`${file.name}: ${sentence}`);
}

/** Stores the plan of an archive with everything of it that is there. */
async function unpack(file: File): Promise<Result<Arrival>> {
  const found = await file
    .arrayBuffer()
    .then((buffer) => ask((engine) => engine.openArchive(new Uint8Array(buffer))));
  if (!found.ok) return inFile(file, found.fault.sentence);
  const { plan: text, capture, backup } = found.value;
  if (backup !== undefined) {
    const { ids, problems } = await restoreBackup(new File([backup], file.name));
    const [id] = ids;
    return id === undefined ? inFile(file, problems.join('; ')) : succeeded({ is: 'plan', id });
  }
  const plan = await ask((engine) => engine.readPlan({ kind: 'plan', text }));
  if (!plan.ok) return inFile(file, plan.fault.sentence);
  const id = await storePlan(plan.value);
  if (capture) {
    const name = capture.name.replace(/^.*\//, '');
    const own = new File([capture.bytes as BlobPart], name);
    const opened = await ask((engine) =>
      engine.openCapture(
        own,
        id,
        proxy(() => false),
      ),
    );
    if (!opened.ok) return inFile(own, opened.fault.sentence);
    await storeCapture({ plan: id, name, capture: opened.value, wires: {} });
  }
  return succeeded({ is: 'plan', id });
}

/** Brings back what a backup holds, and says how much that was. @throws Error where the file is not a backup. */
export async function restored(file: File): Promise<{ is: 'done'; sentence: string }> {
  const { restored: count, same, problems } = await restoreBackup(file);
  const parts = [
    `${count} ${count === 1 ? 'plan' : 'plans'} restored`,
    ...(same > 0 ? [`${same} here already`] : []),
    ...problems.map((problem) => `left out: ${problem}`),
  ];
  return { is: 'done', sentence: `${parts.join('; ')}.` };
}

async function keep(file: File): Promise<Result<Arrival>> {
  const text = await file.text();
  const read = await ask((engine) => engine.readPart(text));
  if (!read.ok) return inFile(file, read.fault.sentence);
  await keepPart(read.value, text);
  return succeeded({ is: 'done', sentence: `${read.value.name} is kept; New plan lists it from now on.` });
}

/** Takes in a file of any kind. A sentence with its name where that fails; nothing is stored of it then. */
export async function takeFile(file: File): Promise<Result<Arrival>> {
  const kind = await kindOfFile(file);
  switch (kind) {
    case 'archive':
      return unpack(file);
    case 'backup':
      return succeeded(await restored(file));
    case 'part':
      return keep(file);
    case 'capture':
      return succeeded({ is: 'capture', file });
    case 'program':
      return file.size > FILE_LIMIT
        ? inFile(file, 'The program is far too long.')
        : succeeded({ is: 'program', text: await file.text() });
    case 'plan': {
      const plan = await openPlanFile(file);
      return plan.ok ? succeeded({ is: 'plan', id: await storePlan(plan.value) }) : plan;
    }
  }
}
