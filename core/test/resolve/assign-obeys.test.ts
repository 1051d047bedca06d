import { PLAN_VERSION } from '../../src/plan/versions.ts';
import fc from 'fast-check';
import { stepBudget } from '../../src/assign/step-budget.ts';
import { bestSetting } from '../../src/evaluate/choose.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { loadKinds } from '../../src/load/index.ts';
import { checkPlan } from '../../src/plan/check-plan.ts';
import { withSettings } from '../../src/plan/edit.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import { assignPlan } from '../../src/resolve/assign-plan.ts';
import type { Part } from '../../src/part/types.ts';
import { planOn } from '../helpers/plan.ts';
import { PARTS, shipped as part } from '../helpers/parts.ts';

const SEED = 77031;
const RUNS = Number(process.env['HZ_RUNS'] ?? 20);

function planOf(own: Part, signals: PlanSignal[]): Plan {
  return {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Rules',
    part: own.id,
    clock: own.defaultClock,
    signals,
  };
}

/** A plan assigned, with every check of it that does not pass; undefined where it does not fit. */
function assigned(plan: Plan, own: Part): { failing: string[]; plan: Plan } | undefined {
  const found = assignPlan(plan, own, stepBudget(60));
  if (!found.feasible) {
    const told = found.conflicts.length > 0 || found.ended !== undefined;
    expect([plan, told]).toEqual([plan, true]);
    for (const { reason } of found.conflicts) expect(reason).toMatch(/\w/);
    return undefined;
  }
  const next = withSettings(plan, found.settings);
  const { signals, conflicts } = evaluatePlan(next, own);
  const failing = signals.flatMap(({ signal, outcome }) =>
    (outcome?.checks ?? [{ property: 'setting', verdict: 'fail' }])
      .filter((check) => check.verdict !== 'pass' && !('fixed' in check && check.fixed))
      .map((check) => `${signal.id} ${JSON.stringify(check)}`),
  );
  return { plan: next, failing: [...failing, ...conflicts.map(({ sentence }) => sentence)] };
}

const tone = (id: string, more: Partial<PlanSignal> = {}): PlanSignal =>
  ({ id, name: id.toUpperCase(), kind: 'tone', target: { frequencyHz: 1000 }, ...more }) as PlanSignal;

describe('phase', () => {
  it.each(['atmega328p', 'stm32f401', 'samd21g18', 'mk20dx256', 'am3358'])(
    'of half a period is made on %s, in either way of writing it',
    (id) => {
      for (const degrees of [180, -180]) {
        const plan = planOf(part(id), [tone('a'), tone('b', { phase: { to: 'a', degrees } })]);
        expect(assigned(plan, part(id))?.failing).toEqual([]);
      }
    },
  );

  it('of a quarter is made by matches of toggled outputs: 250 of 1000 counts', () => {
    const own = part('stm32f401');
    const plan = planOf(own, [
      tone('a', { pin: 'PA6' }),
      tone('b', { pin: 'PA7', phase: { to: 'a', degrees: 90, toleranceDegrees: 1 } }),
    ]);
    const found = assigned(plan, own);
    expect(found?.failing).toEqual([]);
  });

  it.each([
    // Two pins whose timers have nothing in common: 1 kHz, a tenth high, at 77 degrees.
    ['attiny85', ['PB1', 'PB4'], 16e6],
    ['atmega328p', ['PB1', 'PD3'], 16e6],
    ['stm32f401', ['PA6', 'PB6'], undefined],
    ['samd21g18', [], undefined],
    ['pic16f18875', [], undefined],
    ['rp2040', [], undefined],
    ['am3358', [], undefined],
  ] as const)('that no match can make is made on %s by a counter that begins later', (id, pins, sourceHz) => {
    const own = part(id);
    const lamp = (name: string, more: Partial<PlanSignal>): PlanSignal =>
      ({
        id: name,
        name,
        kind: 'pwm',
        target: { frequencyHz: 1000, duty: 0.1, frequencyTolerancePpm: 30_000 },
        ...more,
      }) as PlanSignal;
    const at = (number: number): { pin?: string } =>
      pins[number] === undefined ? {} : { pin: pins[number] };
    const phase = { to: 'a', degrees: 77, toleranceDegrees: 2 };
    const plan = planOf(own, [lamp('a', at(0)), lamp('b', { ...at(1), phase })]);
    const clock = sourceHz === undefined ? plan.clock : { source: 'crystal', sourceHz };
    const found = assigned({ ...plan, ...(clock ? { clock } : {}) }, own);
    expect(found?.failing).toEqual([]);
    const begins = found?.plan.signals.map(({ setting }) =>
      setting && 'begin' in setting ? setting.begin : 0,
    );
    expect(begins?.filter((begin) => begin !== 0)).toHaveLength(1);
    // Its code says so: the counter is loaded with that count before the timer starts.
    const [source] = found ? planCode(found.plan, own).files : [];
    expect(source?.text).toMatch(new RegExp(` = ${begins?.[1] ?? 0}u;`));
  });

  it('brings both timers to the frequency that is wanted, not one without the other', () => {
    const own = part('stm32f401');
    const at = { kind: 'pwm', target: { frequencyHz: 1000, duty: 0.2 } } as const;
    const plan = planOf(own, [
      { id: 'a', name: 'A', pin: 'PA6', ...at },
      { id: 'b', name: 'B', pin: 'PB6', ...at, phase: { to: 'a', degrees: 77, toleranceDegrees: 2 } },
    ]);
    // 84 MHz / 2 / 42000; 42000 x (1 - 77 / 360) = 33016.7.
    expect(assigned(plan, own)?.plan.signals.map(({ setting }) => setting)).toMatchObject([
      { prescaler: 2, top: 41_999 },
      { prescaler: 2, top: 41_999, begin: 33_017 },
    ]);
  });

  it('a signal that keeps its setting decides at which count its timer begins', () => {
    const own = part('stm32f401');
    const at = { kind: 'pwm', target: { frequencyHz: 1000, duty: 0.2 } } as const;
    const setting: OutputSetting = {
      ...{ drive: 'pwm', timer: 'TIM3', mode: 'up', channel: 'CH1', pin: 'PA6', prescaler: 84 },
      ...{ top: 999, compare: 200, begin: 400 },
    };
    // Only TIM3 CH2 comes out on PA7 besides TIM1's opposite output.
    const plan = planOf(own, [
      { id: 'a', name: 'A', ...at, setting, locked: true },
      { id: 'b', name: 'B', pin: 'PA7', ...at },
      { id: 'c', name: 'C', pin: 'PB0', ...at, phase: { to: 'a', degrees: 0 } },
    ]);
    const found = assignPlan({ ...plan, reserved: ['TIM1'] }, own, stepBudget(60));
    const settings = found.feasible ? found.settings.map((one) => one.setting) : [];
    expect(settings.map((one) => ('begin' in one ? one.begin : 0))).toEqual([400, 400, 400]);
  });

  it('tells what the phase is, within one turn', () => {
    const own = part('atmega328p');
    const setting = {
      drive: 'pwm',
      timer: 'TIMER1',
      mode: 'fast-icr',
      prescaler: 1,
      top: 15999,
      compare: 7999,
    } as const;
    const plan = planOf(own, [
      tone('a', { setting: { ...setting, channel: 'OC1A', pin: 'PB1' } }),
      tone('b', {
        setting: { ...setting, channel: 'OC1B', pin: 'PB2' },
        phase: { to: 'a', degrees: 180 },
      }),
    ]);
    const checks = evaluatePlan(plan, own).signals[1]?.outcome?.checks;
    expect(checks?.find(({ property }) => property === 'phase')).toMatchObject({ value: 0, verdict: 'fail' });
  });
});

describe('what assignment cannot do', () => {
  it('keep a signal at a setting that fails its own checks: 1000 Hz locked where 440 Hz are wanted', () => {
    const own = part('atmega328p');
    const wanted = tone('a', { target: { frequencyHz: 440 } });
    const setting = bestSetting(planOf(own, [tone('a')]), own, tone('a'), 'cpu');
    if (!setting) throw new Error('no setting');
    const found = assignPlan(planOf(own, [{ ...wanted, setting, locked: true }]), own, stepBudget(60));
    expect(found.feasible).toBe(false);
    expect(found.conflicts[0]?.reason).toMatch(
      /^A does not pass its own checks, while A stays where it is\.$/,
    );
    expect(assigned(planOf(own, [{ ...wanted, setting }]), own)?.failing).toEqual([]);
  });

  it('names the oscillator where that alone is too far off', () => {
    const own = part('atmega328p');
    const plan = {
      ...planOf(own, [tone('a', { target: { frequencyHz: 1000, toleranceCents: 5 } })]),
      clock: { source: 'rc8', sourceHz: 8e6 },
    };
    const found = assignPlan(plan, own, stepBudget(60));
    expect(found.conflicts).toHaveLength(1);
    // 5 cents: 2^(5/1200) - 1 = 2892 ppm.
    expect(found.conflicts[0]?.reason).toMatch(
      /^A: internal RC oscillator of ±10\s?%, the target allows ±2\s892\sppm\.$/,
    );
  });

  it('says that it ended, and which rules stand against it', () => {
    // Its counters all begin at 0.
    const own = part('mk20dx256');
    const plan = planOf(own, [
      { id: 'a', name: 'A', kind: 'blink', target: { frequencyHz: 500, duty: 0.1 } },
      {
        id: 'b',
        name: 'B',
        kind: 'blink',
        target: { frequencyHz: 500, duty: 0.1 },
        phase: { to: 'a', degrees: 77 },
      },
    ]);
    const found = assignPlan(plan, own, stepBudget(60));
    expect(found.feasible).toBe(false);
    expect(found.ended).toContain('the phase of B');
  });
});

const target = fc.oneof(
  fc
    .record({ frequencyHz: fc.constantFrom(2, 50, 1000), duty: fc.constantFrom(0.1, 0.25, 0.5) })
    .map((one) => ({ kind: 'blink' as const, target: one })),
  fc
    .record({ frequencyHz: fc.constantFrom(440, 1000), duty: fc.constantFrom(0.5, 0.3) })
    .map((one) => ({ kind: 'tone' as const, target: one })),
  fc.constant({ kind: 'dim' as const, target: { minHz: 200, minSteps: 100, duty: 0.4 } }),
  fc.constant({
    kind: 'pulse' as const,
    target: { frameHz: 50, widthS: 0.0015, minWidthS: 0.001, maxWidthS: 0.002 },
  }),
  fc.constant({ kind: 'strobe' as const, target: { rpm: 900, images: 2, duty: 0.05 } }),
  fc.constant({ kind: 'tick' as const, target: { frequencyHz: 1000 } }),
);

const drawn = fc.record({
  part: fc.nat(PARTS.length - 1),
  signals: fc.array(
    fc.record({
      what: target,
      pin: fc.option(fc.nat(200)),
      sequence: fc.option(
        fc.constantFrom(
          { steps: [{ periods: 2 }, { forS: 1, rest: true }] },
          { steps: [{ periods: 3, duty: 0.2, toDuty: 0.6 }], once: true },
        ),
        { freq: 3 },
      ),
      phase: fc.option(fc.constantFrom(0, 90, 180, -90), { freq: 2 }),
      firstEdgeS: fc.option(fc.constantFrom(0.0001, 0.02, 1), { freq: 3 }),
      locked: fc.option(fc.boolean(), { freq: 3 }),
      complement: fc.option(fc.constantFrom(0, 1e-6), { freq: 5 }),
      load: fc.option(fc.constantFrom(...loadKinds().map(({ starter }) => starter)), { freq: 4 }),
      knob: fc.option(
        fc.constantFrom(
          { bits: 10, sets: 'duty', from: 0.1, to: 0.9 },
          { bits: 10, sets: 'frequency', from: 900, to: 1100 },
          { bits: 8, sets: 'period', from: 0.002, to: 0.001, curve: 'logarithmic' },
        ),
        { freq: 5 },
      ),
    }),
    { minLength: 1, maxLength: 3 },
  ),
});

/** A plan that uses any of the keys of a signal; keys that its kind does not allow are left out. */
function drawnPlan({ part: at, signals }: { part: number; signals: readonly unknown[] }): Plan | undefined {
  const own = PARTS[at];
  if (!own) return undefined;
  const opposites = own.timers.flatMap(({ channels }) =>
    channels.flatMap(({ complement = [] }) => complement.map(({ pin }) => pin)),
  );
  const all = (signals as { what: object; [key: string]: unknown }[]).map((one, index) => {
    const steady = (one.what as { kind: string }).kind !== 'tick';
    const pins = own.pins;
    return {
      id: `s${index}`,
      name: `S${index}`,
      ...one.what,
      ...(steady && typeof one['pin'] === 'number' ? { pin: pins[one['pin'] % pins.length]?.id } : {}),
      ...(steady && one['sequence'] ? { sequence: one['sequence'] } : {}),
      ...(steady && one['load'] ? { load: one['load'] } : {}),
      ...(steady && one['knob'] ? { knob: one['knob'] } : {}),
      ...(typeof one['firstEdgeS'] === 'number' ? { firstEdgeS: one['firstEdgeS'] } : {}),
      ...(steady && index > 0 && typeof one['phase'] === 'number'
        ? { phase: { to: 's0', degrees: one['phase'] } }
        : {}),
      ...(steady && opposites.length > 0 && typeof one['complement'] === 'number'
        ? { complement: { pin: opposites[0], deadS: one['complement'] } }
        : {}),
    };
  });
  const read = checkPlan(planOf(own, all as unknown as PlanSignal[]), [own]);
  if (!read.ok) return undefined;
  const { plan } = read.value;
  const held = plan.signals.map((signal, index): PlanSignal => {
    const lock = (signals as { locked?: boolean | null }[])[index]?.locked;
    const setting = typeof lock === 'boolean' ? bestSetting(plan, own, signal, 'cpu') : undefined;
    return setting ? { ...signal, setting, ...(lock ? { locked: true } : {}) } : signal;
  });
  return { ...plan, signals: held };
}

describe('whatever assignment calls feasible', () => {
  it('passes every check of the plan', () => {
    let feasible = 0;
    let tried = 0;
    fc.assert(
      fc.property(drawn, (one) => {
        const plan = drawnPlan(one);
        fc.pre(plan !== undefined);
        tried += 1;
        const found = assigned(plan, part(plan.part));
        if (!found) return;
        feasible += 1;
        expect([found.failing, found.plan]).toEqual([[], found.plan]);
      }),
      { numRuns: RUNS, seed: SEED },
    );
    expect(feasible).toBeGreaterThan(tried / 5);
  });
});

describe('a bridge', () => {
  const bridge = (pin?: string): PlanSignal => ({
    ...{ id: 'bridge', name: 'Bridge', kind: 'pwm', target: { frequencyHz: 10_000, duty: 0.5 } },
    complement: { pin: 'PB13', deadS: 1e-6 },
    ...(pin === undefined ? {} : { pin }),
  });
  const assigned = (signal: PlanSignal) =>
    assignPlan(planOn(part('stm32f401'), signal), part('stm32f401'), stepBudget(1e6));

  it('gets the pin that goes the other way, and never the second output of the same channel', () => {
    expect(assigned(bridge()).settings.map(({ setting }) => setting.pin)).toEqual(['PA8']);
    expect(assigned(bridge('PA7')).feasible).toBe(false);
  });
});
