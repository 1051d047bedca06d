import { PLAN_VERSION } from '../../src/plan/versions.ts';
import fc from 'fast-check';
import { clockOf, clockPath, type ClockSetting } from '../../src/clock/path.ts';
import { noStartUpCode, planCode } from '../../src/evaluate/code.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { runOnChip, type Step } from '../helpers/chip.ts';
import { waitFaults } from '../helpers/chip-rules.ts';
import { hertzOf, type Words } from '../helpers/clock-trees.ts';
import { PARTS, shipped } from '../helpers/parts.ts';

function planFor(part: Part, clock: ClockSetting): Plan {
  return {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'On chip',
    part: part.id,
    clock,
    signals: [{ id: 'gate', name: 'Gate', kind: 'pwm', target: { minHz: 300, minSteps: 20, duty: 0.25 } }],
  };
}

/** What the clocks' function does on the chip's model. */
function steps(part: Part, clocks: readonly ClockSetting[]): Step[][] {
  return runOnChip(
    clocks.map((clock) => ({
      part,
      files: planCode(planFor(part, clock), part, { startUp: true, failing: true }).files,
      body: ['on_chip_clocks();'],
    })),
  );
}

function stores(all: readonly Step[]): string[] {
  return all.flatMap((step) => (step.do === 'write' ? [`${step.register} ${step.value.toString(16)}`] : []));
}

/** Words of all registers after some stores; of one that names a part of itself by an id, the word for each id. */
function wordsAfter(part: Part, all: readonly Step[]): Words {
  const words: Words = new Map(part.registers.map(({ name, reset }) => [name, reset]));
  for (const step of all) {
    if (step.do !== 'write') continue;
    words.set(step.register, step.value);
    if (/^GCLK_GEN/.test(step.register)) words.set(`${step.register}[${step.value & 15}]`, step.value);
  }
  return words;
}

it('STM32F401 from 8 MHz: 8 / 8 x 336 / 4 = 84 MHz, with two wait states before, 42 MHz on APB1', () => {
  const [all = []] = steps(shipped('stm32f401'), [
    { source: 'crystal', sourceHz: 8_000_000, settings: { pllM: 8, pllN: 336, pllP: 4 } },
  ]);
  // Flags of readiness that were read and written back; the hardware does not take them.
  const flags = 0x02020002;
  const withoutFlags = all.map((step) =>
    step.do === 'write' && step.register === 'RCC_CR' ? { ...step, value: step.value & ~flags } : step,
  );
  expect(stores(withoutFlags)).toEqual([
    // HSEON next to HSION and the trim of after reset.
    'RCC_CR 10081',
    'RCC_CR 10081',
    // PLLQ 4 stays; source bit 22, P = 1 (by four) at 16, 336 at 6, 8.
    `RCC_PLLCFGR ${(0x20000000 + 0x04000000 + 0x400000 + 0x10000 + (336 << 6) + 8).toString(16)}`,
    'RCC_CR 1010081',
    // Caches, prefetching, two wait states: 84 MHz is above 60.
    'FLASH_ACR 702',
    // APB1 by two: code 4 at 10.
    'RCC_CFGR 1000',
    'RCC_CFGR 1002',
  ]);
});

it('STM32F401 at 30 MHz needs no wait state, a hertz more needs one', () => {
  const part = shipped('stm32f401');
  const latencies = steps(
    part,
    [30_000_000, 30_000_001, 50_000_000].map((sourceHz) => ({
      source: 'external',
      sourceHz,
      settings: { sys: 'external', pllM: 30 },
    })),
  ).map((all) => stores(all).find((one) => one.startsWith('FLASH_ACR')));
  expect(latencies).toEqual(['FLASH_ACR 700', 'FLASH_ACR 701', 'FLASH_ACR 701']);
});

it('MK20DX256 from 16 MHz: 16 / 8 x 36 = 72 MHz, the bus 36, the flash 18', () => {
  const [all = []] = steps(shipped('mk20dx256'), [{ source: 'crystal', sourceHz: 16_000_000 }]);
  expect(stores(all)).toEqual([
    // LOCRE0 stays; the range above 8 MHz, an oscillator. 16 MHz / 512 = 31.25 kHz.
    'MCG_C2 a4',
    'MCG_C1 a0',
    'MCG_C5 7',
    'MCG_C6 4c',
    'SIM_CLKDIV1 1030000',
    'MCG_C1 20',
  ]);
});

it('SAMD21G18: generator 0 and 4 take the DFLL, 1464 times the watch crystal', () => {
  const part = shipped('samd21g18');
  const [all = []] = steps(part, [part.defaultClock]);
  expect(stores(all).slice(-4)).toEqual([
    'GCLK_GENDIV 100',
    'GCLK_GENCTRL 30700',
    'GCLK_GENDIV 104',
    'GCLK_GENCTRL 30704',
  ]);
  expect(stores(all)).toContain(`SYSCTRL_DFLLMUL ${(31 * 2 ** 26 + 511 * 2 ** 16 + 1464).toString(16)}`);
});

const WITH_STEPS = PARTS.filter(({ bringUp }) => Array.isArray(bringUp)).map(({ id }) => id);

it('is there for seven parts; the others say why not, or have the lines of their interrupts', () => {
  expect(WITH_STEPS).toEqual([
    'pic16f684',
    'pic16f18875',
    'pic18f4620',
    'stm32f401',
    'samd21g18',
    'rp2040',
    'mk20dx256',
  ]);
  for (const part of PARTS) {
    if (WITH_STEPS.includes(part.id)) continue;
    const plan = planFor(part, part.defaultClock);
    if (part.id === 'esp32') continue;
    expect(noStartUpCode(part)).toContain(part.name);
    expect(() => planCode(plan, part, { startUp: true })).toThrow(part.name);
    expect(planCode(plan, part).files[0]?.text).not.toContain('_clocks');
  }
});

it('ESP32: each interrupt goes to the line that is asked for; source 43 is the LED PWM, 14 the first general timer', () => {
  const part = shipped('esp32');
  const tick = (id: string, frequencyHz: number, timer: string): PlanSignal => ({
    id,
    name: id,
    kind: 'tick',
    target: { frequencyHz },
    setting: { drive: 'interrupt', timer, mode: 'alarm', prescaler: 80, top: 999, divider: 1 },
  });
  const plan = { ...planFor(part, part.defaultClock), signals: [tick('beat', 1000, 'TIMG0_T0')] };
  const { files } = planCode(plan, part, { startUp: true, failing: true });
  expect(files[1]?.text).toContain('void on_chip_route(uint32_t timer0_0_line);');
  expect(files[0]?.text).toContain('PLL');
  const [all = []] = runOnChip([{ part, files, body: ['on_chip_route(23u);'] }]);
  expect(all).toEqual([{ do: 'write', register: 'DPORT_PRO_TG_T0_LEVEL_INT_MAP', value: 23 }]);
  // The map begins at 0x104 with source 0, four bytes each.
  expect(part.registers.find(({ name }) => name === 'DPORT_PRO_LEDC_INT_MAP')?.address).toBe(0x3ff001b0);
});

/** Clock settings of a part at random, those it can have. */
function clocksOf(part: Part): fc.Arbitrary<ClockSetting> {
  const sources = part.clocks.flatMap((node) => (node.kind === 'source' && node.id !== 'lf' ? [node] : []));
  const settings = part.clocks.flatMap((node): [string, fc.Arbitrary<number | string>][] => {
    if (node.kind === 'choice')
      return node.standard === undefined ? [] : [[node.id, fc.constantFrom(...node.from)]];
    if (node.kind !== 'divider' && node.kind !== 'multiplier') return [];
    const { by } = node;
    const values =
      by.kind === 'list'
        ? fc.constantFrom(...by.options.map(({ divide }) => divide))
        : fc.integer({ min: by.min, max: Math.min(by.max, 400) }).map((n) => n / by.scale);
    return [[node.id, fc.oneof(fc.constant(node.standard), values)]];
  });
  return fc.constantFrom(...sources).chain(({ id, hz }) =>
    fc.record({
      source: fc.constant(id),
      sourceHz:
        typeof hz === 'number'
          ? fc.constant(hz)
          : fc.oneof(
              fc.constantFrom(
                ...[8, 12, 16, 20, 25].map((mhz) => Math.min(hz[1], Math.max(hz[0], mhz * 1e6))),
              ),
              fc.integer({ min: Math.max(hz[0], 1000), max: hz[1] }),
            ),
      settings: fc.record(Object.fromEntries(settings)),
    }),
  );
}

it.each(WITH_STEPS)('%s: the registers give the processor and the timers the clocks of the plan', (id) => {
  const part = shipped(id);
  const possible = fc
    .sample(clocksOf(part), { numRuns: 4000, seed: 271_127 })
    .filter((clock) => {
      try {
        clockPath(part, clock);
        return clockOf(clockPath(part, clock), part.cpu.clock).valueOf() > 100_000;
      } catch {
        return false;
      }
    })
    .slice(0, 24);
  expect(possible.length).toBeGreaterThan(10);
  steps(part, possible).forEach((all, at) => {
    const clock = possible[at];
    if (!clock) throw new RangeError('no clock');
    const path = clockPath(part, clock);
    const words = wordsAfter(part, all);
    for (const [node, hz] of Object.entries(hertzOf(part.id, clock.source, Number(clock.sourceHz), words)))
      expect([clock, node, hz]).toEqual([clock, node, expect.closeTo(clockOf(path, node).valueOf(), 3)]);
    expect(waitFaults(part, all)).toEqual([]);
  });
});
