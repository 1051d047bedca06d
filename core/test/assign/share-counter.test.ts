import fc from 'fast-check';
import { counterContext, type Use } from '../../src/assign/counter/context.ts';
import { refined } from '../../src/assign/counter/refine.ts';
import { cpuSteps, qualityLevel, qualityOf, scalesOf } from '../../src/assign/counter/quality.ts';
import { narrowed, type Request } from '../../src/assign/request.ts';
import { shareCounter } from '../../src/assign/counter/share-counter.ts';
import { shareAt } from '../../src/assign/counter/counter-at.ts';
import { clockOf, clockPath } from '../../src/clock/path.ts';
import { softwareCandidate } from '../../src/fit/software/software-fit.ts';
import type { Candidate } from '../../src/fit/candidate.ts';
import { partById } from '../helpers/parts.ts';
import { modeOf, timerOf } from '../../src/part/find.ts';
import type { Mode, Part, Timer } from '../../src/part/types.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import type { KindAndTarget } from '../../src/signal/signal.ts';
import { compareForShare } from '../../src/timer/count.ts';
import { computeOutcome } from '../../src/timer/drives/index.ts';
import { interruptCycles } from '../../src/timer/run.ts';
import type { InterruptDriven } from '../../src/timer/setting.ts';

const avr = partById('atmega328p') as Part;
const path = clockPath(avr, { source: 'crystal', sourceHz: 8000000, tolerancePpm: 50 });
const MAX_TOP = 31;

/** A counter small enough to try everything: three divisions, a top up to 31. */
const timer: Timer = (() => {
  const own = timerOf(avr, 'TIMER1');
  const { prescaler } = own;
  const options = prescaler.kind === 'list' ? prescaler.options.slice(0, 3) : [];
  const narrow = (mode: Mode): Mode[] =>
    mode.id === 'ctc-icr' && mode.top.kind === 'register'
      ? [{ ...mode, top: { ...mode.top, max: MAX_TOP } }]
      : [];
  return { ...own, prescaler: { kind: 'list', options }, modes: own.modes.flatMap(narrow) };
})();
const small: Part = { ...avr, timers: [timer] };
const mode = modeOf(timer, 'ctc-icr');
const DIVISIONS = [1, 8, 64];
/** Runs of fewer ticks leave the processor no time for anything else. */
const SHORT = 64;
const clockHz = clockOf(path, timer.clock);
const cpuHz = clockOf(path, avr.cpu.clock);

type Wish = { drive: string; aim: KindAndTarget };

function useOf({ drive, aim }: Wish, at: number): Use {
  const request: Request = { id: `s${at}`, name: `Signal ${at}`, requirement: requirementOf(aim) };
  return { request, drive, outputs: [], ...(drive === 'interrupt-pair' ? { channel: 'OC1A' } : {}) };
}

/** What a use makes of a run, by the arithmetic of settings; undefined where its requirement is not met. */
function madeOf(use: Use, n: number, top: number, k: number): Candidate | undefined {
  const requirement = narrowed(use.request.requirement, path, timer);
  if (!requirement) return undefined;
  const counter = { timer: timer.id, mode: mode.id, prescaler: n, top };
  const pin = requirement.pin ? { pin: 'PD2' } : {};
  const share = requirement.duty.ideal.valueOf();
  const runS = (n * (top + mode.base)) / clockHz.valueOf();
  const width = requirement.width ? requirement.width.ideal.valueOf() / runS : share;
  const setting: InterruptDriven =
    use.drive === 'interrupt-pair'
      ? {
          drive: 'interrupt-pair',
          ...counter,
          channel: 'OC1A',
          pin: 'PD2',
          compare: compareForShare(mode, top, Math.min(1, width)),
        }
      : use.drive === 'software-pwm'
        ? { drive: 'software-pwm', ...counter, pin: 'PD2', divider: k, compare: Math.round(share * k) }
        : { drive: 'interrupt', ...counter, ...pin, divider: k };
  const made = softwareCandidate(requirement, setting, computeOutcome(small, setting, clockHz, cpuHz));
  return made.meets && (use.drive !== 'software-pwm' || k >= Math.max(2, requirement.minSteps))
    ? made
    : undefined;
}

const pulse = fc.constantFrom(0.25, 0.5, 0.1);
const blink = fc
  .tuple(fc.constantFrom(100, 122, 125, 250), fc.constantFrom(3000, 20000, 30000), pulse)
  .map(([frequencyHz, frequencyTolerancePpm, duty]): KindAndTarget => ({
    kind: 'blink',
    target: { frequencyHz, frequencyTolerancePpm, duty, dutyTolerance: 0.03 },
  }));
const servo = fc
  .tuple(fc.constantFrom(50, 100), fc.constantFrom(0.0011, 0.0015))
  .map(([frameHz, widthS]): KindAndTarget => ({
    kind: 'pulse',
    target: { frameHz, widthS, widthToleranceS: 0.00005, frameTolerancePpm: 30000 },
  }));
const tick = fc.constantFrom(100, 250, 1000, 1024).map((frequencyHz): KindAndTarget => ({
  kind: 'tick',
  target: { frequencyHz, frequencyTolerancePpm: 8000, jitterS: 1e-3 },
}));
const half = fc.constantFrom(125, 220, 440).map((frequencyHz): KindAndTarget => ({
  kind: 'blink',
  target: { frequencyHz, frequencyTolerancePpm: 9000, duty: 0.5, dutyTolerance: 0.01 },
}));
const dim = fc.constantFrom(60, 100).map((minHz): KindAndTarget => ({
  kind: 'dim',
  target: { minHz, minSteps: 12, duty: 0.4, dutyTolerance: 0.05 },
}));
const wish: fc.Arbitrary<Wish> = fc.oneof(
  fc.oneof(blink, servo).map((aim): Wish => ({ drive: 'software-pwm', aim })),
  fc.oneof(tick, half).map((aim): Wish => ({ drive: 'interrupt', aim })),
  fc.oneof(blink, servo).map((aim): Wish => ({ drive: 'interrupt-pair', aim })),
);

it('what the program makes of a run is what its setting gives, in plain numbers', () => {
  const number = fc.tuple(fc.constantFrom(...DIVISIONS), fc.integer({ min: 7, max: MAX_TOP }), fc.nat(60));
  let met = 0;
  fc.assert(
    fc.property(
      fc.oneof(
        wish,
        dim.map((aim): Wish => ({ drive: 'interrupt-pair', aim })),
      ),
      number,
      (one, [n, top, off]) => {
        const use = useOf(one, 0);
        const bench = counterContext(small, path, { timer, mode }, [use], { hit: false });
        const requirement = narrowed(use.request.requirement, path, timer);
        if (!bench || !requirement) throw new Error('no bench');
        const changes = one.drive === 'interrupt' && requirement.pin ? 2 : 1;
        const near =
          clockHz.valueOf() / (requirement.frequency.low.valueOf() * n * (top + mode.base) * changes);
        const k = one.drive === 'interrupt-pair' ? 1 : Math.max(1, Math.round(near) - (off % 4));
        if (n * (top + mode.base) < SHORT) return;
        const share = shareAt(bench, 0, n, top, k);
        const made = madeOf(use, n, top, k);
        if (one.drive === 'software-pwm' && k < Math.max(2, requirement.minSteps)) return;
        expect(share !== undefined).toBe(made !== undefined);
        if (share && made) {
          met += 1;
          expect(share.quality).toBeCloseTo(qualityOf(scalesOf(requirement), made), 9);
        }
      },
    ),
    { numRuns: 2000 },
  );
  expect(met).toBeGreaterThan(100);
});

/** The least price and then the highest level of all divisions, tops and numbers of runs; every one is tried. */
function exhaustive(uses: readonly Use[]): { cpu: number; level: number } | undefined {
  const around = interruptCycles(avr.cpu) - avr.cpu.handlerCycles;
  const matches = uses.filter(({ drive }) => drive === 'interrupt-pair').length;
  const cycles = around * (1 + matches) + avr.cpu.handlerCycles * (uses.length + matches);
  const requirements = uses.map(({ request }) => narrowed(request.requirement, path, timer)!);
  const changes = uses.map(({ drive }, at) => (drive === 'interrupt' && requirements[at]?.pin ? 2 : 1));
  const each = requirements.map(({ frequency }, at) =>
    frequency.kind === 'near' ? 1 / frequency.ideal.valueOf() / (changes[at] ?? 1) : Infinity,
  );
  const first = each.indexOf(Math.min(...each));
  let best: { cpu: number; level: number } | undefined;
  for (const n of DIVISIONS) {
    for (let top = 1; top <= MAX_TOP; top += 1) {
      if (n * (top + mode.base) < SHORT) continue;
      const runS = (n * (top + mode.base)) / clockHz.valueOf();
      const routes = uses.map((use, at) => {
        const { frequency } = requirements[at]!;
        const max = 1 / frequency.low.valueOf() / runS / (changes[at] ?? 1);
        const min = frequency.kind === 'near' ? 1 / frequency.high.valueOf() / runS / (changes[at] ?? 1) : 1;
        const list =
          use.drive === 'interrupt-pair'
            ? [1]
            : Array.from(
                { length: Math.max(0, Math.floor(max) - Math.ceil(min) + 1) },
                (_, i) => Math.ceil(min) + i,
              );
        return list.flatMap((k) => {
          const made = k < 1 ? undefined : madeOf(use, n, top, k);
          return made ? [{ k, quality: qualityOf(scalesOf(requirements[at]!), made) }] : [];
        });
      });
      if (routes.some((list) => list.length === 0)) continue;
      for (const { k, quality } of routes[first] ?? []) {
        const cpu = cpuSteps(((k / (each[first] ?? 1)) * cycles) / cpuHz.valueOf()) / 1e7;
        if (cpu > 0.5) continue;
        const others = routes.map((list, at) =>
          at === first ? quality : Math.max(...list.map((one) => one.quality)),
        );
        const level = qualityLevel(Math.min(1, ...others));
        const cheaper = best ? cpuSteps(cpu) - cpuSteps(best.cpu) : -1;
        if (cheaper < 0 || (cheaper === 0 && level > (best?.level ?? -1))) best = { cpu, level };
      }
    }
  }
  return best;
}

it('the numbers of a counter are the best there are: all divisions, tops and numbers of runs tried', () => {
  const seen = { found: 0, none: 0 };
  fc.assert(
    fc.property(fc.array(wish, { minLength: 1, maxLength: 3 }), (list) => {
      const uses = list.map(useOf);
      const limits = { hit: false };
      const found = shareCounter(small, path, { timer, mode }, uses, limits);
      const expected = exhaustive(uses);
      fc.pre(!limits.hit);
      expect(found !== undefined).toBe(expected !== undefined);
      if (found && expected) {
        // Half a step may be rounded either way.
        expect(Math.abs(cpuSteps(found.cpu) - cpuSteps(expected.cpu))).toBeLessThanOrEqual(1);
        expect(found.level).toBe(expected.level);
      }
      seen[found ? 'found' : 'none'] += 1;
    }),
    { numRuns: 200 },
  );
  expect(seen.found).toBeGreaterThan(20);
  expect(seen.found + seen.none).toBeGreaterThan(180);
});

it('where a top is fixed, the division that leaves most is taken, not the first that does', () => {
  // 8 MHz / 256 / 256 is 122 Hz, hardly above 100; 8 MHz / 64 / 256 is 488 Hz, and 256 steps are ample for 100.
  const eight = timerOf(avr, 'TIMER0');
  const fast = eight.modes.find(({ top, pwm }) => top.kind === 'fixed' && pwm !== undefined)!;
  const request: Request = {
    id: 'lamp',
    name: 'Lamp',
    requirement: requirementOf({ kind: 'dim', target: { minHz: 100, minSteps: 100, duty: 0.5 } }),
  };
  const [channel] = eight.channels;
  const use: Use = { request, drive: 'pwm', outputs: channel!.outputs.slice(0, 1), channel: channel!.id };
  expect(shareCounter(avr, path, { timer: eight, mode: fast }, [use])).toMatchObject({
    prescaler: 64,
    level: 20,
  });
});

it('of counters that are worth the same the exact one is taken, or the present one', () => {
  const stm32 = partById('stm32f401') as Part;
  const under = clockPath(stm32, stm32.defaultClock);
  const own = timerOf(stm32, 'TIM3');
  const up = modeOf(own, 'up');
  const request: Request = {
    id: 'lamp',
    name: 'Lamp',
    requirement: requirementOf({ kind: 'blink', target: { frequencyHz: 2, duty: 0.5 } }),
  };
  const outputs = own.channels[0]!.outputs.slice(0, 1);
  const use: Use = { request, drive: 'pwm', outputs, channel: 'CH1' };
  const found = shareCounter(stm32, under, { timer: own, mode: up }, [use]);
  const finer = refined(stm32, under, { timer: own, mode: up }, [use], found!);
  expect(clockOf(under, own.clock).valueOf() / finer.prescaler / (finer.top + 1)).toBe(2);
  const hz = clockOf(under, own.clock).valueOf();
  const present = { prescaler: hz / 2 / 40000, top: 39999 };
  const setting = {
    drive: 'pwm' as const,
    timer: 'TIM3',
    mode: 'up',
    channel: 'CH1',
    pin: 'PA6',
    compare: 20000,
  };
  const kept = { ...use, request: { ...request, present: { ...setting, ...present } } };
  expect(refined(stm32, under, { timer: own, mode: up }, [kept], found!)).toMatchObject(present);
});
