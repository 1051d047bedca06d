import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import { modeOf, timerOf } from '../../src/part/find.ts';
import { computeOutcome, outcomeUnder } from '../../src/timer/drives/index.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import { simulateOutput } from '../../src/wave/counter.ts';
import { waveformSource } from '../../src/wave/source.ts';
import { waveformOf } from '../../src/wave/waveform.ts';
import { exact } from '../../src/quantity/exact.ts';
import { runCounter, runGeneralTimer } from '../helpers/counter.ts';
import { shipped } from '../helpers/parts.ts';

const stm = shipped('stm32f401');
const avr = shipped('atmega328p');
const am = shipped('am3358');
const up = modeOf(timerOf(stm, 'TIM3'), 'up');
const fast = modeOf(timerOf(avr, 'TIMER1'), 'fast-icr');
const general = modeOf(timerOf(am, 'DMTIMER4'), 'pwm');

/** Clocks at which a list of levels changes, the pin low before. */
function changesOf(levels: readonly (0 | 1)[]): number[] {
  return levels.flatMap((level, at) => (level === (levels[at - 1] ?? 0) ? [] : [at]));
}

describe('a counter that begins at another count, by hand', () => {
  it.each([
    // 3 4 0 1 2 3 4 0 1: high at the counts 0 and 1.
    [3, false, [2, 4, 7, 9, 12, 14]],
    // 1 2 3 4 0 1 2: high at once, for the rest of the pulse.
    [1, false, [0, 1, 4, 6, 9, 11, 14]],
    // Low at the counts 0 and 1.
    [3, true, [0, 2, 4, 7, 9, 12, 14]],
  ])('top 4, compare 2, from %d, inverted %s', (begin, inverted, edges) => {
    const seen = simulateOutput(up, 65535, { top: 4, compare: 2, inverted, begin }, [], 15);
    expect([...seen.edges]).toEqual(edges);
  });

  it('an output that changes at matches stays low until its counter comes back to 0', () => {
    const seen = simulateOutput(fast, 65535, { top: 4, compare: 1, inverted: false, begin: 1 }, [], 15);
    expect([...seen.edges]).toEqual([4, 6, 9, 11, 14]);
  });
});

describe('against a machine that is stepped count by count', () => {
  const numbers = fc.tuple(fc.integer({ min: 1, max: 40 }), fc.nat(40), fc.nat(40), fc.boolean());

  it('an output that follows a comparison', () => {
    fc.assert(
      fc.property(numbers, ([top, second, third, inverted]) => {
        const [compare, begin] = [second % (top + 2), third % (top + 1)];
        const levels = Array.from({ length: 200 }, (_, at) => {
          const below = (begin + at) % (top + 1) < compare;
          return below === inverted ? 0 : 1;
        });
        const seen = simulateOutput(up, 65535, { top, compare, inverted, begin }, [], 200);
        expect([...seen.edges]).toEqual(changesOf(levels));
      }),
    );
  });

  it('an output that changes at matches', () => {
    fc.assert(
      fc.property(numbers, ([top, second, third, inverted]) => {
        // At the last count match and return to 0 meet; other tests have them.
        const [compare, begin] = [second % top, third % (top + 1)];
        const output = inverted ? 'inverted' : 'normal';
        const levels = runCounter({ kind: 'fast', output, top, compare, begin }, 200);
        const seen = simulateOutput(fast, 65535, { top, compare, inverted, begin }, [], 200);
        expect([...seen.edges]).toEqual(changesOf(levels));
      }),
    );
  });

  it('a general timer of an AM3358, whose overflow and match toggle its output', () => {
    fc.assert(
      fc.property(numbers, ([top, second, , inverted]) => {
        const compare = 1 + (second % top);
        const load = 0xffffffff - top;
        const rest = inverted ? 1 : 0;
        const levels = runGeneralTimer(load, load + compare - 1, 0xfffffffe, rest, 200);
        const seen = simulateOutput(general, 0xffffffff, { top, compare, inverted }, [], 200);
        expect([...seen.edges]).toEqual(changesOf(levels));
        const setting: OutputSetting = {
          drive: 'pwm',
          timer: 'DMTIMER4',
          mode: 'pwm',
          channel: 'OUT',
          pin: 'gpio2_2',
          polarity: inverted ? 'inverted' : 'normal',
          prescaler: 1,
          top,
          compare,
        };
        const { duty, frequency } = computeOutcome(am, setting, exact(1000));
        const run = levels.slice(60, 60 + top + 1);
        expect(duty.equals(exact(run.filter((level) => level === 1).length).div(top + 1))).toBe(true);
        expect(frequency.equals(exact(1000).div(top + 1))).toBe(true);
      }),
    );
  });
});

describe('the waveform of a setting', () => {
  it('goes on as it began: every edge of thirty periods is that of the counter', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 30 }), fc.nat(30), fc.nat(30), (top, second, third) => {
        const [compare, begin] = [1 + (second % top), third % (top + 1)];
        const setting: OutputSetting = {
          ...{ drive: 'pwm', timer: 'TIM3', mode: 'up', channel: 'CH1', pin: 'PA6', prescaler: 1 },
          ...{ top, compare, begin },
        };
        const outcome = outcomeUnder(stm, clockPath(stm, stm.defaultClock), setting);
        const source = waveformSource(waveformOf(stm, setting, outcome), 1);
        const end = 30 * (top + 1);
        const seen = simulateOutput(up, 65535, { top, compare, inverted: false, begin }, [], end);
        expect([...source.edges(0, end)]).toEqual([...seen.edges]);
        for (const at of [0, 1, top, 5 * top]) {
          const expected = [...seen.edges].filter((edge) => edge <= at).length % 2;
          expect(source.level(at + 0.5)).toBe(expected);
        }
      }),
    );
  });
});
