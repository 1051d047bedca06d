import { mkdirSync, writeFileSync } from 'node:fs';
import { Session } from 'node:inspector/promises';
import { join } from 'node:path';
import { compileAnew } from '../compile-once.mjs';
import TestEnvironment from '../environment.mjs';
import { isNoted, OWN, REACHED } from './places.mjs';

const session = new Session();
session.connect();
mkdirSync(REACHED, { recursive: true });
let count = 0;

/**
 * Jest's Node environment that notes what some test files reach of the core, once for each function and block. Jest's own
 * collector counts every call, has the debugger look at all scripts for each test file, and took a third of the test run.
 */
export default class CoverageEnvironment extends TestEnvironment {
  constructor(config, context) {
    super(config, context);
    this.noted = isNoted(context.testPath);
    compileAnew(this.noted);
  }

  async setup() {
    await super.setup();
    if (!this.noted) return;
    await session.post('Profiler.enable');
    await session.post('Profiler.startPreciseCoverage', { callCount: false, detailed: true });
  }

  async teardown() {
    if (this.noted) await this.note();
    compileAnew(false);
    await super.teardown();
  }

  /** Leaves what was reached in a file of its own. */
  async note() {
    const { result } = await session.post('Profiler.takePreciseCoverage');
    await session.post('Profiler.disable');
    const own = result.filter(({ url }) => url.startsWith(OWN));
    writeFileSync(join(REACHED, `${process.pid}-${count++}.json`), JSON.stringify({ result: own }));
  }
}
