import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { ROOT } from '../lib.mjs';

/** The addresses of the core's scripts begin with this. */
export const OWN = `${pathToFileURL(join(ROOT, 'core/src')).href}/`;

/** Where each test file leaves what it reached. */
export const REACHED = join(ROOT, '.cache/reached');

/**
 * Test files whose coverage is noted, by directory. Noting it slows the code by a sixth and takes half a second a file; these reach all but
 * one percent of the lines that all test files reach, in a third of their time.
 */
const FILES = {
  capture: ['compare'],
  codegen: ['bit-loop', 'device-names', 'order', 'send', 'tables'],
  cpu: ['listing'],
  decode: ['decode', 'variables'],
  evaluate: ['code', 'evaluate', 'figures', 'interrupts', 'led-string', 'loads', 'readings-plan'],
  fit: ['pwm-kind'],
  io: ['budgets'],
  load: ['models'],
  part: ['am3358-pwm', 'coverage'],
  plan: ['cpu-text', 'gate', 'merge', 'needs', 'pin-names', 'plan-wide', 'versions'],
  quantity: ['quantity'],
  readings: ['readings'],
  resolve: ['assign-obeys', 'change', 'fixes', 'program-loops'],
  signal: ['kinds', 'target', 'wishes'],
  timer: ['paired-pins', 'timer'],
  wave: ['counter', 'measure', 'sequence', 'sound', 'source', 'threshold', 'waveforms'],
};

/** Whether the coverage of a test file is noted. */
export function isNoted(path) {
  return Object.entries(FILES).some(([directory, names]) =>
    names.some((name) => path.endsWith(`/core/test/${directory}/${name}.test.ts`)),
  );
}
