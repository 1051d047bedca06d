import { clockPath } from '../../src/clock/path.ts';
import { fitRequirement } from '../../src/fit/fit.ts';
import { landscapeOf } from '../../src/fit/landscape.ts';
import { rankedBy } from '../../src/fit/rank.ts';
import { bestOf, readabilityOf, readableText } from '../../src/fit/readable.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import { shipped } from '../helpers/parts.ts';

const SERVO = requirementOf({
  kind: 'pulse',
  target: { frameHz: 50, minS: 0.001, maxS: 0.002, widthS: 0.0015 },
});

function bestRound(id: string, requirement = SERVO) {
  const part = shipped(id);
  const fit = fitRequirement(part, clockPath(part, part.defaultClock), requirement);
  return { fit, best: [...fit.candidates].sort(rankedBy(requirement, 'readable'))[0] };
}

describe('round numbers', () => {
  it.each([
    [1e-6, 20_000, 0, 'one step is 1 µs'],
    [1e-5, 2000, 0, 'one step is 10 µs'],
    [1.3e-6, 1000, 1, '1 000 steps in a period'],
    [5e-7, 40_001, 2, 'one step is 500 ns'],
    [1.3e-6, 500, 3, '500 steps in a period'],
    [1.3e-6, 50, 4, undefined],
    [1.3e-6, 640, 4, undefined],
  ])('a step of %d s, %d of them', (stepS, steps, level, text) => {
    const found = readabilityOf({ stepS, steps });
    expect(found.level).toBe(level);
    expect(found.text?.replace(/\s/g, ' ')).toBe(text);
  });

  /*
   * By hand, 50 Hz: 84 MHz / 84 = 1 MHz, 20 000 counts. 125 MHz / 125 = 1 MHz, the same. 16 MHz has no prescaler of 16; with 8 a
   * count is 0.5 µs, and counting up and down to 20 000 moves both edges: one step of the compare value is 1 µs again.
   */
  it.each([
    ['stm32f401', { prescaler: 84, top: 19_999, compare: 1500 }, 'one step is 1 µs'],
    ['rp2040', { prescaler: 125, top: 19_999, compare: 1500 }, 'one step is 1 µs'],
    ['atmega328p', { prescaler: 8, top: 20_000, compare: 1500 }, 'one step is 1 µs'],
  ])('a servo on %s', (id, numbers, text) => {
    const { best } = bestRound(id);
    expect(best?.setting).toMatchObject(numbers);
    expect(best && readabilityOf(best).text?.replace(/\s/g, ' ')).toBe(text);
    expect(best?.errorPpm).toBe(0);
  });

  it('says what they cost: of 84 MHz a 16-bit counter has up to 64 615 counts at 50 Hz, 1.7 bit more than 20 000', () => {
    const { fit, best } = bestRound('stm32f401');
    const narrow = fit.candidates.filter(({ steps }) => steps <= 65_536);
    const text = best && readableText(best, bestOf(narrow), SERVO);
    const bits = Math.log2(Math.max(...narrow.map(({ steps }) => steps)) / 20_000);
    expect(text).toContain(`${bits.toPrecision(2)} bit coarser than the finest`);
    expect(text).toContain('no error more than the closest');
  });

  it('marks them in the landscape, whatever lies beside them', () => {
    const { fit } = bestRound('stm32f401');
    const { points } = landscapeOf(fit, SERVO);
    const marked = points.filter(({ readable }) => readable !== undefined);
    expect(marked.some(({ setting }) => 'top' in setting && setting.top === 19_999)).toBe(true);
    expect(points.every(({ meets, readable }) => meets || readable === undefined)).toBe(true);
  });
});
