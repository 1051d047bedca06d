import fc from 'fast-check';
import { checksAlone } from '../../src/evaluate/signal-checks.ts';
import { clockAt, clockPath, type ClockPath } from '../../src/clock/path.ts';
import { fitRequirement } from '../../src/fit/fit.ts';
import type { Part } from '../../src/part/types.ts';
import type { PlanSignal } from '../../src/plan/plan.ts';
import { heldOn, onOscillator } from '../../src/signal/drift.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import { driveOf } from '../../src/timer/drives/index.ts';
import { PARTS } from '../helpers/parts.ts';

const wanted = fc.oneof(
  fc.record({
    kind: fc.constant('blink' as const),
    target: fc.record({
      frequencyHz: fc.constantFrom(0.7, 1, 12),
      duty: fc.constantFrom(0.2, 0.5),
      frequencyTolerancePpm: fc.constantFrom(15000, 30000, 120000),
    }),
  }),
  fc.record({
    kind: fc.constant('strobe' as const),
    target: fc.record({
      frequencyHz: fc.constantFrom(25, 60),
      onS: fc.constantFrom(0.0004, 0.001),
      frequencyTolerancePpm: fc.constantFrom(15000, 120000),
      dutyTolerance: fc.constantFrom(0.03, 0.15),
    }),
  }),
  fc.record({
    kind: fc.constant('pulse' as const),
    target: fc.record({
      frameHz: fc.constant(50),
      widthS: fc.constantFrom(0.0012, 0.0015),
      widthToleranceS: fc.constantFrom(0.00005, 0.0002),
      frameTolerancePpm: fc.constant(200000),
    }),
  }),
  fc.record({
    kind: fc.constant('tick' as const),
    target: fc.record({
      frequencyHz: fc.constantFrom(400, 1000),
      frequencyTolerancePpm: fc.constantFrom(500, 12000, 120000),
    }),
  }),
);

/** Every source of a part at a usual frequency, as far as the part's limits let it run. */
function pathsOf(part: Part): ClockPath[] {
  const others = part.clocks.flatMap((node): ClockPath[] => {
    if (node.kind !== 'source') return [];
    const [low, high] = typeof node.hz === 'number' ? [node.hz, node.hz] : node.hz;
    try {
      return [clockPath(part, { source: node.id, sourceHz: Math.min(high, Math.max(low, 8e6)) })];
    } catch {
      // This frequency is not for every source: its standard dividers may go beyond a limit.
      return [];
    }
  });
  return [clockPath(part, part.defaultClock), ...others];
}

describe('what fit lists under the oscillator', () => {
  it('narrows 10 Hz ± 10 % on ± 2 % to 9.1837 … 10.7843 Hz', () => {
    const tick = requirementOf({
      kind: 'tick',
      target: { frequencyHz: 10, frequencyTolerancePpm: 100000 },
    });
    const { low, high } = onOscillator(tick, 20000)!.frequency;
    // 9 / 0.98 and 11 / 1.02.
    expect(low.valueOf()).toBeCloseTo(9.183673, 6);
    expect(high!.valueOf()).toBeCloseTo(10.784314, 6);
    expect(onOscillator(tick, 100001)).toBeUndefined();
    expect(heldOn(tick, 100001)).toBe(tick);
  });

  it.each(PARTS.map((part) => [part.id, part] as const))(
    'passes frequency, width and duty on %s',
    (_, part) => {
      const paths = pathsOf(part);
      let judged = 0;
      fc.assert(
        fc.property(wanted, fc.constantFrom(...paths), (aim, path) => {
          const requirement = requirementOf(aim);
          for (const { setting } of fitRequirement(part, path, requirement).candidates.slice(0, 12)) {
            const { tolerancePpm } = clockAt(path, driveOf(setting).clockNode(part, setting));
            if (!onOscillator(requirement, tolerancePpm)) continue;
            const pin = 'pin' in setting ? { pin: setting.pin } : {};
            const signal = { id: 'one', name: 'One', ...aim, ...pin } as PlanSignal;
            const failing = checksAlone(part, path, signal, setting).filter(
              ({ verdict }) => verdict === 'fail',
            );
            expect(failing.map(({ property }) => property)).toEqual([]);
            judged += 1;
          }
        }),
        { numRuns: 25 },
      );
      expect(judged).toBeGreaterThan(0);
    },
  );
});
