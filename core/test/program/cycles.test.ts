import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { clockPath } from '../../src/clock/path.ts';
import { handlerSymbol } from '../../src/codegen/handlers.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { settingsOf } from '../../src/evaluate/evaluate.ts';
import { planProgram } from '../../src/evaluate/program.ts';
import { fitRequirement } from '../../src/fit/fit.ts';
import { avrSet } from '../../src/machine/avr-cycles.ts';
import type { InstructionSet } from '../../src/machine/instruction-set.ts';
import { cyclesInListing } from '../../src/machine/listing.ts';
import { thumbSet } from '../../src/machine/thumb-cycles.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { handlerCycles } from '../../src/program/cycles.ts';
import { programOf } from '../../src/program/program.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import { planOn } from '../helpers/plan.ts';
import { shipped } from '../helpers/parts.ts';

type Tools = { prefix: string; options: string[]; set: InstructionSet };

const AVR = (device: string): Tools => ({
  prefix: 'avr',
  options: [`-mmcu=${device}`],
  set: avrSet(),
});
const ARM = (core: 'cortex-m0plus' | 'cortex-m4'): Tools => ({
  prefix: 'arm-none-eabi',
  options: [`-mcpu=${core}`, '-mthumb', '-ffreestanding'],
  set: thumbSet(core),
});
const TOOLS: Record<string, Tools> = {
  atmega328p: AVR('atmega328p'),
  attiny85: AVR('attiny85'),
  samd21g18: ARM('cortex-m0plus'),
  stm32f401: ARM('cortex-m4'),
};

const SIGNALS = [
  { kind: 'blink', target: { frequencyHz: 2, duty: 0.5 } },
  { kind: 'blink', target: { frequencyHz: 0.1, duty: 0.3 } },
  {
    kind: 'blink',
    target: { frequencyHz: 10, duty: 0.3 },
    sequence: { steps: [{ periods: 2 }, { rest: true, periods: 3 }, { periods: 1 }] },
  },
  {
    kind: 'tone',
    target: { frequencyHz: 440 },
    sequence: { steps: [{ periods: 20 }, { periods: 20, frequencyHz: 880 }, { rest: true, periods: 4 }] },
  },
  { kind: 'tick', target: { frequencyHz: 100 } },
  { kind: 'pwm', target: { frequencyHz: 100, duty: 0.3, minSteps: 10 } },
  {
    kind: 'pwm',
    target: { frequencyHz: 100, duty: 0.3, minSteps: 10 },
    sequence: { steps: [{ periods: 5 }, { periods: 20, duty: 0.1, toDuty: 0.9 }], once: true },
  },
  { kind: 'measure', target: { minHz: 20, maxHz: 200 } },
].map((own, at) => ({ id: `signal-${at}`, name: 'Lamp', ...own }) as PlanSignal);

/** A plan for each drive that can make a signal, and for long software dividers. */
function plansFor(part: Part, signal: PlanSignal): Plan[] {
  const plain = planOn(part, signal);
  const { candidates } = fitRequirement(part, clockPath(part, plain.clock), requirementOf(signal));
  const ways = new Map(
    candidates.map(({ setting }) => [
      `${setting.drive} ${'divider' in setting && setting.divider > 255}`,
      setting,
    ]),
  );
  return [...ways.values()].map((setting) => planOn(part, { ...signal, setting }));
}

/** The compiled code of a plan as a listing. */
function listingOf(
  folder: string,
  { prefix, options }: Tools,
  plan: Plan,
  part: Part,
  level: string,
): string {
  for (const { name, text } of planCode(plan, part, { failing: true }).files)
    writeFileSync(join(folder, name), text);
  const object = join(folder, 'plan.o');
  execFileSync(`${prefix}-gcc`, [...options, level, '-c', join(folder, 'try_out.c'), '-o', object]);
  return execFileSync(`${prefix}-objdump`, ['-dr', object], { encoding: 'utf8' });
}

describe.each(Object.keys(TOOLS).map((id) => [shipped(id).name, shipped(id)] as const))(
  'handlers for %s',
  (_, part) => {
    const tools = TOOLS[part.id] as Tools;
    const folder = mkdtempSync(join(tmpdir(), 'cycles-'));
    const plans = SIGNALS.flatMap((signal) => plansFor(part, signal));

    afterAll(() => rmSync(folder, { recursive: true, force: true }));

    it('take what their operations say, compiled for size and for speed', () => {
      let counted = 0;
      for (const plan of plans) {
        const path = clockPath(part, plan.clock);
        const { signals } = planProgram(plan, part, path, settingsOf(plan, part, path));
        const program = programOf(part, signals);
        if (program.handlers.length === 0) continue;
        const listings = ['-Os', '-O2'].map((level) => listingOf(folder, tools, plan, part, level));
        for (const handler of program.handlers) {
          const ranges = handlerCycles(part, handler, program.routines);
          const [least, most] = [
            Math.min(...ranges.map(({ min }) => min)),
            ranges.reduce((sum, { max }) => sum + max, 0),
          ];
          const interrupt = handler.flags[0]?.interrupt;
          if (!interrupt) throw new Error('no flag');
          for (const listing of listings) {
            const real = cyclesInListing(listing, handlerSymbol(part, interrupt), tools.set);
            if (!real.ok) throw new Error(real.fault.sentence);
            expect(real.value.min).toBeGreaterThanOrEqual(least);
            expect(real.value.max).toBeLessThanOrEqual(most);
            // A range that says nothing would hold, too.
            expect(most).toBeLessThanOrEqual(5 * real.value.max + 20);
            counted += 1;
          }
        }
      }
      expect(counted).toBeGreaterThan(8);
    });
  },
);
