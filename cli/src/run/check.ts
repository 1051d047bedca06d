import {
  type Check,
  type Comparison,
  compareCapture,
  evaluatePlan,
  type Failure,
  type InterruptRow,
  printPpm,
} from '@herzschlag/core';
import { loadCapture, wireMap } from './capture.ts';
import { junitText } from './junit.ts';
import { writeWhole } from '../files.ts';
import { loadPlan } from '../plan.ts';
import { json, table } from '../table.ts';
import { UsageError } from '../usage-error.ts';

type Row = { signal: string; of: 'computed' | 'captured' } & Omit<Check, 'property'> & { property: string };

/** What `hz check` may be asked for. */
export type CheckOptions = { table?: boolean; capture?: string; as: string[]; junit?: string };

const NOTHING: Omit<Row, 'signal'> = {
  of: 'computed',
  property: 'setting',
  unit: 'count',
  verdict: 'fail',
  note: 'Nothing on the part can make this signal.',
};

function number(value: number | undefined): string {
  return value === undefined ? '' : String(Number(value.toPrecision(9)));
}

function sentenceOf({ value, low, high, note }: Row): string {
  const limits = `${number(low)} to ${number(high)}`;
  return `${value === undefined ? 'unknown' : number(value)}, wanted ${limits}${note ? `: ${note}` : ''}`;
}

function tableText(checks: readonly Row[]): string {
  return table(
    ['signal', 'of', 'property', 'value', 'low', 'high', 'margin', 'verdict'],
    checks.map((one) => [
      one.signal,
      one.of,
      one.label ?? one.property,
      number(one.value),
      number(one.low),
      number(one.high),
      number(one.margin),
      one.verdict,
    ]),
  );
}

function comparisonLines({ sentence, pairs }: Comparison): string[] {
  return [
    sentence,
    ...pairs.flatMap(({ signal, slip, ownPpm = 0 }) =>
      slip ? [`${signal}: ${printPpm(ownPpm)} on its own. ${slip.title} ${slip.text}`] : [],
    ),
  ];
}

/** The deadline of a task of the plan. */
function taskRow({ task, deadline }: InterruptRow): Row[] {
  if (task === undefined || !deadline) return [];
  const { valueS, limitS, verdict, sentence } = deadline;
  const value = valueS === undefined ? {} : { value: valueS, margin: limitS - valueS };
  const note = verdict === 'fail' ? { note: sentence } : {};
  return [
    {
      signal: task,
      of: 'computed',
      property: 'interrupt',
      unit: 's',
      high: limitS,
      ...value,
      verdict,
      ...note,
    },
  ];
}

/** A task without a deadline that keeps the plan from passing: its handler runs for ever. */
function stuckRow({ task, name, text }: Failure): Row[] {
  if (task === undefined) return [];
  const signal = task === '' ? name : task;
  return [{ signal, of: 'computed', property: 'interrupt', unit: 's', verdict: 'fail', note: text }];
}

/**
 * Every check of every signal, of its computed waveform and of a capture where one is given. A signal without a chosen
 * setting is checked with the proposed one; one that nothing can make, and signals in a conflict, fail.
 */
export async function checkCommand(
  file: string,
  options: CheckOptions,
): Promise<{ text: string; fails: boolean }> {
  const { plan, part } = await loadPlan(file);
  const { signals, conflicts, interrupts, failures } = evaluatePlan(plan, part);
  const capture = options.capture === undefined ? undefined : await loadCapture(options.capture);
  if (!capture && options.as.length > 0) throw new UsageError('--as needs a --capture.');
  const comparison = capture && compareCapture(plan, part, capture, wireMap(options.as, capture, plan));
  const notes = capture?.notes ?? [];
  const computed = signals.flatMap(({ signal, outcome }): Row[] =>
    outcome
      ? outcome.checks.map((check) => ({ signal: signal.id, of: 'computed', ...check }))
      : [{ signal: signal.id, ...NOTHING }],
  );
  const captured = (comparison?.pairs ?? []).flatMap(({ signal, checks }) =>
    checks.map((check): Row => ({ signal, of: 'captured', ...check })),
  );
  computed.push(...interrupts.rows.flatMap(taskRow));
  if (interrupts.stuck !== undefined) computed.push(...failures.flatMap(stuckRow));
  const checks = [...computed, ...captured];
  const fails =
    conflicts.length > 0 ||
    computed.some(({ verdict }) => verdict !== 'pass') ||
    captured.some(({ verdict }) => verdict === 'fail');
  if (options.junit !== undefined) {
    const between = conflicts.flatMap((conflict) =>
      conflict.signals.map((signal) => ({
        signal,
        property: 'conflict',
        verdict: 'fail',
        text: conflict.sentence,
      })),
    );
    const held = checks.map((row) => ({
      signal: row.signal,
      property: `${row.of} ${row.label ?? row.property}`,
      verdict: row.verdict,
      text: sentenceOf(row),
    }));
    const cases = [...held, ...between];
    await writeWhole(options.junit, junitText(plan.name, cases));
  }
  if (!options.table) {
    return {
      text: json({ checks, conflicts, ...(comparison ? { capture: { ...comparison, notes } } : {}) }),
      fails,
    };
  }
  const lines = [
    ...conflicts.map(({ sentence }) => sentence),
    ...(comparison ? comparisonLines(comparison) : []),
    ...notes,
  ];
  return { text: [tableText(checks), ...lines].join('\n'), fails };
}
