import { tracedLanes } from '../../src/evaluate/traced.ts';
import { planWaveforms } from '../../src/evaluate/waveforms.ts';
import { vcdReader } from '../../src/io/vcd-read.ts';
import { writeVcd } from '../../src/io/vcd-write.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { readWhole } from '../helpers/capture.ts';
import { LOCK_GATE } from '../helpers/plan.ts';

/** Two interrupts of Timer 1 make a pulse of 160 cycles each 16,000. */
const PAIR = {
  id: 'lamp',
  name: 'Lamp',
  kind: 'dim',
  pin: 'PD4',
  target: { minHz: 500, minSteps: 100, duty: 0.01 },
  setting: {
    ...{ drive: 'interrupt-pair', timer: 'TIMER1', mode: 'ctc-icr', channel: 'OC1B', pin: 'PD4' },
    ...{ prescaler: 1, top: 15_999, compare: 159 },
  },
} as const satisfies PlanSignal;

/** The timer's own output: 1,000 cycles high of 16,000. */
const OUTPUT = {
  id: 'fan',
  name: 'Fan',
  kind: 'dim',
  pin: 'PB3',
  target: { minHz: 500, minSteps: 100, duty: 1 / 16 },
  setting: {
    ...{ drive: 'pwm', timer: 'TIMER2', mode: 'fast', channel: 'OC2A', pin: 'PB3' },
    ...{ prescaler: 64, top: 255, compare: 15 },
  },
} as const satisfies PlanSignal;

/** A handler of 40 µs, 50 cycles after each period of the pair has begun. */
const PLAN: Plan = {
  ...LOCK_GATE,
  signals: [PAIR, OUTPUT],
  cpu: {
    tasks: [{ id: 'bus', name: 'Bus', arrives: { everyS: 0.001, firstS: 16_050 / 16e6 }, cycles: 640 }],
  },
};

function lanes(plan: Plan, seconds: number) {
  const found = tracedLanes(plan, atmega328p, seconds);
  if (!found.ok) throw new Error(found.fault.sentence);
  return found.value;
}

describe('what a file shows of the pins', () => {
  it('is what the handlers make, read back from a VCD file: 699 to 705 cycles instead of 160', () => {
    // By hand in interrupts.test.ts: the bus comes between the rise and the fall.
    const capture = readWhole(vcdReader(), [...writeVcd(lanes(PLAN, 0.02), 0.02)].join(''));
    const [lamp] = capture.wires;
    const cycles = [...(lamp?.times ?? [])].map((time) => (time / capture.tickHz) * 16e6);
    const levels = [...(lamp?.levels ?? [])];
    const widths = cycles.flatMap((at, i) => (levels[i] === 0 && i > 0 ? [at - (cycles[i - 1] ?? 0)] : []));
    expect(widths.length).toBeGreaterThanOrEqual(19);
    expect(widths.slice(1).every((width) => width > 698.9 && width < 705.1)).toBe(true);
  });

  it('stays the timer’s own where no handler moves the pin', () => {
    const fan = lanes(PLAN, 0.02).find(({ signal }) => signal === 'fan');
    expect(fan).toEqual(planWaveforms(PLAN, atmega328p).find(({ signal }) => signal === 'fan'));
  });

  it('ends with a sentence where more interrupts come than can be followed', () => {
    const found = tracedLanes(PLAN, atmega328p, 3600);
    // 3 interrupts a millisecond: two million are reached in about 667 s.
    expect(found.ok).toBe(false);
    if (found.ok) return;
    expect(found.fault.sentence.replace(/\u202f/g, '')).toMatch(
      /^Its interrupts can be followed for 66\d.* s and not for 3600 s/,
    );
  });
});
