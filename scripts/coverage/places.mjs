import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { ROOT } from '../lib.mjs';

/** The addresses of the core's scripts begin with this. */
export const OWN = `${pathToFileURL(join(ROOT, 'core/src')).href}/`;

/** Where each test file leaves what it reached. */
export const REACHED = join(ROOT, '.cache/reached');

/**
 * Test files whose coverage is noted, by directory, which takes them longer; these reach all but about two percent of the lines
 * that all test files reach, in a sixth of their time.
 */
const FILES = {
  capture: ['compare'],
  codegen: ['bit-loop', 'order', 'send', 'tables'],
  cpu: ['listing'],
  decode: ['decode', 'variables'],
  evaluate: ['code', 'evaluate', 'figures', 'interrupts', 'led-string', 'loads'],
  io: ['budgets'],
  load: ['models'],
  part: ['am3358-pwm', 'coverage'],
  plan: ['cpu-text', 'merge', 'needs', 'pin-names', 'plan-wide', 'versions'],
  quantity: ['quantity'],
  readings: ['readings'],
  resolve: ['assign-obeys', 'change', 'program-loops'],
  signal: ['kinds', 'target', 'wishes'],
  timer: ['paired-pins', 'timer'],
  wave: ['measure', 'sequence', 'sound', 'source', 'threshold', 'waveforms'],
};

/** Whether the coverage of a test file is noted. */
export function isNoted(path) {
  return Object.entries(FILES).some(([directory, names]) =>
    names.some((name) => path.endsWith(`/core/test/${directory}/${name}.test.ts`)),
  );
}
