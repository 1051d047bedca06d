import { PLAN_VERSION } from '../../src/plan/versions.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { assignPlan } from '../../src/resolve/assign-plan.ts';
import { minRelaxation } from '../../src/resolve/relax.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { fixesForInfeasible, type TriedFix } from '../../src/resolve/fixes.ts';
import { partById } from '../helpers/parts.ts';
import type { Part } from '../../src/part/types.ts';

const part = partById('stm32f401') as Part;
/** The same with nothing but its hardware: no pin is the program's, and one timer. */
const lone: Part = {
  ...part,
  timers: part.timers.filter(({ id }) => id === 'TIM3'),
  pins: part.pins.map((pin) => ({ ...pin, software: undefined })),
};

const CLOCK: Plan['clock'] = {
  source: 'crystal',
  sourceHz: 8000000,
  tolerancePpm: 0,
  settings: { pllM: 8, pllN: 336, pllP: 4 },
};

function planOf(signals: PlanSignal[], more: Partial<Plan> = {}): Plan {
  return {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Weir',
    part: part.id,
    clock: CLOCK,
    signals,
    ...more,
  };
}

const lamp: PlanSignal = {
  id: 'lamp',
  name: 'Weir lamp',
  kind: 'dim',
  pin: 'PB4',
  target: { minHz: 500000, minSteps: 150, duty: 0.3 },
};
const disc: PlanSignal = {
  id: 'disc',
  name: 'Disc',
  kind: 'strobe',
  pin: 'PB5',
  target: { minHz: 8, maxHz: 90, onS: 0.0005 },
};

function tone(id: string, name: string, pin: string | undefined, frequencyHz: number): PlanSignal {
  const target = { frequencyHz, toleranceCents: 0.5 };
  return { id, name, kind: 'tone', ...(pin === undefined ? {} : { pin }), target };
}

function fixes(plan: Plan, on: Part): TriedFix[] {
  const { conflicts } = assignPlan(plan, on);
  expect(conflicts).toHaveLength(1);
  return fixesForInfeasible(plan, on, conflicts[0]!);
}

function text(list: readonly TriedFix[]): string[] {
  return list.map((one) => one.text);
}

describe('why a plan does not fit', () => {
  it('names the pins that are to blame, and the frequencies', () => {
    // PB4 and PB5 are TIM3's first and second channel and nobody else's.
    const { conflicts } = assignPlan(planOf([lamp, disc, tone('bell', 'Bell', 'PB6', 2000)]), part);
    expect(conflicts).toEqual([
      {
        signals: ['lamp', 'disc'],
        rules: { reserved: [], locked: [], pins: ['lamp', 'disc'] },
        reason:
          'Weir lamp on PB4 and Disc on PB5 can only have TIM3, and one timer has one frequency: at least 500 kHz for Weir lamp and 8 Hz … 90 Hz for Disc.',
      },
    ]);
  });

  it('leaves out pins that are not to blame', () => {
    const pair = [tone('low', 'Low', 'PB4', 440), tone('high', 'High', 'PB5', 441)];
    const [conflict] = assignPlan(planOf(pair), lone).conflicts;
    expect(conflict?.rules.pins).toEqual([]);
    expect(conflict?.reason).toBe(
      'Low and High can only have TIM3, and one timer has one frequency: 440 Hz for Low and 441 Hz for High.',
    );
  });

  it('tells a missing channel from a frequency that cannot be shared', () => {
    // PA6 and PB4 are both TIM3's first channel.
    const pair = [tone('low', 'Low', 'PA6', 440), tone('high', 'High', 'PB4', 440)];
    const [conflict] = assignPlan(planOf(pair), lone).conflicts;
    expect(conflict?.reason).toBe(
      'Low on PA6 and High on PB4 can only have TIM3, and not each a channel of it: CH1 for Low and CH1 for High.',
    );
  });

  it('names reserved timers and settings that stay where they are to blame', () => {
    const low = tone('low', 'Low', undefined, 440);
    const high = tone('high', 'High', undefined, 441);
    const two: Part = { ...lone, timers: part.timers.filter(({ id }) => id === 'TIM3' || id === 'TIM4') };
    const [kept] = assignPlan(planOf([low, high], { reserved: ['TIM4', 'SysTick'] }), two).conflicts;
    expect(kept?.rules.reserved).toEqual(['TIM4']);
    expect(kept?.reason).toMatch(
      /one frequency: 440 Hz for Low and 441 Hz for High, while TIM4 is reserved\.$/,
    );
    const { settings } = assignPlan(planOf([low]), lone);
    const staying = { ...low, setting: settings[0]!.setting, locked: true };
    const near: PlanSignal = {
      id: 'near',
      name: 'Near',
      kind: 'tone',
      target: { frequencyHz: 441, toleranceCents: 3.6 },
    };
    // Alone the two would share 440.13 Hz; the staying one makes 440.006 Hz, 3.91 cents below the other.
    const [fixed] = assignPlan(planOf([staying, near]), lone).conflicts;
    expect(fixed?.rules.locked).toEqual(['low']);
    expect(fixed?.reason).toMatch(/, while Low stays where it is\.$/);
  });
});

describe('fixes of what does not fit', () => {
  it('another pin for either, or one less: each puts the rest in order', () => {
    const plan = planOf([lamp, disc]);
    const found = fixes(plan, part);
    expect(text(found).filter((one) => !/ on P/.test(one))).toEqual(['without Weir lamp', 'without Disc']);
    expect(text(found).filter((one) => / on P/.test(one))).toHaveLength(2);
    for (const { goes, plan: next } of found) {
      expect(goes).toBe(true);
      const { signals, conflicts } = evaluatePlan(next, part);
      expect(conflicts).toEqual([]);
      expect(
        signals.flatMap(({ outcome }) => outcome?.checks ?? []).every(({ verdict }) => verdict === 'pass'),
      ).toBe(true);
    }
  });

  it('the least looser tolerance: 440 and 441 Hz are 3.93 cents apart, so one of them needs 3.5 beside the other’s 0.5', () => {
    const found = fixes(
      planOf([tone('low', 'Low', undefined, 440), tone('high', 'High', undefined, 441)]),
      lone,
    );
    expect(text(found)).toEqual(expect.arrayContaining(['Low within ±3.5 c', 'High within ±3.5 c']));
    const low = found.find((one) => one.text === 'Low within ±3.5 c');
    expect(low?.goes).toBe(true);
    expect(low?.plan.signals[0]?.target).toEqual({ frequencyHz: 440, toleranceCents: 3.5 });
  });

  it('a reserved timer given back, another clock', () => {
    // 84 MHz / 1.44 MHz is 58.33: 58 counts are 5747 ppm off. 60 ppm are wanted, 100 times as much is the least that does.
    const signal: PlanSignal = {
      id: 'sonde',
      name: 'Sonde',
      kind: 'tone',
      target: { frequencyHz: 1440000, frequencyTolerancePpm: 60 },
    };
    const found = fixes(planOf([signal]), part);
    expect(text(found)).toContain('Sonde within ±0.6 %');
    expect(text(found).some((one) => one.includes('crystal'))).toBe(true);
    const kept = fixes(planOf([lamp], { reserved: ['TIM3'] }), part);
    expect(text(kept)[0]).toBe('TIM3 not reserved');
    expect(kept[0]?.plan.reserved).toEqual([]);
  });

  it('says so where another conflict is left', () => {
    const other = [
      { ...lamp, id: 'lamp-2', name: 'Lock lamp', pin: 'PB8' },
      { ...disc, id: 'disc-2', name: 'Dial', pin: 'PB9' },
    ];
    // PB8 and PB9 are TIM4's third and fourth channel, and TIM10's and TIM11's first: reserved here.
    const plan = planOf([lamp, disc, ...other], { reserved: ['TIM10', 'TIM11'] });
    const { conflicts } = assignPlan(plan, part);
    expect(conflicts.map(({ signals }) => signals)).toEqual([
      ['lamp', 'disc'],
      ['lamp-2', 'disc-2'],
    ]);
    const found = fixesForInfeasible(plan, part, conflicts[0]!);
    expect(found.every(({ goes }) => !goes)).toBe(true);
    for (const { plan: next } of found) expect(assignPlan(next, part).conflicts).toHaveLength(1);
  });
});

it('the least looser tolerance is the first of its ladder that goes, whatever the threshold', () => {
  const signal = tone('one', 'One', undefined, 440);
  for (let cents = 0.6; cents < 120; cents *= 1.37) {
    const [min] = minRelaxation(signal, (one) =>
      one.kind === 'tone' && (one.target.toleranceCents ?? 0) >= cents ? true : undefined,
    );
    const found = min?.relaxed.signal;
    const value = found?.kind === 'tone' ? (found.target.toleranceCents ?? 0) : 0;
    expect(value).toBeGreaterThanOrEqual(cents);
    expect(value).toBeLessThanOrEqual(Math.max(0.75, cents * 1.7));
  }
});
