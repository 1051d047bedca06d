import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { CodeError } from '../../src/codegen/c-files.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { readPlan } from '../../src/plan/check-plan.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { PARTS, shipped } from '../helpers/parts.ts';
import { LOCK_GATE } from '../helpers/plan.ts';

const avr = shipped('atmega328p');
const LAMP: PlanSignal = { id: 'lamp', name: 'Lamp', kind: 'blink', target: { frequencyHz: 2 } };

function planWith(...signals: PlanSignal[]): Plan {
  return { ...LOCK_GATE, signals };
}

describe('code is refused, with the reason, for', () => {
  it.each([
    [
      'a signal that nothing can make',
      planWith({ ...LAMP, target: { frequencyHz: 30_000_000 } }),
      '“Lamp”: cannot be made on this part as it is set.',
    ],
    [
      'an opposite without a place',
      planWith({
        ...LAMP,
        kind: 'pwm',
        target: { frequencyHz: 1e5 },
        pin: 'PB1',
        complement: { pin: 'PD3', deadS: 1e-6 },
      }),
      '“Lamp”: cannot be made on this part as it is set.',
    ],
    [
      'a setting that misses its target',
      planWith({
        ...LAMP,
        setting: {
          drive: 'pwm',
          timer: 'TIMER1',
          mode: 'fast-icr',
          channel: 'OC1A',
          pin: 'PB1',
          prescaler: 256,
          top: 40_000,
          compare: 20_000,
        },
      }),
      '“Lamp”: frequency fails.',
    ],
    [
      'two signals on one pin',
      planWith({ ...LAMP, pin: 'PB1' }, { ...LAMP, id: 'other', name: 'Other', pin: 'PB1' }),
      'Lamp and Other both need Timer 1 OC1A.',
    ],
  ])('%s', (_, plan, sentence) => {
    expect(() => planCode(plan, avr)).toThrow(CodeError);
    expect(() => planCode(plan, avr)).toThrow(sentence);
  });
});

it('what the code does not do stands in its head and beside it, and fails the plan', () => {
  const text = readFileSync(join(__dirname, '../../../examples/signal-cabin.plan.json'), 'utf8');
  const read = readPlan(text, PARTS);
  if (!read.ok) throw new Error(read.fault.sentence);
  const { plan, part } = read.value;
  expect(() => planCode(plan, part)).toThrow(/Block ring.*Not in the code: sending the bits/);
  const { files, leftOut } = planCode(plan, part, { failing: true });
  expect(leftOut).toEqual([
    'Block ring: sending the bits, since no compare value keeps this output low; the timer repeats one of them until the program writes the next width.',
  ]);
  expect(files[0]?.text).toContain(' * Not in this code:\n * - Block ring: sending the bits');
  const steady = planCode(planWith(LAMP), avr);
  expect(steady.leftOut).toEqual([]);
  expect(steady.files[0]?.text).not.toContain('Not in this code');
});
