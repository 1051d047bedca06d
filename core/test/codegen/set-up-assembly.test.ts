import { PLAN_VERSION } from '../../src/plan/versions.ts';
import fc from 'fast-check';
import { planCode } from '../../src/evaluate/code.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { runOnChip } from '../helpers/chip.ts';
import { plansFor } from '../helpers/chip-plans.ts';
import { PARTS, shipped } from '../helpers/parts.ts';
import { assembled, writesOf } from '../helpers/pic.ts';

const IDS = ['pic16f684', 'pic16f18875', 'pic18f4620'];

function planFor(part: Part): Plan {
  return {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Sluice',
    part: part.id,
    clock: { source: 'crystal', sourceHz: 8_000_000 },
    signals: [
      { id: 'gate', name: 'Gate', kind: 'pwm', target: { frequencyHz: 2000, duty: 0.25, minSteps: 100 } },
    ],
  };
}

function assemblyOf(plan: Plan, part: Part): string | undefined {
  return planCode(plan, part).files.find(({ name }) => name.endsWith('_init.asm'))?.text;
}

it('sets 2 kHz, 25 % on PIC16F684: 250 of 2 µs, 62 of them and two quarters high', () => {
  const text = assemblyOf(planFor(shipped('pic16f684')), shipped('pic16f684')) ?? '';
  const lines = text.split('\n').map((line) => line.trim());
  // PR2 lies in bank 1, and holds one less than the counts.
  const period = lines.indexOf('movwf PR2');
  expect(lines.slice(period - 3, period)).toEqual(['bsf STATUS, 5', 'bcf STATUS, 6', 'movlw 0xF9']);
  // 250 of 1000 quarters: 0x3E and two in the bits 5 and 4 of CCP1CON, whose mode is 1100.
  expect(lines[lines.indexOf('movwf CCPR1L') - 1]).toBe('movlw 0x3E');
  expect(lines[lines.indexOf('movwf CCP1CON') - 1]).toBe('iorlw 0x2C');
});

it('brings the internal oscillator of PIC16F684 to 8 MHz, and waits until it is stable', () => {
  const part = shipped('pic16f684');
  const plan = { ...planFor(part), clock: { source: 'rc8', sourceHz: 8_000_000 } };
  const text =
    planCode(plan, part, { startUp: true, failing: true }).files.find(({ name }) => name.endsWith('.asm'))
      ?.text ?? '';
  const lines = text.split('\n').map((line) => line.trim());
  // OSCCON holds 0x60 after reset: IRCF 110; 111 is 8 MHz. Bit 2 is HTS.
  const at = lines.indexOf('movwf OSCCON');
  expect(lines.slice(at - 2, at + 4)).toEqual([
    'andlw 0x8F',
    'iorlw 0x70',
    'movwf OSCCON',
    '_sluice_clocks_wait1',
    'btfss OSCCON, 2',
    'goto _sluice_clocks_wait1',
  ]);
});

it('says where a delay leaves the clocks of PIC18F4620 to the C file', () => {
  const part = shipped('pic18f4620');
  const plan = { ...planFor(part), clock: { source: 'rc8', sourceHz: 8_000_000, settings: { osc: 4 } } };
  const text =
    planCode(plan, part, { startUp: true, failing: true }).files.find(({ name }) => name.endsWith('.asm'))
      ?.text ?? '';
  expect(text).toContain('; sluice_clocks is in C only.');
  expect(text).not.toContain('_sluice_clocks\n');
  expect(text).toContain('_sluice_init\n');
});

it('is there for the parts with an assembler only', () => {
  for (const part of PARTS) {
    if (IDS.includes(part.id)) continue;
    const plan = { ...planFor(part), clock: part.defaultClock };
    const { files } = planCode(plan, part, { failing: true });
    expect(files.map(({ name }) => name)).toEqual(['sluice.c', 'sluice.h']);
  }
});

it.each(IDS)('assembled for %s, it writes what the C writes, in its order', (id) => {
  const part = shipped(id);
  const { family } = part.code.assembly ?? {};
  if (!family) throw new Error('no assembler');
  const plans = fc
    .sample(plansFor(part), { numRuns: 30, seed: 271_126 })
    .filter(({ signals }) => signals.length > 0);
  const programs = plans.map((plan) => ({
    part,
    files: planCode(plan, part, { startUp: true, failing: true }).files,
    body: ['on_chip_clocks();', 'on_chip_init();', 'mark("start");', 'on_chip_start();'],
  }));
  const runs = runOnChip(programs);
  const names = new Map(part.registers.map(({ address, name }) => [address, name]));
  let compared = 0;
  programs.forEach(({ files }, at) => {
    const text = files.find(({ name }) => name === 'on_chip_init.asm')?.text;
    if (text === undefined) throw new Error('no assembler form');
    const memory = new Map(part.registers.map(({ address, reset }) => [address, reset]));
    const linked = assembled(text);
    const ours = ['_on_chip_clocks', '_on_chip_init', '_on_chip_start'].flatMap((label) =>
      writesOf(family, linked, label, memory).map(({ address, value }) => [
        names.get(address) ?? address,
        value,
      ]),
    );
    const theirs = (runs[at] ?? []).flatMap((step) =>
      step.do === 'write' ? [[step.register, step.value]] : [],
    );
    expect(ours).toEqual(theirs);
    compared += ours.length;
  });
  expect(compared).toBeGreaterThan(200);
});
