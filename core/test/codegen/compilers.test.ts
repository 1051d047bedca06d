import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import type { CodeFile } from '../../src/codegen/c-files.ts';
import { stepBudget } from '../../src/assign/step-budget.ts';
import { noStartUpCode, planCode } from '../../src/evaluate/code.ts';
import { readPlan } from '../../src/plan/check-plan.ts';
import { withSettings } from '../../src/plan/edit.ts';
import { assignPlan } from '../../src/resolve/assign-plan.ts';
import { benchPlans } from '../helpers/bench-plans.ts';
import { plansFor } from '../helpers/chip-plans.ts';
import { FADE, planWith, WAYS } from '../helpers/sequence-plans.ts';
import { PARTS } from '../helpers/parts.ts';

/** Plans to a part; 16 make the two hundred. */
const RUNS = Number(process.env['HZ_RUNS'] ?? 16);
const SEED = 160_412;

const WARNINGS = '-Wall -Wextra -Werror -Wconversion -Wshadow -pedantic -Os'.split(' ');

/** By part: the compiler of its family, for C and for C++17, and the processor. The host's where none is packaged. */
const ARM = ['arm-none-eabi-gcc', 'arm-none-eabi-g++'] as const;
const AVR = ['avr-gcc', 'avr-g++'] as const;
const HOST = ['gcc', 'g++'] as const;
// The host's addresses are wider than those of registers, and it takes small ones for mistakes.
const NARROW = ['-Wno-int-to-pointer-cast', '-Wno-array-bounds'];
const COMPILERS: Record<string, readonly [readonly [string, string], readonly string[]]> = {
  atmega328p: [AVR, ['-mmcu=atmega328p']],
  atmega2560: [AVR, ['-mmcu=atmega2560']],
  attiny85: [AVR, ['-mmcu=attiny85']],
  pic16f684: [HOST, NARROW],
  pic16f18875: [HOST, NARROW],
  pic18f4620: [HOST, NARROW],
  stm32f401: [ARM, ['-mcpu=cortex-m4', '-mthumb', '-ffreestanding']],
  samd21g18: [ARM, ['-mcpu=cortex-m0plus', '-mthumb', '-ffreestanding']],
  rp2040: [ARM, ['-mcpu=cortex-m0plus', '-mthumb', '-ffreestanding']],
  mk20dx256: [ARM, ['-mcpu=cortex-m4', '-mthumb', '-ffreestanding']],
  am3358: [ARM, ['-mcpu=cortex-a8', '-ffreestanding']],
  bcm2835: [ARM, ['-mcpu=arm1176jzf-s', '-ffreestanding']],
  // Another core of the family, without the windowed registers; it is the packaged one.
  esp32: [['xtensa-lx106-elf-gcc', 'xtensa-lx106-elf-g++'], ['-ffreestanding']],
};

const EXAMPLES = join(__dirname, '../../../examples');

/** The demo plans of a part. */
function demosOf(id: string): CodeFile[][] {
  return readdirSync(EXAMPLES)
    .filter((name) => name.endsWith('.plan.json'))
    .flatMap((name) => {
      const read = readPlan(readFileSync(join(EXAMPLES, name), 'utf8'), PARTS);
      if (!read.ok || read.value.part.id !== id) return [];
      const { plan, part } = read.value;
      // Some of them wait for their assignment.
      const assigned = assignPlan(plan, part, stepBudget(400));
      // One of them loses an event, which is no matter of the compiler.
      return [
        planCode(assigned.feasible ? withSettings(plan, assigned.settings) : plan, part, { failing: true })
          .files,
      ];
    });
}

describe.each(PARTS.map((part) => [part.name, part] as const))('code for %s', (_, part) => {
  const [[c, cpp], options] = COMPILERS[part.id] ?? [HOST, NARROW];
  const plans = fc
    .sample(plansFor(part), { numRuns: RUNS, seed: SEED })
    .filter(({ signals }) => signals.length > 0);
  const clocks = noStartUpCode(part) === undefined;
  const all = [
    ...plans.map(
      (plan, at) =>
        planCode({ ...plan, name: `Plan ${at}` }, part, { startUp: at % 2 === 0 && clocks }).files,
    ),
    ...demosOf(part.id),
    ...[...WAYS, ['delay-loop', FADE] as const]
      .flatMap(([drive, signal]) => planWith(part, signal, drive) ?? [])
      .map(({ plan }, at) => planCode({ ...plan, name: `Sequence ${at}` }, part, { failing: true }).files),
    ...benchPlans(part).map(({ plan }, at) => planCode({ ...plan, name: `Bench ${at}` }, part).files),
  ];
  let directory = '';

  beforeAll(() => {
    directory = mkdtempSync(join(tmpdir(), 'compilers-'));
    for (const { name, text } of all.flat()) writeFileSync(join(directory, name), text);
  });

  afterAll(() => rmSync(directory, { recursive: true, force: true }));

  const sources = all.flatMap((files) => files.map(({ name }) => name).filter((name) => name.endsWith('.c')));
  const run = (compiler: string, more: readonly string[]): void => {
    execFileSync(compiler, [...WARNINGS, ...options, ...more, ...sources], {
      cwd: directory,
      stdio: ['ignore', 'pipe', 'pipe'],
    });
  };

  it(`is C11 without a warning, by ${c}: ${sources.length} programs`, () => {
    run(c, ['-c', '-std=c11', '-Wmissing-prototypes', '-Wstrict-prototypes']);
  });

  it(`is C++17 without a warning, by ${cpp}`, () => {
    // What only the optimizer sees is the same in both languages; it has looked at the C.
    run(cpp, ['-fsyntax-only', '-x', 'c++', '-std=c++1z', '-Wmissing-declarations']);
  });
});
