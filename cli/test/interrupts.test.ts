import { PLAN_VERSION } from '@herzschlag/core';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Plan } from '@herzschlag/core';
import { checkCommand } from '../src/run/check.ts';
import { interruptsCommand } from '../src/run/interrupts.ts';
import { lengthsCommand } from '../src/run/lengths.ts';

const CLOCK = join(__dirname, '../../examples/tower-clock.plan.json');
let directory: string;
beforeAll(() => {
  directory = mkdtempSync(join(tmpdir(), 'hz-interrupts-'));
});
afterAll(() => rmSync(directory, { recursive: true }));

function written(name: string, plan: object): string {
  const file = join(directory, name);
  writeFileSync(file, JSON.stringify(plan));
  return file;
}

/** The tower clock with another length of the bell bus, at the most urgent priority. */
function clockWith(cycles: number): string {
  const plan = JSON.parse(readFileSync(CLOCK, 'utf8')) as Plan;
  const tasks = (plan.cpu?.tasks ?? []).map((task) =>
    task.id === 'bell-bus' ? { ...task, cycles, priority: 0 } : task,
  );
  return written('clock.plan.json', { ...plan, cpu: { ...plan.cpu, tasks } });
}

const TICK = {
  format: 'herzschlag-plan',
  version: PLAN_VERSION,
  name: 'Mill race',
  part: 'atmega328p',
  clock: { source: 'crystal', sourceHz: 16_000_000 },
  signals: [
    {
      id: 'beat',
      name: 'Beat',
      kind: 'tick',
      target: { frequencyHz: 1000 },
      setting: { drive: 'interrupt', timer: 'TIMER1', mode: 'ctc', prescaler: 1, top: 15_999, divider: 1 },
    },
  ],
};

describe('hz interrupts', () => {
  it('tells rows, main loop, polls and LED strings as JSON, the same for the same seed', async () => {
    const { text, fails } = await interruptsCommand(CLOCK, { seconds: 0.2, seed: 7 });
    const told = JSON.parse(text) as {
      rows: { name: string }[];
      polls: unknown[];
      strings: { ways: unknown[] }[];
    };
    expect(fails).toBe(false);
    expect(told.rows.map(({ name }) => name).sort()).toEqual([
      'Bell bus',
      'Chime',
      'Dial lamp',
      'Hammer (TC4 MC1)',
      'Hammer (TC4 OVF)',
      'Radio time receiver',
    ]);
    expect(told.polls).toHaveLength(1);
    expect(told.strings[0]?.ways).toHaveLength(4);
    expect((await interruptsCommand(CLOCK, { seconds: 0.2, seed: 7 })).text).toBe(text);
    expect((await interruptsCommand(CLOCK, { seconds: 0.2, seed: 8 })).text).not.toBe(text);
  });

  it('fails, and `hz check` with it, where a deadline does: 27 000 cycles before a tick each 23 986', async () => {
    const file = clockWith(27_000);
    const { text, fails } = await interruptsCommand(file, { table: true });
    expect(fails).toBe(true);
    expect(text).toMatch(/events of Dial lamp are lost/);
    expect((await checkCommand(file, { as: [] })).fails).toBe(true);
    expect((await interruptsCommand(clockWith(260), { table: true })).fails).toBe(false);
  });
});

describe('hz check', () => {
  it('fails where one event is enough for a handler that runs for ever, though nothing can be lost', async () => {
    const port = { id: 'port', name: 'Port', arrives: { timesS: [0.1] }, cycles: 30, clears: 'never' };
    const file = written('stuck.plan.json', { ...TICK, signals: [], cpu: { tasks: [port] } });
    const { text, fails } = await checkCommand(file, { as: [] });
    expect(fails).toBe(true);
    const { checks } = JSON.parse(text) as { checks: { signal: string; note: string }[] };
    expect(checks).toEqual([expect.objectContaining({ signal: 'port', verdict: 'fail' })]);
    expect(checks[0]?.note).toMatch(/again and again/);
    expect((await interruptsCommand(file, {})).fails).toBe(true);
  });
});

describe('hz lengths', () => {
  it('counts a handler that calls the user: 15 registers saved and put back, 3 cycles between, a call and a return', async () => {
    const out = join(directory, 'measured.plan.json');
    const text = await lengthsCommand(written('tick.plan.json', TICK), { out });
    // 30 + in and eor, 2 + call 4 and ret 4 + 30 + out 1 = 71. At most 15 around a handler, 4 for a register, 70 for a call: 89.
    expect(JSON.parse(text)).toMatchObject({
      lengths: [{ interrupt: 'Beat', estimate: '89', min: 71, max: 71, calls: ['beat_tick'] }],
    });
    const plan = JSON.parse(readFileSync(out, 'utf8')) as Plan;
    expect(plan.signals[0]?.handler).toEqual({ cycles: 71 });
  });

  it('gives each of two handlers of a signal its own length', async () => {
    const setting = {
      ...{ drive: 'interrupt-pair', timer: 'TIMER1', mode: 'ctc-icr', channel: 'OC1B', pin: 'PD4' },
      ...{ prescaler: 1, top: 15_999, compare: 1599 },
    };
    const lamp = {
      id: 'lamp',
      name: 'Lamp',
      kind: 'dim',
      pin: 'PD4',
      target: { minHz: 500, minSteps: 100 },
      setting,
    };
    const out = join(directory, 'pair-measured.plan.json');
    const text = await lengthsCommand(written('pair.plan.json', { ...TICK, signals: [lamp] }), { out });
    const { lengths } = JSON.parse(text) as { lengths: { min: number; max: number }[] };
    const plan = JSON.parse(readFileSync(out, 'utf8')) as Plan;
    const { cycles, match } = plan.signals[0]?.handler ?? {};
    expect([cycles, match]).toEqual(lengths.map(({ min, max }) => (min === max ? max : { min, max })));
    expect(cycles).not.toEqual(match);
  });

  it('counts a tick of an STM32F401 by the compiler of its core', async () => {
    const setting = { drive: 'interrupt', timer: 'TIM10', mode: 'up', prescaler: 84, top: 999, divider: 1 };
    const [beat] = TICK.signals;
    const plan = {
      ...TICK,
      part: 'stm32f401',
      clock: { source: 'crystal', sourceHz: 8_000_000, settings: { pllM: 8, pllN: 336, pllP: 4 } },
      signals: [{ ...beat, setting }],
    };
    const { lengths } = JSON.parse(await lengthsCommand(written('m4.plan.json', plan), {})) as {
      lengths: { interrupt: string; min: number; max: number; calls: string[] }[];
    };
    const [length] = lengths;
    // Its address, the flag and its clearing, a jump to the user's function: some ten instructions.
    expect(length?.calls).toEqual(['beat_tick']);
    expect([(length?.min ?? 0) >= 6, (length?.max ?? 99) <= 40]).toEqual([true, true]);
  });

  it('passes waits for the timer’s bus once, and names where they are', async () => {
    const { lengths } = JSON.parse(await lengthsCommand(CLOCK, {})) as { lengths: { waits?: string[] }[] };
    expect(lengths.map(({ waits }) => waits)).toEqual([
      ['chime_step'],
      ['dial_lamp_step'],
      ['TC4_Handler'],
      ['TC4_Handler'],
    ]);
  });

  it('says that no compiler is known for other parts', async () => {
    const plan = {
      ...TICK,
      part: 'pic16f684',
      clock: { source: 'crystal', sourceHz: 8_000_000 },
      signals: [],
    };
    await expect(lengthsCommand(written('pic.plan.json', plan), {})).rejects.toThrow(
      'No compiler is known whose listing',
    );
  });
});
