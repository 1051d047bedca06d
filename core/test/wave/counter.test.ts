import fc from 'fast-check';
import { clockOf, clockPath } from '../../src/clock/path.ts';
import { PARTS, partById } from '../helpers/parts.ts';
import type { Mode } from '../../src/part/types.ts';
import { modeOf, timerOf } from '../../src/part/find.ts';
import { grainOf } from '../../src/timer/count.ts';
import { computeOutcome } from '../../src/timer/drives/index.ts';
import { topRange, type OutputSetting } from '../../src/timer/setting.ts';
import { onWholeClocks, shifted, withDeadTime } from '../../src/wave/clock.ts';
import { simulateOutput, type Change } from '../../src/wave/counter.ts';
import { periodicEdges, type EdgeList } from '../../src/wave/edges.ts';

function mode(part: string, timer: string, id: string): Mode {
  const found = partById(part);
  if (!found) throw new Error(part);
  return modeOf(timerOf(found, timer), id);
}

function edges(
  own: Mode,
  max: number,
  top: number,
  compare: number,
  changes: Change[],
  until: number,
  inverted = false,
): number[] {
  return [...simulateOutput(own, max, { top, compare, inverted }, changes, until).edges];
}

const up = mode('stm32f401', 'TIM3', 'up');
const center = mode('stm32f401', 'TIM3', 'center');
const fast = mode('atmega328p', 'TIMER1', 'fast-icr');
const phase = mode('atmega328p', 'TIMER2', 'phase-ocra');
const RP = mode('rp2040', 'PWM0', 'phase');
/** An up-counter that takes everything over at once and follows a comparison. */
const AT_ONCE: Mode = { ...up, update: { top: 'immediate', compare: 'immediate' } };
/** The same, but its output changes at matches only, and they take effect one count later. */
const BY_MATCH: Mode = { ...fast, update: { top: 'immediate', compare: 'immediate' } };

describe('edge lists made by hand, count by count', () => {
  it('up-counter, top 4, compare 2: high for counts 0 and 1 of five', () => {
    expect(edges(up, 65535, 4, 2, [], 15)).toEqual([0, 2, 5, 7, 10, 12]);
  });

  it('inverted: low for them', () => {
    expect(edges(up, 65535, 4, 2, [], 15, true)).toEqual([2, 5, 7, 10, 12]);
  });

  it('center-aligned, top 4, compare 1: high around the bottom, 0 1 2 3 4 3 2 1 | 0', () => {
    // Below compare at count 0 only: [0, 1) and [7, 8), so around each bottom for two counts.
    expect(edges(center, 65535, 4, 1, [], 24)).toEqual([0, 1, 7, 9, 15, 17, 23]);
  });

  it('up-down at both extremes: compare 0 is always low, compare top always high', () => {
    expect(edges(center, 65535, 4, 0, [], 24)).toEqual([]);
    expect(edges(center, 65535, 4, 4, [], 24)).toEqual([0]);
  });

  it('phase-correct on matches: set and clear one count after the match, nothing before the first of them', () => {
    // Top 4, compare 3: up-match at 3 clears at 4; down-match at 5 (count 3 going down) sets at 6; next clear at 12.
    expect(edges(phase, 255, 4, 3, [], 24)).toEqual([6, 12, 14, 20, 22]);
    // Compare 1: the down-match at count 7 sets at 8, which is the next bottom.
    expect(edges(phase, 255, 4, 1, [], 24)).toEqual([8, 10, 16, 18]);
  });

  it('phase-correct with twice top + 1 counts: 0 1 2 2 1 0 | 0', () => {
    // Compare 1: high at count 0, that is the last and the first count of each run of six.
    expect(edges(RP, 65535, 2, 1, [], 18)).toEqual([0, 1, 5, 7, 11, 13, 17]);
  });

  it('fast PWM on matches: compare + 1 counts; its first run lacks the rise at the bottom', () => {
    expect(edges(fast, 65535, 4, 1, [], 20)).toEqual([5, 7, 10, 12, 15, 17]);
  });

  it('a divider of 38 4/16: counts at clocks 0, 38, 76, 114, 153, and 153 again and again', () => {
    // Top 3, compare 2: edges at counts 0, 2, 4, 6, ...; count k comes with clock floor(k x 38.25).
    const counts = simulateOutput(up, 65535, { top: 3, compare: 2, inverted: false }, [], 16);
    const parts: EdgeList = { ...counts, edges: counts.edges.map((count) => count * 612) };
    const clocks = [...onWholeClocks(parts, 16).edges].map((edge) => edge / 16);
    expect(clocks).toEqual([0, 76, 153, 229, 306, 382, 459, 535]);
  });
});

describe('changes on the way', () => {
  it('buffered: the run under way ends as it began', () => {
    expect(edges(up, 65535, 4, 2, [{ at: 6, top: 9, compare: 5 }], 25)).toEqual([0, 2, 5, 7, 10, 15, 20]);
  });

  it('immediate top ahead of the counter shortens the run at once', () => {
    // At 3 of the first run top becomes 5: it ends at 6 instead of 10.
    expect(edges(AT_ONCE, 65535, 9, 2, [{ at: 3, top: 5 }], 15)).toEqual([0, 2, 6, 8, 12, 14]);
  });

  it('immediate top behind the counter is missed: it runs around through its whole width', () => {
    // 8 bits, top 9; at count 7 top becomes 5: on to 255 and back, 256 counts in all, then runs of six.
    expect(edges(AT_ONCE, 255, 9, 2, [{ at: 7, top: 5 }], 270)).toEqual([0, 2, 256, 258, 262, 264, 268]);
  });

  it('immediate compare behind the counter is missed where the output waits for the match', () => {
    // Top 9, compare 6 (clears at 7). In the second run, at its count 4, compare becomes 2: no match until the third.
    expect(edges(BY_MATCH, 65535, 9, 6, [{ at: 14, compare: 2 }], 40)).toEqual([10, 23, 30, 33]);
  });

  it('and taken at once where the output follows a comparison', () => {
    expect(edges(AT_ONCE, 65535, 9, 6, [{ at: 14, compare: 2 }], 30)).toEqual([0, 6, 10, 14, 20, 22]);
  });

  it('taken over at the top, an up-down counter changes its second half only', () => {
    const own: Mode = { ...center, update: { top: 'top', compare: 'top' } };
    // Top 10: compare 2 on the way up, written 5 at 4: falls at 2, rises at 20 - 5, then 5 on both sides.
    expect(edges(own, 65535, 10, 2, [{ at: 4, compare: 5 }], 40)).toEqual([0, 2, 15, 25, 35]);
  });

  it('parks the pin where it is told to', () => {
    expect(edges(up, 65535, 4, 2, [{ at: 11, park: 1 }], 30)).toEqual([0, 2, 5, 7, 10]);
    expect(edges(up, 65535, 4, 2, [{ at: 13, park: 1 }], 30)).toEqual([0, 2, 5, 7, 10, 12, 13]);
    expect(edges(up, 65535, 4, 2, [{ at: 11, park: 0 }], 30)).toEqual([0, 2, 5, 7, 10, 11]);
  });
});

describe('in its steady state', () => {
  const cases = PARTS.flatMap((part) =>
    part.timers.flatMap((timer) =>
      timer.modes.flatMap((own) => {
        if (!own.pwm || own.pwm.spread) return [];
        const channel = timer.channels.find(({ id }) => own.pwm?.channels.includes(id));
        const output = channel?.outputs.find((one) => one.drive === 'pwm');
        return channel && output ? [{ part, timer, own, channel, output }] : [];
      }),
    ),
  );

  it('is what the closed form says, for every mode of every part', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...cases),
        fc.nat(60),
        fc.nat(300),
        fc.nat(60),
        ({ part, timer, own, channel, output }, top, compare, from) => {
          const { min, max } = topRange(own);
          const highest =
            own.top.kind === 'power'
              ? 2 ** (own.top.minBits + (top % 3)) - 1
              : Math.min(max, Math.max(min, top));
          if (own.top.kind === 'fixed' && highest > 5000) return;
          const division =
            timer.prescaler.kind === 'list'
              ? (timer.prescaler.options[0]?.divide ?? 1)
              : timer.prescaler.min / timer.prescaler.scale;
          const setting: OutputSetting = {
            drive: 'pwm',
            timer: timer.id,
            mode: own.id,
            channel: channel.id,
            pin: output.pin,
            polarity: output.polarity,
            prescaler: division,
            top: highest,
            compare:
              own.pwm?.changes === 'toggle'
                ? 1 + (compare % highest)
                : Math.min(compare, 2 ** (own.pwm?.bits ?? timer.width) - 1),
            ...(timer.preset && own.count === 'up' && !own.start ? { begin: from % (highest + 1) } : {}),
          };
          const clockHz = clockOf(clockPath(part, part.defaultClock), timer.clock);
          const { cycle } = computeOutcome(part, setting, clockHz);
          const unit = timer.prescaler.kind === 'list' ? division : timer.prescaler.min;
          const period = cycle.periodTicks / unit;
          const running = {
            top: highest,
            compare: setting.compare,
            inverted: output.polarity === 'inverted',
            ...(setting.begin === undefined ? {} : { begin: setting.begin }),
          };
          const until = 6 * period;
          const seen = simulateOutput(own, 2 ** timer.width - 1, running, [], until);
          const ahead =
            (setting.begin ?? (own.lead === undefined ? 0 : highest + 1 - own.lead)) * grainOf(own) * unit;
          const [settled, end] = [2, 6].map((runs) => runs * cycle.periodTicks + ahead);
          const steady = periodicEdges(cycle, settled ?? 0, end ?? 0);
          const after = [...seen.edges].filter((edge) => edge >= 2 * period);
          expect([part.id, own.id, running, after]).toEqual([
            part.id,
            own.id,
            running,
            [...steady.edges].map((edge) => (edge - ahead) / unit),
          ]);
          expect(grainOf(own)).toBeGreaterThan(0);
        },
      ),
      { numRuns: 3000 },
    );
  });
});

describe('what is made of a trace', () => {
  const trace: EdgeList = { start: 0, edges: Float64Array.from([10, 20, 30, 33, 40]), from: 0, to: 60 };

  it('complementary outputs with dead time are never high together, short pulses vanish', () => {
    const { main, complement } = withDeadTime(trace, 4);
    expect([main.start, ...main.edges]).toEqual([0, 14, 20, 44]);
    expect([complement.start, ...complement.edges]).toEqual([1, 10, 24, 30, 37, 40]);
  });

  it('shifts by a phase', () => {
    expect(shifted(trace, 5)).toMatchObject({ start: 0, from: 5, to: 65 });
    expect([...shifted(trace, 5).edges]).toEqual([15, 25, 35, 38, 45]);
  });
});
