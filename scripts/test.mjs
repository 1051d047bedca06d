import { readFileSync, rmSync } from 'node:fs';
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import {
  cacheFile,
  fail,
  generateTypes,
  installDebian,
  installPackages,
  ROOT,
  runTogether,
  step,
} from './lib.mjs';
import { REACHED } from './coverage/places.mjs';

/** Runs Jest and gives how many tests passed and failed; a suite that could not run counts as one failure. */
function jest(name, args, more = {}) {
  const report = cacheFile(`${name}.json`);
  rmSync(report, { force: true });
  const jestBin = join(ROOT, 'node_modules/jest/bin/jest.js');
  // A larger young generation, in MB: tests make a lot that does not live long. Jest's processes take it over.
  const node = ['--max-semi-space-size=64'];
  const result = spawnSync(
    process.execPath,
    [...node, jestBin, ...args, '--json', `--outputFile=${report}`],
    {
      cwd: ROOT,
      env: { ...process.env, ...more },
      stdio: ['ignore', 'ignore', 'inherit'],
    },
  );
  try {
    const { numPassedTests, numFailedTests, numRuntimeErrorTestSuites } = JSON.parse(
      readFileSync(report, 'utf8'),
    );
    return { passed: numPassedTests, failed: numFailedTests + numRuntimeErrorTestSuites };
  } catch {
    return fail(`The ${name} tests left no report; Jest ended with code ${result.status}.`);
  }
}

/** Gives a function that prints the seconds since its last call, or since now. */
function stopwatch() {
  let from = performance.now();
  return () => {
    const now = performance.now();
    console.log(`${((now - from) / 1000).toFixed(0)} s`);
    from = now;
  };
}

installPackages();
installDebian({
  '/usr/bin/chromium': 'chromium',
  '/usr/bin/chromedriver': 'chromium-driver',
  '/usr/bin/avr-gcc': 'gcc-avr',
  '/usr/lib/avr/include/avr/io.h': 'avr-libc',
  '/usr/bin/gcc': 'gcc',
  '/usr/bin/g++': 'g++',
  '/usr/bin/qemu-system-avr': 'qemu-system-misc',
  '/usr/bin/qemu-system-arm': 'qemu-system-arm',
  '/usr/bin/arm-none-eabi-gcc': 'gcc-arm-none-eabi',
  '/usr/bin/xtensa-lx106-elf-gcc': 'gcc-xtensa-lx106',
  '/usr/bin/gpasm': 'gputils',
});
const timed = stopwatch();
step('lint, types, build');
generateTypes();
const script = (name) => join(ROOT, 'scripts', name);
const installed = (name) => join(ROOT, 'node_modules', name);
await runTogether(
  [[installed('eslint/bin/eslint.js'), '.', '--max-warnings=0'], [installed('oxlint/bin/oxlint')]],
  [
    [installed('oxfmt/bin/oxfmt'), '--check'],
    [installed('knip/bin/knip.js'), '--no-config-hints'],
    [script('words.mjs')],
    [script('typecheck.mjs'), '--generated'],
    [script('build.mjs'), '--types-checked'],
  ],
);
timed();
step('units');
rmSync(REACHED, { recursive: true, force: true });
const units = jest('unit', ['--maxWorkers=100%'], { HZ_COVERAGE: '1' });
// Its packages may have been installed only now.
const { coverage } = await import('./coverage/figures.mjs');
const { lines, functions } = await coverage();
console.log(`coverage of core: lines ${lines.toFixed(1)} %, functions ${functions.toFixed(1)} %`);
timed();
step('interface');
const surface = jest('interface', ['--config', 'e2e/jest.config.mjs']);
timed();
const passed = units.passed + surface.passed;
const failed = units.failed + surface.failed;
console.log(`\nunits: ${units.passed} passed, ${units.failed} failed`);
console.log(`interface: ${surface.passed} passed, ${surface.failed} failed`);
console.log(`tests: ${passed} passed, ${failed} failed`);
process.exitCode = failed === 0 && passed > 0 ? 0 : 1;
