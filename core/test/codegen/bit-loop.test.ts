import { PLAN_VERSION } from '../../src/plan/versions.ts';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan, settingsOf } from '../../src/evaluate/evaluate.ts';
import { simulatePlan } from '../../src/evaluate/interrupts.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { checkSetting } from '../../src/timer/drives/index.ts';
import type { BitLoopSetting } from '../../src/timer/setting.ts';
import { edgesOf, instructionsOf, playSend } from '../helpers/avr-play.ts';
import { bitEdges, bitLoops } from '../helpers/bit-edges.ts';
import { shipped } from '../helpers/parts.ts';

const RAIL: PlanSignal = {
  id: 'rail',
  name: 'Rail lights',
  kind: 'string',
  pin: 'PB1',
  target: { bitS: 0.00000125, zeroS: 0.0000004, oneS: 0.0000008, leds: 30 },
};

function planFor(id: string, hz: number, signal: PlanSignal = RAIL): Plan {
  return {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Sleigh',
    part: id,
    clock: { source: 'crystal', sourceHz: hz },
    signals: [signal],
  };
}

function chosen(id: string, hz: number): unknown {
  return evaluatePlan(planFor(id, hz), shipped(id)).signals[0]?.outcome?.setting;
}

const BYTES = [0xa5, 0x00, 0xff, 0x13];

describe('a string of LEDs, sent by a loop', () => {
  let directory = '';
  beforeAll(() => {
    directory = mkdtempSync(join(tmpdir(), 'bits-'));
  });
  afterAll(() => rmSync(directory, { recursive: true, force: true }));

  /** Compiles a plan's code with a main program, and plays its loop as it was linked. */
  function played(plan: Plan, option: string, bytes: readonly number[]): number[] {
    const { files } = planCode(plan, shipped(plan.part));
    for (const { name, text } of files) writeFileSync(join(directory, name), text);
    const main = `#include "sleigh.h"
static const uint8_t bytes[${bytes.length}] = {${bytes.join()}};
int main(void) { sleigh_init(); sleigh_start(); rail_lights_send(bytes, ${bytes.length}); return 0; }
`;
    writeFileSync(join(directory, 'main.c'), main);
    const flags = [`-mmcu=${plan.part}`, option, '-std=c11', '-Wall', '-Wextra', '-Werror', '-pedantic'];
    const run = { cwd: directory, stdio: ['ignore', 'pipe', 'pipe'] as ['ignore', 'pipe', 'pipe'] };
    execFileSync('avr-gcc', [...flags, 'main.c', 'sleigh.c', '-o', 'out.elf'], run);
    const listing = execFileSync('avr-objdump', ['-d', 'out.elf'], run).toString();
    return edgesOf(playSend(instructionsOf(listing, 'rail_lights_send'), bytes));
  }

  // 1.25 µs, 0.8 µs and 0.4 µs within 0.15 µs. At 8 MHz ten cycles leave room for the next byte beside
  // the last bit, and counting is done beside the first ones.
  it.each([
    ['atmega328p', 16e6, 20, 13, 6],
    ['atmega328p', 20e6, 25, 16, 8],
    ['attiny85', 8e6, 10, 6, 3],
  ])('%s at %d Hz: %d cycles a bit, high for %d or %d', (id, hz, top, compare, zero) => {
    expect(chosen(id, hz)).toEqual({ drive: 'bit-loop', pin: 'PB1', top, compare, zero });
    const { signals } = evaluatePlan(planFor(id, hz), shipped(id));
    // Thirty frames a second of 30 times 24 bits.
    expect(signals[0]?.outcome?.cpu).toBeCloseTo((30 * 720 * top) / hz, 12);
    expect(signals[0]?.outcome?.slips.map(({ id: slip }) => slip)).toContain('waits-for-frame');
    expect(signals[0]?.outcome?.checks.every(({ verdict }) => verdict === 'pass')).toBe(true);
  });

  it('is not offered where the clock is too slow for the loop, or the loop takes no fixed time', () => {
    expect(chosen('atmega328p', 4e6)).toBeUndefined();
    const arm = evaluatePlan(
      { ...planFor('stm32f401', 8e6), signals: [{ ...RAIL, pin: 'PA8' }] },
      shipped('stm32f401'),
    );
    expect(arm.signals[0]?.outcome?.setting.drive).toBe('pwm');
  });

  it.each([
    ['atmega328p', 16e6, 'PB1'],
    ['atmega328p', 12e6, 'PD7'],
    ['attiny85', 8e6, 'PB4'],
    // Its port H lies beyond what one-cycle stores reach.
    ['atmega2560', 16e6, 'PH3'],
  ])('as %s at %d Hz runs it on %s, compiled, every edge is in its cycle', (id, hz, pin) => {
    const plan = planFor(id, hz, { ...RAIL, pin });
    const setting = evaluatePlan(plan, shipped(id)).signals[0]?.outcome?.setting;
    if (setting?.drive !== 'bit-loop') throw new Error('no loop was chosen');
    for (const option of ['-O0', '-Os']) {
      expect([option, played(plan, option, BYTES)]).toEqual([option, bitEdges(BYTES, setting)]);
    }
    expect(played(plan, '-Os', [0x80])).toEqual(bitEdges([0x80], setting));
  });

  it('every setting that is allowed is a loop whose edges are in their cycles', () => {
    const part = shipped('atmega328p');
    const settings = bitLoops(part, 'PB1');
    fc.assert(
      fc.property(
        settings,
        fc.array(fc.integer({ min: 0, max: 255 }), { minLength: 1, maxLength: 3 }),
        (setting, bytes) => {
          const plan = planFor('atmega328p', 16e6, { ...RAIL, setting });
          const { files } = planCode(plan, part, { failing: true });
          const text = files.find(({ name }) => name.endsWith('.c'))?.text ?? '';
          expect(edgesOf(playSend(assembled(text), bytes))).toEqual(bitEdges(bytes, setting));
        },
      ),
      { numRuns: 200, seed: 250_913 },
    );
  });

  it('refuses what the loop has no time for, and says why', () => {
    const part = shipped('atmega328p');
    const refuse = (top: number, compare: number, zero: number): (() => void) => {
      return () => checkSetting(part, { drive: 'bit-loop', pin: 'PB1', top, compare, zero });
    };
    // A zero of one cycle ends before the bit is tested; after a one of 18 of 20 cycles there is no time to go back.
    expect(refuse(20, 13, 1)).toThrow('leaves the loop no time');
    expect(refuse(20, 18, 6)).toThrow('leaves the loop no time');
    expect(refuse(20, 13, 14)).toThrow('zero goes from 1 to 13');
    expect(() =>
      checkSetting(shipped('stm32f401'), { drive: 'bit-loop', pin: 'PA8', top: 20, compare: 13, zero: 6 }),
    ).toThrow('no fixed number of cycles');
    const plain = { ...part, code: { ...part.code, assembler: undefined } };
    const setting: BitLoopSetting = { drive: 'bit-loop', pin: 'PB1', top: 20, compare: 13, zero: 6 };
    expect(() => checkSetting(plain, setting)).toThrow('no fixed number of cycles');
  });

  it('lets interrupts wait for a frame: 30 LEDs of 24 bits of 1.25 µs', () => {
    const part = shipped('atmega328p');
    const tick: PlanSignal = { id: 'beat', name: 'Beat', kind: 'tick', target: { frequencyHz: 2000 } };
    const plan = { ...planFor('atmega328p', 16e6), signals: [RAIL, tick] };
    const path = clockPath(part, plan.clock);
    const { report } = simulatePlan(plan, part, path, settingsOf(plan, part, path), { seconds: 1, seed: 7 });
    const beat = report.rows.find(({ name }) => name.includes('Beat'));
    // 900 µs is longer than the 500 µs between two ticks: of those that come in a frame one is lost, thirty times a second.
    expect(beat?.lost).toBeGreaterThanOrEqual(29);
    expect(beat?.wait.worstS).toBeGreaterThan(400e-6);
  });
});

/** The instructions of the assembler text in generated C, with addresses as if each were one word, stores to far ports two. */
function assembled(text: string): ReturnType<typeof instructionsOf> {
  const lines = [...text.matchAll(/^\s+"(.+?)\\n\\t"$/gm)].map(([, line = '']) => line);
  const plain: string[] = [];
  for (let at = 0; at < lines.length; at += 1) {
    const times = /^\.rept (\d+)$/.exec(lines[at] ?? '')?.[1];
    if (times === undefined) plain.push(lines[at] ?? '');
    else {
      plain.push(...Array<string>(Number(times)).fill(lines[at + 1] ?? ''));
      at += 2;
    }
  }
  const marks = new Map<string, number>();
  const code: { op: string; args: string[] }[] = [];
  for (const line of plain) {
    if (line.endsWith(':')) marks.set(line.slice(0, -1), code.length);
    else {
      const [op = '', rest = ''] = [line.split(' ')[0], line.slice(line.indexOf(' ') + 1)];
      const args = rest
        .replace('%a[bytes]', 'Z')
        .split(',')
        .map((one) => one.trim());
      code.push({ op, args });
    }
  }
  return code.map(({ op, args }, at) => {
    const mark = /^(\d)[bf]$/.exec(args[0] ?? '')?.[1];
    const to = mark === undefined ? undefined : 2 * ((marks.get(mark) ?? 0) - at - 1);
    return { at: 2 * at, op, args: to === undefined ? args : [`.${to < 0 ? '' : '+'}${to}`] };
  });
}
