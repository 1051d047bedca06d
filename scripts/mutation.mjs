import { existsSync, readFileSync } from 'node:fs';
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { ROOT, step } from './lib.mjs';
import { STAGES } from '../mutation/stages.mjs';

/** A stage passes with this share of its mutants found, in percent. */
const WANTED = 85;

const FOUND = new Set(['Killed', 'Timeout']);
const COUNTED = new Set([...FOUND, 'Survived', 'NoCoverage']);

/** The share of mutants that tests find, in percent, of a report; those that run once as a module is loaded are left out. */
function scoreOf(report) {
  const mutants = Object.values(report.files).flatMap((file) => file.mutants);
  const counted = mutants.filter(({ status }) => COUNTED.has(status));
  const found = counted.filter(({ status }) => FOUND.has(status));
  return { mutants: counted.length, score: (100 * found.length) / counted.length };
}

const asked = process.argv.slice(2);
const unknown = asked.find((name) => !Object.hasOwn(STAGES, name));
if (unknown) {
  console.error(`There is no stage “${unknown}”; there are ${Object.keys(STAGES).join(', ')}.`);
  process.exit(2);
}
const rows = [];
for (const stage of asked.length > 0 ? asked : Object.keys(STAGES)) {
  step(`mutants of ${stage}`);
  const stryker = join(ROOT, 'node_modules/@stryker-mutator/core/bin/stryker.js');
  const { status } = spawnSync(process.execPath, [stryker, 'run', 'mutation/stryker.config.mjs'], {
    cwd: ROOT,
    stdio: 'inherit',
    env: { ...process.env, HZ_STAGE: stage },
  });
  const file = join(ROOT, `out/mutation/${stage}.json`);
  if (status !== 0 || !existsSync(file)) process.exit(status || 1);
  rows.push({ stage, ...scoreOf(JSON.parse(readFileSync(file, 'utf8'))) });
}
for (const { stage, mutants, score } of rows)
  console.log(`${stage}: ${score.toFixed(1)} % of ${mutants} mutants`);
process.exitCode = rows.every(({ score }) => score >= WANTED) ? 0 : 1;
