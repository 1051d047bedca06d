import { PLAN_VERSION } from '../../src/plan/versions.ts';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { copiedSignal, freeId, movedSignal, withoutSignal } from '../../src/plan/edit.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { readPlan } from '../../src/plan/check-plan.ts';
import { assignPlan } from '../../src/resolve/assign-plan.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { planOn, searchClocks, tryPart } from '../../src/resolve/compare-parts.ts';
import { PARTS, partById } from '../helpers/parts.ts';
import type { Part } from '../../src/part/types.ts';
import { hasTimer, sameSetting } from '../../src/timer/setting.ts';
import { fixesFor } from '../../src/resolve/conflict-fixes.ts';

const part = partById('stm32f401') as Part;
const text = readFileSync(join(__dirname, '../../../examples/harbour-buoy.plan.json'), 'utf8');

function buoy(): Plan {
  const read = readPlan(text, PARTS);
  if (!read.ok) throw new Error(read.fault.sentence);
  return read.value.plan;
}

function withAll(plan: Plan): Plan {
  const { settings } = assignPlan(plan, part);
  const found = new Map(settings.map(({ signal, setting }) => [signal, setting]));
  return { ...plan, signals: plan.signals.map((one) => ({ ...one, setting: found.get(one.id)! })) };
}

describe('the harbour buoy', () => {
  it('ships with two conflicts, each with its sentence and fixes that leave one less', () => {
    const plan = buoy();
    const { conflicts } = evaluatePlan(plan, part);
    expect(conflicts.map(({ of, title }) => `${of}: ${title}`)).toEqual([
      'frequency: Chart lamp cannot share TIM3 with Lantern.',
      'channel: Lens shutter and Anemometer both need TIM2 CH1.',
    ]);
    expect(conflicts[0]?.text).toBe(
      'One timer has one frequency: 0.25 Hz for Lantern, at least 300 Hz for Chart lamp.',
    );
    for (const conflict of conflicts) {
      const routes = fixesFor(plan, part, conflict);
      expect(routes.length).toBeGreaterThanOrEqual(3);
      for (const route of routes) expect(evaluatePlan(route.plan, part).conflicts).toHaveLength(1);
    }
    // PB1 is TIM1's third channel too, and PA0 TIM5's first.
    expect(fixesFor(plan, part, conflicts[0]!)[0]?.text).toBe('Chart lamp: TIM1 CH3 on PB1');
    expect(fixesFor(plan, part, conflicts[1]!)[0]?.text).toBe('Lens shutter: TIM5 CH1 on PA0');
  });

  it('assigned as a whole has none, every check holds, and as much as can stays where it is', () => {
    const plan = buoy();
    const found = assignPlan(plan, part);
    expect(found).toMatchObject({ feasible: true, optimal: true, conflicts: [] });
    const { signals, conflicts } = evaluatePlan(withAll(plan), part);
    expect(conflicts).toEqual([]);
    const checks = signals.flatMap(({ outcome }) => outcome?.checks ?? []);
    expect(checks.filter(({ verdict }) => verdict !== 'pass')).toEqual([]);
    const timers = found.settings.map(({ setting }) => (hasTimer(setting) ? setting.timer : ''));
    expect(timers).toEqual(['TIM3', 'TIM4', 'TIM1', 'TIM5', 'TIM2', 'TIM10']);
    // Four of the six settings are as good as any, and stay to the last number.
    const same = found.settings.filter(({ signal, setting }) =>
      sameSetting(setting, plan.signals.find(({ id }) => id === signal)!.setting!),
    );
    expect(same.map(({ signal }) => signal)).toEqual(['lantern', 'fog-signal', 'anemometer', 'housekeeping']);
  });

  it('does not fit where two signals want one pin, or a reserved timer is the only one; it says which', () => {
    const plan = buoy();
    const both = {
      ...plan,
      signals: plan.signals.map((one) => (one.id === 'chart-lamp' ? { ...one, pin: 'PB0' } : one)),
    };
    expect(assignPlan(both, part).conflicts).toEqual([
      {
        signals: ['lantern', 'chart-lamp'],
        rules: { reserved: [], locked: [], pins: ['lantern', 'chart-lamp'] },
        reason: 'Lantern and Chart lamp both want the pin PB0; a pin can do one thing.',
      },
    ]);
    const kept = { ...plan, reserved: ['TIM2'] };
    expect(assignPlan(kept, part).conflicts).toEqual([
      {
        signals: ['anemometer'],
        rules: { reserved: ['TIM2'], locked: [], pins: ['anemometer'] },
        reason: 'Anemometer on PA15 could only be made by TIM2, which is reserved.',
      },
    ]);
  });

  it('goes on the AM3358 with its pins freed, and not on the ATmega328P, whose counters are too short to measure', () => {
    const plan = buoy();
    const other = partById('am3358') as Part;
    const trial = tryPart(plan, other, other.defaultClock);
    expect(trial).toMatchObject({ feasible: true, unable: [] });
    const moved = planOn(plan, other, trial!);
    expect(readPlan(JSON.stringify(moved), PARTS).ok).toBe(true);
    expect(evaluatePlan(moved, other).conflicts).toEqual([]);
    const avr = partById('atmega328p') as Part;
    expect(tryPart(plan, avr, avr.defaultClock)).toMatchObject({ feasible: false, unable: ['Anemometer'] });
  });
});

it('a tone that is off at 84 MHz is exact under a clock that the search finds', () => {
  // 40 kHz within 10 ppm and 37.5 kHz within 10 ppm: 84 MHz / 2100 and / 2240 are exact; 36 kHz is not, but 72 MHz / 2000 is.
  const tone = (id: string, frequencyHz: number): Plan['signals'][number] => ({
    id,
    name: id,
    kind: 'tone',
    target: { frequencyHz, frequencyTolerancePpm: 60 },
  });
  const clock: Plan['clock'] = {
    source: 'crystal',
    sourceHz: 8000000,
    tolerancePpm: 10,
    settings: { pllM: 8, pllN: 336, pllP: 4 },
  };
  const signals = [tone('one', 1440000)];
  const plan: Plan = {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Sonde',
    part: part.id,
    clock,
    signals,
  };
  // 84 MHz / 1.44 MHz is 58.33 counts: 0.57 % off at the nearest.
  expect(assignPlan(plan, part).feasible).toBe(false);
  const [first] = searchClocks(plan, part);
  expect(first?.feasible).toBe(true);
  expect((first?.cpuHz ?? 0) / 1440000).toBeCloseTo(Math.round((first?.cpuHz ?? 0) / 1440000), 3);
});

describe('editing a plan', () => {
  it('moves, copies and removes signals, and what hung on them', () => {
    const plan = buoy();
    expect(movedSignal(plan, 'lantern', 2).signals[2]?.id).toBe('lantern');
    expect(movedSignal(plan, 'lantern', -1)).toBe(plan);
    const copied = copiedSignal(plan, 'lantern');
    expect(copied?.plan.signals[1]).toMatchObject({ id: 'lantern-2', name: 'Lantern 2' });
    expect(copied?.plan.signals[1]?.setting).toBeUndefined();
    const hanging = {
      ...plan,
      signals: plan.signals.map((one) =>
        one.id === 'fog-signal' ? { ...one, phase: { to: 'lantern', degrees: 0 } } : one,
      ),
    };
    expect(withoutSignal(hanging, 'lantern').signals[0]).not.toHaveProperty('phase');
    expect(freeId(plan, 'Lantern')).toBe('lantern-2');
    expect(freeId(copied?.plan ?? plan, 'Lantern')).toBe('lantern-3');
  });
});
