import { mkdirSync, writeFileSync } from 'node:fs';
import { Session } from 'node:inspector/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { compileAnew, headOf } from '../compile-once.mjs';
import TestEnvironment from '../environment.mjs';
import { isNoted, OWN, REACHED } from './places.mjs';

const session = new Session();
session.connect();
mkdirSync(REACHED, { recursive: true });
let count = 0;
let noting = false;

/** Starts or stops noting what is reached, once for test files that follow each other: V8 looks through the whole process for it. */
async function note(wanted) {
  if (wanted === noting) return;
  noting = wanted;
  compileAnew();
  if (!wanted) return session.post('Profiler.disable');
  await session.post('Profiler.enable');
  await session.post('Profiler.startPreciseCoverage', { callCount: false, detailed: true });
}

/** Leaves what was reached since the last time in a file of its own, as places in the texts of the modules. */
async function leave() {
  const { result } = await session.post('Profiler.takePreciseCoverage');
  const own = result.filter(({ url }) => url.startsWith(OWN));
  for (const { url, functions } of own) {
    const head = headOf(fileURLToPath(url));
    for (const { ranges } of functions)
      for (const range of ranges) {
        range.startOffset = Math.max(0, range.startOffset - head);
        range.endOffset -= head;
      }
  }
  writeFileSync(join(REACHED, `${process.pid}-${count++}.json`), JSON.stringify({ result: own }));
}

/**
 * Jest's Node environment that notes what some test files reach of the core, once for each function and block. Jest's own
 * collector counts every call, has the debugger look at all scripts for each test file, and took a third of the test run.
 */
export default class CoverageEnvironment extends TestEnvironment {
  constructor(config, context) {
    super(config, context);
    this.noted = isNoted(context.testPath);
  }

  async setup() {
    await super.setup();
    await note(this.noted);
  }

  async teardown() {
    if (this.noted) await leave();
    await super.teardown();
  }
}
