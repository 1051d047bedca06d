import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import type { PlanSignal } from '../../src/plan/plan.ts';
import { planOn } from '../helpers/plan.ts';
import { shipped } from '../helpers/parts.ts';

/** A tick of about 10 Hz on Timer 1 of a PIC16F684 (5 MHz of instruction cycles at 20 MHz), by 62,498 counts of so many cycles. */
function tick(prescaler: number, tolerancePpm: number): PlanSignal {
  return {
    ...{ id: 'tick', name: 'Tick', kind: 'tick' },
    target: { frequencyHz: 5_000_000 / (62_498 * prescaler + 15), frequencyTolerancePpm: tolerancePpm },
    setting: { drive: 'interrupt', timer: 'TMR1', mode: 'reload', prescaler, top: 62_497, divider: 1 },
  };
}

function failuresOf(prescaler: number, tolerancePpm: number): string[] {
  const plan = {
    ...planOn(shipped('pic16f684'), tick(prescaler, tolerancePpm)),
    clock: { source: 'crystal', sourceHz: 20_000_000, tolerancePpm: 5 },
  };
  return evaluatePlan(plan, shipped('pic16f684')).failures.map(({ text }) => text);
}

describe('a reload that clears a prescaler', () => {
  // 62,498 x 8 + 9 cycles held + up to 7 of the prescaler: 7 of 499,999 are 14 ppm, and 5 of the oscillator.
  it('may lose up to 7 cycles of each period at a prescaler of 8, which no compiler has to keep to', () => {
    expect(failuresOf(8, 25)).toEqual([]);
    expect(failuresOf(8, 15)).toEqual([
      'frequency fails: Each reload clears the prescaler, which loses up to 14 ppm of the period as the way into the handler takes; the oscillator’s tolerance is 5 ppm.',
    ]);
  });

  it('loses nothing without a prescaler', () => {
    expect(failuresOf(1, 150)).toEqual([]);
  });
});
