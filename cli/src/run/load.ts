import {
  clockPath,
  deviations,
  evaluatePlan,
  type EvaluatedSignal,
  type Knob,
  knobReport,
  knobText,
  type KnobReport,
  type Part,
  type Plan,
  printPercent,
  seenAt,
  seenText,
  setText,
  settingAtReading,
} from '@herzschlag/core';
import { loadPlan } from '../plan.ts';
import { json } from '../table.ts';
import { UsageError } from '../usage-error.ts';

/** What `hz load` may be asked for. */
export type LoadOptions = { table?: boolean; signal?: string; knob?: number };

type Motion = NonNullable<EvaluatedSignal['outcome']>;

/** A knob's report without its curve, which has thousands of values. */
function briefly(report: KnobReport): object {
  const curve = new Set(['readings', 'wanted', 'made']);
  return Object.fromEntries(Object.entries(report).filter(([key]) => !curve.has(key)));
}

function readingsOf(
  { signal: { readings } }: EvaluatedSignal,
  { frequencyHz, duty }: Motion,
): object | undefined {
  if (!readings) return undefined;
  const { of } = readings;
  const set = of === 'duty' ? duty : of === 'width' ? duty / frequencyHz : frequencyHz;
  return {
    set: setText(of, set),
    seen: seenText(readings, seenAt(readings, set)),
    offTheLine: readings.points.length > 2 ? deviations(readings).greatest : 0,
  };
}

/** What a knob does at one of its readings. */
function turned(part: Part, plan: Plan, own: EvaluatedSignal, knob: Knob, reading: number): object {
  const { signal, outcome } = own;
  if (!outcome) return { reading };
  if (reading >= 2 ** knob.bits) {
    throw new UsageError(
      `A reading of ${knob.bits} bits is at most ${2 ** knob.bits - 1}; ${reading} is more.`,
    );
  }
  const made = settingAtReading(part, clockPath(part, plan.clock), signal, knob, outcome.setting, reading);
  return made.ok ? { reading, setting: made.value } : { reading, fault: made.fault.sentence };
}

function knobOf(part: Part, plan: Plan, own: EvaluatedSignal, at: number | undefined): object | undefined {
  const { signal, outcome } = own;
  if (!signal.knob || !outcome) return undefined;
  const report = knobReport(part, clockPath(part, plan.clock), signal, signal.knob, outcome.setting);
  if (!report.ok) return { fault: report.fault.sentence };
  const at01 = at === undefined ? {} : { at: turned(part, plan, own, signal.knob, at) };
  return { sets: signal.knob.sets, ...briefly(report.value), ...at01 };
}

function linesOf(part: Part, plan: Plan, own: EvaluatedSignal): string[] {
  const { signal, outcome } = own;
  if (!outcome) return [];
  const { load } = outcome;
  const readings = readingsOf(own, outcome) as { set: string; seen: string } | undefined;
  const { knob } = signal;
  const report = knob && knobReport(part, clockPath(part, plan.clock), signal, knob, outcome.setting);
  if (!load && !readings && !knob) return [];
  return [
    signal.name,
    ...(load ? [`  ${load.headline}${load.aside === undefined ? '' : `, ${load.aside}`}`] : []),
    ...(load?.facts.map(({ label, text }) => `  ${label}: ${text}`) ?? []),
    ...(load?.advice.map((text) => `  ${text}`) ?? []),
    ...(readings ? [`  readings: ${readings.set} is ${readings.seen}`] : []),
    ...(knob && report
      ? [
          `  knob: ${knobText(knob.sets, knob.from)} to ${knobText(knob.sets, knob.to)}. ${report.ok ? `${report.value.sentence} ${report.value.outputs} different outputs, the coarsest step ${printPercent(report.value.coarsest.share, 3)}.` : report.fault.sentence}`,
        ]
      : []),
    '',
  ];
}

/** What hangs on the pins of a plan: its loads, readings and knobs. Fails where a limit of them does. */
export async function loadCommand(
  file: string,
  { table = false, signal: wanted, knob }: LoadOptions,
): Promise<{ text: string; fails: boolean }> {
  const { plan, part } = await loadPlan(file);
  const all = evaluatePlan(plan, part).signals;
  const own =
    wanted === undefined ? all : all.filter(({ signal }) => signal.id === wanted || signal.name === wanted);
  if (own.length === 0) throw new UsageError(`The plan has no signal “${wanted ?? ''}”.`);
  const fails = own.some(({ outcome }) =>
    outcome?.checks.some(({ property, verdict }) => property === 'load' && verdict !== 'pass'),
  );
  if (table) {
    const lines = own.flatMap((one) => linesOf(part, plan, one));
    return {
      text: lines.length === 0 ? 'No signal tells a load, readings or a knob.' : lines.join('\n').trimEnd(),
      fails,
    };
  }
  const rows = own.flatMap((one) => {
    const { signal, outcome } = one;
    const [readings, turn] = [outcome && readingsOf(one, outcome), knobOf(part, plan, one, knob)];
    return outcome?.load || readings || turn
      ? [{ signal: signal.id, load: outcome?.load, readings, knob: turn }]
      : [];
  });
  return { text: json(rows), fails };
}
