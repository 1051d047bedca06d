import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import type { PlanSignal } from '../../src/plan/plan.ts';
import { derivationText } from '../../src/report/derivation.ts';
import { shipped } from '../helpers/parts.ts';
import { planOn } from '../helpers/plan.ts';

/** A fan at 25 kHz, 40 %, on a chip of 16 MHz: 640 counts, of which 256 are high. */
const FAN: PlanSignal = {
  ...{ id: 'fan', name: 'Fan', kind: 'pwm', pin: 'PB1' },
  target: { frequencyHz: 25_000, duty: 0.4 },
  setting: {
    ...{ drive: 'pwm', timer: 'TIMER1', mode: 'fast-icr', channel: 'OC1A', pin: 'PB1' },
    ...{ prescaler: 1, top: 639, compare: 255 },
  },
};

const derived = (signal: PlanSignal): string => {
  const part = shipped('atmega328p');
  const plan = planOn(part, signal);
  const outcome = evaluatePlan(plan, part).signals[0]?.outcome;
  if (!outcome) throw new Error('no outcome');
  return derivationText(plan, signal, outcome);
};

it('a derivation is plain text in columns, from the oscillator to the pin', () => {
  const text = derived(FAN);
  const lines = text.split('\n');
  expect(text).not.toMatch(/[\u00a0\u202f]| \n/);
  expect(lines[0]).toBe(
    'Fan on PB1 gets PWM at 25 kHz within 1 %, high for 40 % of the time, in 1 step or more.',
  );
  const rungs = lines.filter((line) => /^(Crystal|Prescaler|Top|Compare)/.test(line));
  expect(rungs.map((line) => line.split(/ {2,}/))).toEqual([
    ['Crystal', '16 MHz'],
    ['Prescaler', '÷ 1', '16 MHz', expect.stringContaining('CS1')],
    ['Top, counted up', '÷ ( 639 + 1 )', '25 kHz', 'ICR1 = 0x027F'],
    ['Compare', 'high for 255 + 1 of 640', '40 %', 'OCR1A = 0x00FF'],
  ]);
  expect(lines.at(-2)).toMatch(/^(\d+) of \1 checks pass\.$/);
});

it('names what fails, with its reason', () => {
  const { setting } = FAN;
  const slow = { ...FAN, setting: { ...setting, top: 799 } } as PlanSignal;
  expect(derived(slow)).toMatch(/\d of \d checks pass; not: .*frequency/);
});
