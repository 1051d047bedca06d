import { clockPath } from '../../src/clock/path.ts';
import { outputAdjustable, unitSetters } from '../../src/codegen/setters.ts';
import { exact } from '../../src/quantity/exact.ts';
import { countsOf, grainOf, highCounts, maxCompare } from '../../src/timer/count.ts';
import { outcomeUnder, resolveSetting } from '../../src/timer/drives/index.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import { shipped } from '../helpers/parts.ts';

const part = shipped('atmega328p');
const path = clockPath(part, { source: 'crystal', sourceHz: 16_000_000 });

/** What the C of a setter hands on for a value, with the division of whole numbers that C has. */
function compareOf(lines: readonly string[], name: string, value: number): number {
  const line = lines.find((one) => one.includes('_set((') && one.includes(name)) ?? '';
  const [, sum = '', divisor = '1'] =
    /\(\(?((?:\d+ - )?\(int\d+_t\)\w+(?: [*+-] \d+)*)\)?(?: \/ (\d+))?\)\);$/.exec(line) ?? [];
  const terms = sum.replace(/\(int\d+_t\)\w+/, String(value)).split(' ');
  const product = (text: string): number => text.split(' * ').reduce((all, one) => all * Number(one), 1);
  const [first = '', ...rest] = terms.join(' ').split(/ (?=[+-] )/);
  const total = rest.reduce(
    (all, one) => (one.startsWith('+') ? all + product(one.slice(2)) : all - product(one.slice(2))),
    product(first),
  );
  return Math.trunc(total / Number(divisor));
}

describe.each([
  ['fast PWM, high for compare + 1 counts', 'fast-icr', 'normal', 39_999],
  ['fast PWM, inverted', 'fast-icr', 'inverted', 39_999],
  ['up and down', 'phase-icr', 'normal', 20_000],
  ['up and down, inverted', 'phase-icr', 'inverted', 20_000],
] as const)('setters on ATmega328P: %s', (_, mode, polarity, top) => {
  const setting: OutputSetting = {
    ...{ drive: 'pwm', timer: 'TIMER1', channel: 'OC1A', pin: 'PB1', prescaler: 8 },
    ...{ mode, polarity, top, compare: 3000 },
  };
  const resolved = resolveSetting(part, setting);
  const { frequency } = outcomeUnder(part, path, setting);
  const adjustable = outputAdjustable(resolved);
  if (!adjustable) throw new Error('nothing to set');
  const whole = countsOf(resolved.mode, top) * grainOf(resolved.mode);
  const counts = (compare: number): number =>
    highCounts(resolved.mode, top, compare, polarity === 'inverted');
  const max = maxCompare(resolved.mode, top, resolved.timer.width);

  it.each(['us', 'percent'] as const)('%s: no compare value is nearer', (unit) => {
    const lines = unitSetters('vane', adjustable, frequency, undefined, 'uint16_t');
    const scale = unit === 'us' ? frequency.inverse().mul(1e6).valueOf() : 100;
    for (const value of unit === 'us' ? [1, 2, 999, 1000, 1500, 1501, 12_345, 19_999] : [1, 7, 33, 50, 99]) {
      const compare = compareOf(lines, unit, value);
      const miss = (at: number): number => Math.abs((counts(at) / whole) * scale - value);
      const others = [compare - 1, compare + 1].filter((at) => at >= 0 && at <= max);
      expect(compare).toBeGreaterThanOrEqual(0);
      expect(compare).toBeLessThanOrEqual(max);
      for (const other of others) expect(miss(compare)).toBeLessThanOrEqual(miss(other) + 1e-9);
    }
  });

  it('a span of widths holds the value to its ends and has no setter in percent', () => {
    const span = { of: 'width', low: exact('0.001'), high: exact('0.002') } as const;
    const text = unitSetters('vane', adjustable, frequency, span, 'uint16_t').join('\n');
    expect(text).toContain('#define VANE_US_MIN 1000u\n#define VANE_US_MAX 2000u');
    expect(text).not.toContain('percent');
  });
});
