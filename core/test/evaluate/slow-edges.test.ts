import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import type { CpuLoad } from '../../src/plan/cpu-load.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { LOCK_GATE } from '../helpers/plan.ts';

/** A tick of 1 kHz that may come 20 µs early or late, and a lamp that is toggled each 4 s: slower than the second that an evaluation simulates. */
const BEAT = {
  ...{ id: 'beat', name: 'Beat', kind: 'tick', target: { frequencyHz: 1000, jitterS: 0.00002 } },
  setting: { drive: 'interrupt', timer: 'TIMER1', mode: 'ctc', prescaler: 64, top: 249, divider: 1 },
} as const satisfies PlanSignal;

/** An interrupt pair of 3 s, high for 1 ms: 16 MHz / 1024 / 46,875, and 15.6 counts. */
const FLASH = {
  ...{ id: 'flash', name: 'Flash', kind: 'strobe', pin: 'PD4' },
  target: { frequencyHz: 1 / 3, onS: 0.001, dutyTolerance: 0.04 },
  setting: {
    ...{ drive: 'interrupt-pair', timer: 'TIMER1', mode: 'ctc-icr', channel: 'OC1B', pin: 'PD4' },
    ...{ prescaler: 1024, top: 46_874, compare: 15 },
  },
} as unknown as PlanSignal;

/** A section of 40 µs of the main loop, each millisecond, that keeps interrupts out. */
const BUSY: CpuLoad = { mainLoop: { masked: [{ name: 'Copy', everyS: 0.001, cycles: 640 }] } };

function checkOf(property: string, signal: PlanSignal, cpu?: CpuLoad) {
  const plan: Plan = { ...LOCK_GATE, signals: [signal], ...(cpu ? { cpu } : {}) };
  const [own] = evaluatePlan(plan, atmega328p).signals;
  return own?.outcome?.checks.find((check) => check.property === property);
}

describe('the jitter of a tick', () => {
  it('is what its waits can differ by: 640 cycles of 16 MHz are 40 µs', () => {
    const judged = checkOf('jitter', BEAT, BUSY);
    expect(judged?.verdict).toBe('fail');
    expect(judged?.value).toBeGreaterThanOrEqual(633 / 16e6);
    expect(judged?.value).toBeLessThanOrEqual((640 + 16) / 16e6);
  });

  it('is the instruction under way, and where it begins, where nothing else keeps it waiting', () => {
    const judged = checkOf('jitter', BEAT);
    expect(judged).toMatchObject({ verdict: 'pass', value: expect.closeTo(4 / 16e6, 12) as number });
  });
});

describe('a signal whose edges are too rare to be simulated', () => {
  it('is judged by the pulses that its longest waits allow', () => {
    const alone = checkOf('width', FLASH);
    const beside = checkOf('width', FLASH, BUSY);
    expect(alone).toMatchObject({ verdict: 'pass' });
    // 16 counts of 64 µs are 1.024 ms: 24 µs of the 40 are used, and a wait of 40 µs is too much.
    expect(beside).toMatchObject({ verdict: 'fail' });
    expect(beside?.note).toMatch(/^Other interrupts can move its edges: pulses of .* are possible\.$/);
  });
});
