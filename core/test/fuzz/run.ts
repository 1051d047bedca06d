import { createHash } from 'node:crypto';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { randomOf } from './mutate.ts';
import { READERS, type FuzzedReader } from './readers.ts';

/** Inputs that once threw, by the reader that they belong to; the tests try each of them. */
export const CRASHES = join(process.cwd(), 'core/test/fixtures/crashes');

/** No case takes more of the processor, in ms; the time of the wall would count what else runs on the machine. */
const LONGEST_MS = 2000;

/** What came of some cases of one reader. */
export type FuzzReport = { cases: number; accepted: number; slowestMs: number; failures: string[] };

/** Keeps a case that failed as a file of its own. */
function keep(reader: FuzzedReader, text: string): string {
  mkdirSync(CRASHES, { recursive: true });
  const name = `${reader.name.replace(/ /g, '-')}.${createHash('sha1').update(text).digest('hex').slice(0, 10)}.txt`;
  writeFileSync(join(CRASHES, name), text);
  return name;
}

/**
 * Tries random cases of a reader, from a seed on; stops after ten failures. With `keeps` a case that fails becomes a file,
 * and one that takes too long has failed.
 */
export function fuzz(reader: FuzzedReader, cases: number, seed: number, keeps: boolean): FuzzReport {
  const report: FuzzReport = { cases: 0, accepted: 0, slowestMs: 0, failures: [] };
  for (let at = 0; at < cases && report.failures.length < 10; at += 1) {
    const text = reader.make(randomOf(seed + at));
    const before = process.cpuUsage();
    try {
      if (reader.try(text)) report.accepted += 1;
    } catch (error) {
      const said = error instanceof Error ? `${error.name}: ${error.message}` : String(error);
      const file = keeps ? ` (${keep(reader, text)})` : '';
      report.failures.push(`seed ${seed + at}: ${said.slice(0, 200)}${file}`);
    }
    const { user, system } = process.cpuUsage(before);
    const took = (user + system) / 1000;
    if (keeps && took > LONGEST_MS) report.failures.push(`seed ${seed + at}: took ${Math.round(took)} ms`);
    report.slowestMs = Math.max(report.slowestMs, took);
    report.cases += 1;
  }
  return report;
}

/** The reader of that name. @throws Error where there is none. */
export function readerNamed(name: string): FuzzedReader {
  const found = READERS.find((one) => one.name === name);
  if (!found)
    throw new Error(`There is no reader “${name}”; there are ${READERS.map((one) => one.name).join(', ')}.`);
  return found;
}
