import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { clockPath } from '../../src/clock/path.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { ledStringWays, stringWaysOf, type LedString } from '../../src/evaluate/led-string.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import { stm32f401 } from '../../src/part/parts/stm32/stm32f401.ts';
import { readPlan } from '../../src/plan/check-plan.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { LOCK_GATE, planOn } from '../helpers/plan.ts';

/** 30 LEDs: 30 x 24 x 1.25 µs = 900 µs, and 50 µs of reset. */
const STRING: LedString = { leds: 30, bitS: 1.25e-6, resetS: 50e-6, gapS: 5e-6, frameHz: 30 };

/** A receiver with marks of 560 µs, whose handler takes so many cycles. */
function receiver(cycles = 40): Plan {
  return {
    ...LOCK_GATE,
    cpu: { tasks: [{ id: 'rx', name: 'Receiver', arrives: { everyS: 560e-6 }, cycles }] },
  };
}

function ways(plan: Plan, by = 1, string = STRING) {
  const path = clockPath(atmega328p, plan.clock);
  return Object.fromEntries(
    ledStringWays(plan, atmega328p, path, new Map(), string, by).map((way) => [way.id, way]),
  );
}

/** Events of the receiver that are lost in 40 frames at 30 Hz: all but the first in each stretch of 900 µs. */
function lostByHand(): number {
  let lost = 0;
  for (let frame = 1; frame <= 40; frame += 1) {
    const start = Math.round(16e6 / 30) * frame;
    const within = Math.floor((start + 14_400) / 8960) - Math.floor(start / 8960);
    lost += Math.max(0, within - 1);
  }
  return lost;
}

describe('sending to a string of LEDs', () => {
  it('takes 950 µs a frame: at most 1052 frames a second', () => {
    const { masked } = ways(receiver());
    expect(masked?.frameS).toBeCloseTo(950e-6, 9);
    expect(masked?.mostHz).toBeCloseTo(1052.6, 1);
    expect(masked?.share).toBeCloseTo(0.027, 6);
  });

  it('loses events of the receiver while interrupts are off for the frame, as many as were counted by hand', () => {
    const [other] = ways(receiver()).masked?.others ?? [];
    expect(lostByHand()).toBeGreaterThan(20);
    expect(other?.lost).toBe(lostByHand());
    // One that comes right after the start waits for the whole frame, and the way in of 7 cycles.
    expect(other?.worstWaitS).toBeLessThanOrEqual(900e-6 + 1e-6);
    expect(other?.worstWaitS).toBeGreaterThan(800e-6);
  });

  it('loses nothing with interrupts between LEDs, and keeps the frame whole at 16 MHz', () => {
    // The pause: 7 in, 40, 4 out and at most 4 for an instruction: 51 to 55 cycles, 3.2 to 3.4 µs of the 5 that are allowed.
    const { gaps } = ways(receiver());
    expect(gaps).toMatchObject({ broken: 0, frames: 40 });
    expect(gaps?.others[0]?.lost).toBe(0);
    expect(gaps?.others[0]?.worstWaitS).toBeLessThanOrEqual(30e-6 + 1e-6);
  });

  it('cuts frames short at 8 MHz: the same handler makes a pause of 6.4 to 6.9 µs', () => {
    const { gaps } = ways(receiver(), 0.5);
    expect(gaps?.others[0]?.lost).toBe(0);
    expect(gaps?.broken).toBeGreaterThan(30);
    // Each frame of 900 µs meets one or two events of 560 µs, unless they fall at its ends.
    expect(gaps?.broken).toBeLessThanOrEqual(40);
  });

  it('cannot hand over each bit by interrupt: 20 cycles at 16 MHz, 10 at 8 MHz, against 26', () => {
    // 7 in, 14 to feed the timer, 4 out, 1 for an instruction.
    expect(ways(receiver()).interrupt?.reason).toBe(
      'A bit of 1.25 µs has 20 cycles, and an interrupt for each needs 26.',
    );
    expect(ways(receiver(), 0.5).interrupt?.reason).toMatch(/has 10 cycles/);
    expect(ways(receiver()).transfer?.reason).toMatch(/no memory transfer/);
  });

  it('costs nothing by memory transfer, and a share by interrupt, where the part can', () => {
    const plan = { ...planOn(stm32f401, { id: 'a' } as never), signals: [], cpu: receiver().cpu ?? {} };
    const path = clockPath(stm32f401, plan.clock);
    const own = ledStringWays(plan, stm32f401, path, new Map(), STRING);
    const by = Object.fromEntries(own.map((way) => [way.id, way]));
    expect(by.transfer).toMatchObject({ share: 0, broken: 0 });
    expect(by.transfer?.others[0]?.lost).toBe(0);
    // 12 + 16 + 12 (or 6 chained) cycles of 105 a bit, 2.7 % of the time: between 0.8 and 1.1 %.
    expect(by.interrupt?.reason).toBeUndefined();
    expect(by.interrupt?.share).toBeGreaterThan(0.008);
    expect(by.interrupt?.share).toBeLessThan(0.011);
  });

  it('is in a demo beside three rates from one tick, a pair of interrupts and a receiver, all of which hold, while it is not sent', () => {
    const text = readFileSync(join(__dirname, '../../../examples/signal-cabin.plan.json'), 'utf8');
    const read = readPlan(text, [atmega328p]);
    if (!read.ok) throw new Error(read.fault.sentence);
    const { plan, part } = read.value;
    const { failures, interrupts } = evaluatePlan(plan, part);
    // A bit has 20 cycles, too few for the program to hand one over.
    expect(failures.map(({ name, text }) => [name, text.slice(0, 45)])).toEqual([
      ['Block ring', 'Not in the code: sending the bits, since no c'],
    ]);
    expect(interrupts.rows[0]?.signals).toEqual(['beat', 'crossing-lamp', 'gong']);
    const own = Object.fromEntries(
      (stringWaysOf(plan, part, 'block-ring')?.ways ?? []).map((way) => [way.id, way]),
    );
    const lost = (id: string): number => own[id]?.others.find(({ name }) => name === 'Receiver')?.lost ?? NaN;
    expect(lost('masked')).toBeGreaterThan(20);
    expect(lost('gaps')).toBe(0);
    expect(stringWaysOf(plan, part, 'gong')).toBeUndefined();
  });
});
