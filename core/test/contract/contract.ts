import { assignPlan } from '../../src/resolve/assign-plan.ts';
import { clockPath } from '../../src/clock/path.ts';
import { CodeError } from '../../src/codegen/c-files.ts';
import { decodeText } from '../../src/decode/decode.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan, settingsOf } from '../../src/evaluate/evaluate.ts';
import { EVALUATED, simulatePlan } from '../../src/evaluate/interrupts.ts';
import { signalSurroundings } from '../../src/evaluate/surroundings.ts';
import { planWaveforms } from '../../src/evaluate/waveforms.ts';
import type { Part } from '../../src/part/types.ts';
import { checkPlan, readPlan } from '../../src/plan/check-plan.ts';
import { mergePlans } from '../../src/plan/merge.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { writePlan } from '../../src/plan/write-plan.ts';
import { firstKnob, firstReadings, isHeard, knobQuantities } from '../../src/plan/starters.ts';
import { kindOf } from '../../src/signal/kinds/index.ts';
import { sentenceOf, sentenceText } from '../../src/signal/sentence.ts';
import { driveOf } from '../../src/timer/drives/index.ts';
import type { Setting } from '../../src/timer/setting.ts';
import { planOn } from '../helpers/plan.ts';

/** A plan survives its file: it opens, and is written again to the same bytes. */
function survivesItsFile(plan: Plan, part: Part): void {
  const text = writePlan(plan);
  const read = readPlan(text, [part]);
  expect(read).toMatchObject({ ok: true });
  if (read.ok) {
    expect(writePlan(read.value.plan)).toBe(text);
    expect(read.value.plan.signals).toEqual(plan.signals);
  }
}

/** Two edits of one plan, one to each signal, merge without a clash. */
function merges(plan: Plan): void {
  const base = {
    ...plan,
    signals: [...plan.signals, { ...plan.signals[0], id: 'second', name: 'Second' } as PlanSignal],
  };
  const edited = (at: number): Plan => ({
    ...base,
    signals: base.signals.map((signal, own) => (own === at ? { ...signal, name: `Renamed ${at}` } : signal)),
  });
  const { plan: merged, clashes } = mergePlans(base, edited(0), edited(1));
  expect(clashes).toEqual([]);
  expect(merged.signals.map(({ name }) => name)).toEqual(['Renamed 0', 'Renamed 1']);
}

/** What a view shows of a signal: its sentence, its editors' beginnings, its waveform, its landscape; all of it plain data. */
function isShown(plan: Plan, part: Part): void {
  for (const signal of plan.signals) {
    expect(sentenceText(signal)).toMatch(/^.+\.$/);
    expect(sentenceOf(signal).length).toBeGreaterThan(0);
    const shown = [firstKnob(signal, 100), firstReadings(signal), isHeard(signal), knobQuantities(signal)];
    const around = signalSurroundings(plan, part, signal);
    // What leaves the core passes through a worker unharmed.
    for (const one of [shown, around]) expect(JSON.parse(JSON.stringify(one))).toBeDefined();
    expect(structuredClone(around)).toEqual(around);
  }
  for (const { waveform } of planWaveforms(plan, part)) expect(waveform).toBeDefined();
}

/** The interrupts of a plan can be simulated, whatever makes its signals. */
function isSimulated(plan: Plan, part: Part): void {
  const path = clockPath(part, plan.clock);
  const { report } = simulatePlan(plan, part, path, settingsOf(plan, part, path), {
    ...EVALUATED,
    seconds: 0.01,
  });
  expect(report.rows).toBeDefined();
}

/** The code of a plan that passes is complete, and its registers are read back without a name that is not understood. */
function isHandedOver(plan: Plan, part: Part): void {
  const evaluation = evaluatePlan(plan, part);
  let code;
  try {
    code = planCode(plan, part);
  } catch (error) {
    if (!(error instanceof CodeError)) throw error;
    // A plan that does not pass has no code, and says why.
    expect(
      evaluation.signals.some(({ verdict }) => verdict !== 'pass') || evaluation.conflicts.length > 0,
    ).toBe(true);
    expect(error.message).not.toBe('');
    return;
  }
  expect(code.files.length).toBeGreaterThan(1);
  for (const { text } of code.files) expect(text.length).toBeGreaterThan(100);
  for (const { outcome } of evaluation.signals) {
    const stores = (outcome?.registers ?? []).map(({ name, value }) => `${name} = ${value};`).join('\n');
    if (stores === '') continue;
    const decoded = decodeText(part, clockPath(part, plan.clock), stores);
    if (!decoded.ok) expect(decoded.fault.sentence).not.toMatch(/undefined|NaN|\[object/);
  }
}

/** The paths of all values that are NaN. */
function notNumbers(value: unknown, path = ''): string[] {
  if (typeof value === 'number') return Number.isNaN(value) ? [path] : [];
  if (typeof value !== 'object' || value === null || ArrayBuffer.isView(value)) return [];
  const entries = value instanceof Map ? [...value] : Object.entries(value);
  return entries.flatMap(([key, item]) => notNumbers(item, `${path}.${String(key)}`));
}

/** All that the product does with a plan, in the order of the work. */
export function passesThroughEverything(plan: Plan, part: Part): void {
  survivesItsFile(plan, part);
  merges(plan);
  const evaluation = evaluatePlan(plan, part);
  expect(evaluation.signals).toHaveLength(plan.signals.length);
  expect(notNumbers(evaluation)).toEqual([]);
  isShown(plan, part);
  isSimulated(plan, part);
  isHandedOver(plan, part);
  expect(assignPlan(plan, part)).toBeDefined();
}

/** A plan of one signal of a kind, as its starter has it. */
export function starterPlan(
  part: Part,
  kind: { id: string; name: string; starter: { target: object } },
  pin?: string,
): Plan {
  const signal = {
    id: 'one',
    name: kind.name,
    kind: kind.id,
    ...(pin === undefined ? {} : { pin }),
    target: kind.starter.target,
  } as unknown as PlanSignal;
  return planOn(part, signal);
}

/** A plan with a setting for its first signal, on the pin that the setting has. */
export function withSetting(plan: Plan, setting: Setting): Plan {
  const [first] = plan.signals;
  return {
    ...plan,
    signals: first ? [{ ...first, ...(setting.pin === undefined ? {} : { pin: setting.pin }), setting }] : [],
  };
}

/** A setting of a drive has exactly the fields that its record says, and a plan file that lacks a required one is refused. */
export function hasItsFields(plan: Plan, part: Part, setting: Setting): void {
  const fields = driveOf(setting).fields as Readonly<Record<string, { optional?: true }>>;
  for (const key of Object.keys(setting).filter((one) => one !== 'drive'))
    expect(Object.keys(fields)).toContain(key);
  const required = Object.keys(fields).filter((key) => key !== 'pin' && !fields[key]?.optional);
  for (const key of required) {
    const [signal] = plan.signals;
    const less = Object.fromEntries(Object.entries(setting).filter(([one]) => one !== key));
    const stored = { ...plan, signals: [{ ...signal, setting: less }] };
    expect(checkPlan(JSON.parse(JSON.stringify(stored)), [part])).toMatchObject({
      ok: false,
      fault: { path: `signals[0].setting.${key}` },
    });
  }
}

/** Whether a kind wants a pin. */
export function wantsPin(kind: string): boolean {
  return kindOf({ kind }).on !== 'processor';
}
