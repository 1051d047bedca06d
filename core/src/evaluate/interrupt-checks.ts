import type { Check } from '../check/check.ts';
import { printSeconds } from '../quantity/print.ts';
import type { InterruptReport, InterruptRow } from './interrupts.ts';
import type { PlanSignal } from '../plan/plan.ts';
import type { SequenceStep } from '../signal/sequence.ts';
import type { EdgeSpread, RealEdges } from './real-edges.ts';
import type { SignalEvaluation } from './signal.ts';

/** Periods that must have been simulated before what they really are is judged. */
const JUDGED_PERIODS = 3;

function interruptCheck({ name, deadline }: InterruptRow): Check[] {
  if (!deadline) return [];
  const { valueS, limitS, verdict, sentence } = deadline;
  const base = { property: 'interrupt', unit: 's', label: `wait of ${name}`, high: limitS, verdict } as const;
  return [
    {
      ...base,
      ...(valueS === undefined ? {} : { value: valueS, margin: limitS - valueS }),
      ...(verdict === 'fail' ? { note: sentence } : {}),
    },
  ];
}

/** The frequency of a loop that handlers interrupt: its mean period is longer than its own cycles. */
function stretchedFrequency(check: Check, { periodS, count }: RealEdges): Check {
  const { low, high = Infinity, value: computed, margin } = check;
  if (!periodS || count < 2 * JUDGED_PERIODS || low === undefined || computed === undefined) return check;
  if (margin === undefined || periodS.max * computed < 1 + 1e-9) return check;
  const room = (value: number): number => Math.min(value - low, high - value);
  // The oscillator's tolerance was taken off the margin, and is taken off again.
  const drift = room(computed) - margin;
  const value = 1 / periodS.mean;
  const left = room(value) - drift;
  const note = `Interrupts lengthen the loop: periods of ${printSeconds(periodS.min)} to ${printSeconds(periodS.max)} were simulated.`;
  return {
    property: 'frequency',
    unit: check.unit,
    low,
    ...(check.high === undefined ? {} : { high: check.high }),
    value,
    margin: left,
    verdict: left >= 0 ? 'pass' : 'fail',
    note,
  };
}

/** What a signal is without other interrupts: its jitter, and its period where rests make the mean one longer, or none where its values move. */
type Nominal = { jitterS: number; periodS: number | 'mean' | 'moves' };

/** What is judged of a pulse whose edges interrupts make: the width or duty of the worst that was simulated. */
function realCheck(
  check: Check,
  edges: RealEdges,
  { jitterS: nominalJitterS, periodS: own }: Nominal,
): Check {
  const { periodS, widthS } = edges;
  if (check.property === 'jitter' && check.high !== undefined) {
    const value = Math.max(check.value ?? 0, edges.jitterS);
    const margin = check.high - value;
    return { ...check, value, margin, verdict: margin >= 0 ? 'pass' : 'fail' };
  }
  if (check.property === 'frequency' && edges.stretched) return stretchedFrequency(check, edges);
  const { low, high, value: computed } = check;
  if (!periodS || !widthS || low === undefined || high === undefined || computed === undefined) return check;
  if (check.property !== 'duty' && check.property !== 'width') return check;
  if (check.label !== undefined || edges.count < 2 * JUDGED_PERIODS || own === 'moves') return check;
  const whole = check.property === 'duty' ? (own === 'mean' ? periodS.mean : own) : 1;
  const apart = Math.max(...[widthS.min, widthS.max].map((width) => Math.abs(width - computed * whole)));
  if (apart <= nominalJitterS) return check;
  // A good mean does not hide a pulse that is too short or too long.
  const room = (width: number): number => Math.min(width / whole - low, high - width / whole);
  const worst = room(widthS.min) < room(widthS.max) ? widthS.min : widthS.max;
  const value = worst / whole;
  // The oscillator's tolerance was taken off the margin, and is taken off again.
  const drift = room(computed * whole) - (check.margin ?? room(computed * whole));
  const margin = room(worst) - drift;
  const range = `pulses of ${printSeconds(widthS.min)} to ${printSeconds(widthS.max)}`;
  const note = edges.certain
    ? `Other interrupts can move its edges: ${range} are possible.`
    : `Other interrupts move its edges: ${range} were simulated.`;
  return {
    property: check.property,
    unit: check.unit,
    low,
    high,
    value,
    margin,
    verdict: margin >= 0 ? 'pass' : 'fail',
    ...(check.periods === undefined ? {} : { periods: check.periods }),
    note,
  };
}

/** By how much the waits of an interrupt can differ, in s, by the bound; Infinity where nothing bounds it. */
function waitsApart({ wait }: InterruptRow, entryS: number): number {
  return (wait.boundS ?? Infinity) - Math.max(wait.leastS, entryS);
}

/** The jitter of a signal without edges, a tick: its handler begins as much earlier or later as its waits differ. */
function tickJitter(check: Check, rows: readonly InterruptRow[], entryS: number): Check {
  if (check.property !== 'jitter' || check.high === undefined) return check;
  const value = Math.max(check.value ?? 0, ...rows.map((row) => waitsApart(row, entryS)));
  if (!Number.isFinite(value)) {
    const plain: Check = {
      ...check,
      verdict: 'fail',
      note: 'Nothing bounds how long its interrupt can wait.',
    };
    delete plain.value;
    delete plain.margin;
    return plain;
  }
  const margin = check.high - value;
  return { ...check, value, margin, verdict: margin >= 0 ? 'pass' : 'fail' };
}

/**
 * The edges that are judged: those that were simulated, or where a signal is so slow that there are hardly any, those of its nominal pulses moved by the longest
 * wait that is possible.
 */
function judgedEdges(
  edges: RealEdges,
  own: SignalEvaluation,
  rows: readonly InterruptRow[],
  entryS: number,
): RealEdges {
  if (edges.count >= 2 * JUDGED_PERIODS || edges.stretched) return edges;
  const most = Math.max(edges.jitterS, ...rows.map((row) => waitsApart(row, entryS)));
  const period = 1 / own.frequencyHz;
  const width = own.duty * period;
  if (!Number.isFinite(most) || !Number.isFinite(period) || most >= width) return edges;
  const around = (mean: number): EdgeSpread => ({ min: mean - most, max: mean + most, mean });
  return {
    count: 2 * JUDGED_PERIODS,
    periodS: around(period),
    widthS: around(width),
    jitterS: most,
    lost: edges.lost,
    stretched: false,
    certain: true,
  };
}

/** Whether a step of a sequence has values of its own. */
function moves({ duty, toDuty, widthS, toWidthS, frequencyHz, toHz }: SequenceStep): boolean {
  return [duty, toDuty, widthS, toWidthS, frequencyHz, toHz].some((value) => value !== undefined);
}

/** What is judged of a pulse at another phase of the timers, which the check then says. */
function atOtherPhase(check: Check, edges: RealEdges, nominal: Nominal): Check {
  const judged = realCheck(check, edges, nominal);
  if (judged === check || judged.note === undefined) return judged;
  return {
    ...judged,
    note: `${judged.note} That is at another phase between the timers and tasks, which nothing fixes.`,
  };
}

/** A check, or the first one that fails in its place at another phase. */
function worstOf(check: Check, others: readonly Check[]): Check {
  if (check.verdict === 'fail') return check;
  return others.find(({ verdict }) => verdict === 'fail') ?? check;
}

/**
 * The evaluation of a signal with what its interrupts meet: jitter, widths and duty as simulated, and the wait of each
 * interrupt, where the plan tells of the processor's other work or where the wait is too long.
 */
export function underInterrupts(
  own: SignalEvaluation,
  { id: signal, sequence }: PlanSignal,
  report: InterruptReport,
  told: boolean,
  phases: readonly InterruptReport['edges'][] = [],
): SignalEvaluation {
  const rows = report.rows.filter(({ signals }) => signals.includes(signal));
  if (rows.length === 0 && !report.edges.has(signal)) return own;
  const waits = rows.flatMap(interruptCheck).filter(({ verdict }) => told || verdict === 'fail');
  const simulated = report.edges.get(signal);
  const edges = simulated && judgedEdges(simulated, own, rows, report.entryS);
  if (!edges) {
    const checks = own.checks.map((check) => tickJitter(check, rows, report.entryS));
    return { ...own, checks: [...checks, ...waits] };
  }
  const nominal: Nominal = {
    jitterS: own.jitterS,
    periodS: !sequence ? 'mean' : sequence.steps.some(moves) ? 'moves' : 1 / own.frequencyHz,
  };
  const checks = own.checks.map((check) => {
    const first = realCheck(check, edges, nominal);
    const others = phases.flatMap((one) => {
      const made = one.get(signal);
      return made ? [atOtherPhase(check, made, nominal)] : [];
    });
    return worstOf(first, others);
  });
  return { ...own, jitterS: Math.max(own.jitterS, edges.jitterS), checks: [...checks, ...waits] };
}

/** A task of the plan, or a handler that never ends, that keeps the plan from passing. */
export function taskFailures({
  rows,
  stuck,
}: InterruptReport): { task: string; name: string; text: string; atS?: number }[] {
  const failing = rows.flatMap(({ task, name, deadline }) =>
    task !== undefined && deadline?.verdict === 'fail'
      ? [
          {
            task,
            name,
            text: deadline.sentence,
            ...(deadline.atS === undefined ? {} : { atS: deadline.atS }),
          },
        ]
      : [],
  );
  if (stuck === undefined) return failing;
  const text = 'Its flag is never cleared: its handler runs again and again, and nothing else does.';
  const task = rows.find(({ name }) => name === stuck)?.task ?? '';
  return [{ task, name: stuck, text }, ...failing.filter(({ name }) => name !== stuck)];
}
