import { clockPath } from '../../src/clock/path.ts';
import { explainFigures } from '../../src/evaluate/figures.ts';
import { evaluateSetting } from '../../src/evaluate/signal.ts';
import type { PlanSignal } from '../../src/plan/plan.ts';
import type { Setting } from '../../src/timer/setting.ts';
import { shipped } from '../helpers/parts.ts';

const FAN: PlanSignal = {
  id: 'fan',
  name: 'Fan',
  kind: 'pwm',
  target: { frequencyHz: 24_000, frequencyTolerancePpm: 50_000, duty: 0.4, minSteps: 256 },
};
const TICK: PlanSignal = { id: 'tick', name: 'Tick', kind: 'tick', target: { frequencyHz: 1000 } };

function explained(signal: PlanSignal, setting: Setting) {
  const part = shipped('atmega328p');
  const path = clockPath(part, { source: 'crystal', sourceHz: 16_000_000 });
  const figures = explainFigures(part, path, evaluateSetting(part, path, signal, setting));
  return new Map(
    figures.map(({ id, numbers, from }) => [id, { numbers: numbers.replace(/\s/g, ' '), from }]),
  );
}

describe('figures explain themselves', () => {
  const fan = explained(FAN, {
    drive: 'pwm',
    timer: 'TIMER1',
    mode: 'fast-icr',
    channel: 'OC1A',
    pin: 'PB1',
    prescaler: 1,
    top: 639,
    compare: 255,
  });

  // 16 MHz / 640 = 25 kHz; 25 / 24 - 1 = 4.1667 %; 256 of 640 counts are 40 %; log2 640 = 9.32; 40 us / 640 = 62.5 ns.
  it.each([
    ['frequency', '16 MHz ÷ 1 ÷ ( 639 + 1 ) = 25 kHz'],
    ['error', '25 kHz / 24 kHz − 1 = +4.167 %'],
    ['duty', 'high for 255 + 1 of 640 = 40 %'],
    ['resolution', 'log₂(640) = 9.322 bit, 40 µs / 640 = 62.5 ns'],
    ['cpu', 'no interrupt: the hardware does it alone'],
  ] as const)('%s', (id, numbers) => {
    expect(fan.get(id)?.numbers).toBe(numbers);
  });

  it('names the registers, the clock path and the source of the data', () => {
    expect(fan.get('frequency')?.from.map((one) => one.replace(/\s/g, ' '))).toEqual([
      '16 MHz Crystal: the clock path of the plan',
      expect.stringContaining('Prescaler 1: register'),
      'Top, counted up 639: register ICR1 = 639',
      expect.stringContaining('register names and modes: '),
    ]);
  });

  it('the CPU share is interrupts times cycles', () => {
    const setting = {
      drive: 'interrupt',
      timer: 'TIMER2',
      mode: 'ctc',
      prescaler: 64,
      top: 249,
      divider: 1,
    } as const;
    const tick = explained(TICK, setting);
    const { entryCycles, handlerCycles, exitCycles } = shipped('atmega328p').cpu;
    expect(entryCycles + handlerCycles + exitCycles).toBe(35);
    // 1000 x 35 / 16e6 = 0.21875 %.
    expect(tick.get('cpu')?.numbers).toBe('1 000 × 35 / 16 MHz = 0.218 8 %');
  });
});
