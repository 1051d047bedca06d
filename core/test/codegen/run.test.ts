import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { clockPath } from '../../src/clock/path.ts';
import type { CodeFile } from '../../src/codegen/c-files.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { registerOf } from '../../src/part/find.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { settingRegisters } from '../../src/timer/encode.ts';
import { outcomeUnder } from '../../src/timer/drives/index.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import { PARTS } from '../helpers/parts.ts';

const SIGNALS: readonly PlanSignal[] = [
  { id: 'vane', name: 'Vane', kind: 'pulse', target: { frameHz: 50, minS: 0.001, maxS: 0.002 } },
  { id: 'heater', name: 'Heater', kind: 'pwm', target: { frequencyHz: 1000, duty: 0.3, minSteps: 100 } },
  { id: 'hum', name: 'Hum', kind: 'tone', target: { frequencyHz: 440 } },
  { id: 'tick', name: 'Tick', kind: 'tick', target: { frequencyHz: 100 } },
  { id: 'lamp', name: 'Lamp', kind: 'blink', target: { frequencyHz: 2 } },
];

const STRICT =
  '-std=c11 -O1 -Wall -Wextra -Werror -Wconversion -Wshadow -pedantic -Wmissing-prototypes'.split(' ');

/** Registers as variables of the test instead of places in the chip. */
const PLACE = /^#define (\w+) \(\*\(volatile (uint\d+_t) \*\)0x[0-9A-F]+u\)$/gm;

type Ran = Map<string, number>[];

/** Runs the start routine and then some calls on the host; gives what every register holds after each of them. */
function run(files: readonly CodeFile[], calls: readonly string[], more: readonly string[] = []): Ran {
  const [source, header] = files;
  if (!source || !header) throw new Error('no code');
  const registers = [...header.text.matchAll(PLACE)].map(([, name = '', type = '']) => ({ name, type }));
  // Bits that the code waits for are there from the start.
  const waits = new Map<string, number>();
  for (const [, name = '', mask = '0'] of source.text.matchAll(/while \(!\((\w+) & (0x[0-9A-F]+)u\)\)/g)) {
    waits.set(name, ((waits.get(name) ?? 0) | Number(mask)) >>> 0);
  }
  const all = registers.map(({ name, type }) => `volatile ${type} ${name} = ${waits.get(name) ?? 0}u;`);
  const dump = [...registers.map(({ name }) => name), ...more].map(
    (name) => `    printf("${name}=%lu\\n", (unsigned long)${name});`,
  );
  const main = [
    '#include <stdio.h>',
    `#include "${header.name}"`,
    ...all,
    'static void dump(void)',
    '{',
    ...dump,
    '    printf("--\\n");',
    '}',
    'void vane_tick(void);',
    'void tick_tick(void) { }',
    'int main(void)',
    '{',
    `    ${source.name.replace('.c', '')}_start();`,
    '    dump();',
    ...calls.map((call) => `    ${call}; dump();`),
    '    return 0;',
    '}',
  ].join('\n');
  const directory = mkdtempSync(join(tmpdir(), 'run-'));
  try {
    writeFileSync(join(directory, header.name), header.text.replace(PLACE, 'extern volatile $2 $1;'));
    // Instructions of the chip that let interrupts happen mean nothing here.
    writeFileSync(join(directory, source.name), source.text.replace(/__asm volatile \("(?!")[^;]*;/g, ''));
    writeFileSync(join(directory, 'main.c'), main.replace('void vane_tick(void);\n', ''));
    execFileSync('gcc', [...STRICT, '-c', source.name, '-o', 'plan.o'], {
      cwd: directory,
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    execFileSync('gcc', ['-std=c11', 'main.c', 'plan.o', '-o', 'run'], {
      cwd: directory,
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    const out = execFileSync(join(directory, 'run'), { timeout: 10_000 }).toString();
    return out
      .split('--\n')
      .slice(0, -1)
      .map(
        (image) =>
          new Map(
            image
              .split('\n')
              .filter(Boolean)
              .map((line) => {
                const [name = '', value = '0'] = line.split('=');
                return [name, Number(value)] as const;
              }),
          ),
      );
  } finally {
    rmSync(directory, { recursive: true, force: true });
  }
}

function planOn(part: Part, signal: PlanSignal): Plan {
  return {
    format: 'herzschlag-plan',
    version: 2,
    name: 'Try out',
    part: part.id,
    clock: part.defaultClock,
    signals: [signal],
  };
}

/** How far the pulse of a compare value is from a time, in µs. */
function missBy(part: Part, setting: OutputSetting, compare: number, us: number): number {
  const { duty, frequency } = outcomeUnder(part, clockPath(part, part.defaultClock), { ...setting, compare });
  return Math.abs(duty.div(frequency).valueOf() * 1e6 - us);
}

const byAddress = PARTS.filter(({ code }) => code.registers === 'addresses');

describe.each(byAddress.map((part) => [part.name, part] as const))(
  'code for %s, run on the host',
  (_, part) => {
    it.each(SIGNALS.map((signal) => [signal.name, signal] as const))(
      '%s: the registers become what the table says',
      (__, signal) => {
        const plan = planOn(part, signal);
        const { registers, failures } = evaluatePlan(plan, part);
        if (failures.length > 0) {
          expect(() => planCode(plan, part)).toThrow();
          return;
        }
        const [image] = run(planCode(plan, part).files, []);
        for (const { name, value, mask } of registers) {
          if (registerOf(part, name).strobe || !image?.has(name)) continue;
          const made = ((image.get(name) ?? 0) & mask) >>> 0;
          expect(`${name} ${made}`).toBe(`${name} ${(value & mask) >>> 0}`);
        }
        // Every register of the table is written by the code.
        const written = registers.filter(({ name }) => !image?.has(name)).map(({ name }) => name);
        expect(written).toEqual([]);
      },
    );

    it('an input is read in mHz, and not before two edges were seen', () => {
      const wheel: PlanSignal = {
        id: 'wheel',
        name: 'Wheel',
        kind: 'measure',
        target: { minHz: 20, maxHz: 200 },
      };
      const plan = planOn(part, wheel);
      const { signals, failures } = evaluatePlan(plan, part);
      const outcome = signals[0]?.outcome;
      if (failures.length > 0 || !outcome || !('timer' in outcome.setting)) return;
      const { files } = planCode(plan, part);
      const countS = outcome.wave.countS;
      const counts = Math.round(1 / (100 * countS));
      const calls = [
        'wheel_counts = wheel_millihertz()',
        `wheel_counts = ${counts}u; wheel_counts = wheel_millihertz()`,
      ];
      const show = files.map(({ name, text }) => ({ name, text }));
      const images = run(show, calls, ['wheel_counts']);
      expect(images[1]?.get('wheel_counts')).toBe(0);
      expect(Math.abs((images[2]?.get('wheel_counts') ?? 0) - 1e3 / (counts * countS))).toBeLessThanOrEqual(
        1,
      );
    });

    it('stopping leaves the pin to the program, low', () => {
      for (const signal of SIGNALS) {
        const plan = planOn(part, signal);
        const { signals, failures } = evaluatePlan(plan, part);
        const pin = signals[0]?.outcome?.setting.pin;
        const software = part.pins.find(({ id }) => id === pin)?.software;
        if (failures.length > 0 || !software) continue;
        const [, image] = run(planCode(plan, part).files, ['try_out_stop()']);
        for (const [key, value] of Object.entries(software.output)) {
          const [register = '', field = ''] = key.split('.');
          const { strobe, fields } = registerOf(part, register);
          // The upper and the lower bit.
          const place = fields[field];
          if (strobe || !place || !image?.has(register)) continue;
          const made = ((image.get(register) ?? 0) >>> place[1]) & (2 ** (place[0] - place[1] + 1) - 1);
          expect(`${signal.name} ${key} ${made}`).toBe(`${signal.name} ${key} ${Number(value)}`);
        }
      }
    });

    it('the setter in µs takes the compare value that is nearest, held to the span', () => {
      const [vane] = SIGNALS;
      if (!vane) throw new Error('no signal');
      const plan = planOn(part, vane);
      const { signals, failures } = evaluatePlan(plan, part);
      const setting = signals[0]?.outcome?.setting;
      if (failures.length > 0 || setting?.drive !== 'pwm') return;
      const asked = [1000, 1001, 1234, 1500, 1777, 2000, 0, 60_000];
      const images = run(
        planCode(plan, part).files,
        asked.map((us) => `vane_set_us(${us})`),
      ).slice(1);
      const numbers = (compare: number): string =>
        settingRegisters(part, { ...setting, compare })
          .map(({ name, value, mask }) => `${name}=${(value & mask) >>> 0}`)
          .join(' ');
      for (const [at, us] of asked.entries()) {
        const wanted = Math.min(2000, Math.max(1000, us));
        const image = images[at];
        const ideal = Math.round((setting.compare * wanted) / 1500);
        const near = Array.from({ length: 9 }, (___, n) => Math.max(0, ideal - 4 + n));
        const made = near.find((compare) =>
          settingRegisters(part, { ...setting, compare }).every(
            ({ name, value, mask }) =>
              !image?.has(name) || ((image.get(name) ?? 0) & mask) >>> 0 === (value & mask) >>> 0,
          ),
        );
        expect(made === undefined ? `${us}: ${numbers(ideal)}` : 'found').toBe('found');
        const best = Math.min(...near.map((compare) => missBy(part, setting, compare, wanted)));
        expect(missBy(part, setting, made ?? 0, wanted)).toBeLessThanOrEqual(best + 1e-9);
      }
    });
  },
);
