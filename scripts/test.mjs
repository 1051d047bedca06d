import { readFileSync, rmSync } from 'node:fs';
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import {
  build,
  cacheFile,
  fail,
  generateTypes,
  installDebian,
  installPackages,
  ROOT,
  runTogether,
  step,
} from './lib.mjs';

/** Runs Jest and gives how many tests passed and failed; a suite that could not run counts as one failure. */
function jest(name, args) {
  const report = cacheFile(`${name}.json`);
  rmSync(report, { force: true });
  const jestBin = join(ROOT, 'node_modules/jest/bin/jest.js');
  const result = spawnSync(process.execPath, [jestBin, ...args, '--json', `--outputFile=${report}`], {
    cwd: ROOT,
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  try {
    const { numPassedTests, numFailedTests, numRuntimeErrorTestSuites } = JSON.parse(
      readFileSync(report, 'utf8'),
    );
    return { passed: numPassedTests, failed: numFailedTests + numRuntimeErrorTestSuites };
  } catch {
    return fail(`The ${name} tests left no report; Jest ended with code ${result.status}.`);
  }
}

/** Prints how much of the core the unit tests reach. */
function printCoverage() {
  const files = JSON.parse(readFileSync(join(ROOT, 'coverage/coverage-summary.json'), 'utf8'));
  const own = Object.entries(files).filter(([file]) => file.startsWith(join(ROOT, 'core/src')));
  const share = (name) => {
    const sum = (key) => own.reduce((count, [, file]) => count + file[name][key], 0);
    return `${name} ${((100 * sum('covered')) / sum('total')).toFixed(1)} %`;
  };
  console.log(`coverage of core: ${['lines', 'functions', 'branches'].map(share).join(', ')}`);
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
  '/usr/bin/arm-none-eabi-gcc': 'gcc-arm-none-eabi',
  '/usr/bin/xtensa-lx106-elf-gcc': 'gcc-xtensa-lx106',
});
step('lint and types');
generateTypes();
await runTogether([
  [join(ROOT, 'node_modules/eslint/bin/eslint.js'), '.', '--max-warnings=0'],
  [join(ROOT, 'scripts/typecheck.mjs'), '--generated'],
  [join(ROOT, 'node_modules/prettier/bin/prettier.cjs'), '--check', '--log-level=warn', '.'],
]);
step('units');
const units = jest('unit', ['--coverage', '--maxWorkers=100%']);
printCoverage();
step('build');
build(true);
step('interface');
const surface = jest('interface', ['--config', 'e2e/jest.config.mjs']);
const passed = units.passed + surface.passed;
const failed = units.failed + surface.failed;
console.log(`\nunits: ${units.passed} passed, ${units.failed} failed`);
console.log(`interface: ${surface.passed} passed, ${surface.failed} failed`);
console.log(`tests: ${passed} passed, ${failed} failed`);
process.exitCode = failed === 0 && passed > 0 ? 0 : 1;
