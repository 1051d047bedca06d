import type { Check } from '../check/check.ts';
import { printSeconds } from '../quantity/print.ts';
import type { InterruptReport, InterruptRow } from './interrupts.ts';
import type { RealEdges } from './real-edges.ts';
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

/** What is judged of a pulse whose edges interrupts make: its mean width or duty as it was simulated. */
function realCheck(check: Check, edges: RealEdges, nominalJitterS: number): Check {
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
  if (check.label !== undefined || edges.count < 2 * JUDGED_PERIODS) return check;
  const value = check.property === 'duty' ? widthS.mean / periodS.mean : widthS.mean;
  const apart = Math.abs(value - computed) * (check.property === 'duty' ? periodS.mean : 1);
  if (apart <= nominalJitterS) return check;
  const margin = Math.min(value - low, high - value);
  const note = `Other interrupts move its edges: pulses of ${printSeconds(widthS.min)} to ${printSeconds(widthS.max)} were simulated.`;
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

/**
 * The evaluation of a signal with what its interrupts meet: jitter, widths and duty as simulated, and the wait of each
 * interrupt, where the plan tells of the processor's other work or where the wait is too long.
 */
export function underInterrupts(
  own: SignalEvaluation,
  signal: string,
  report: InterruptReport,
  told: boolean,
): SignalEvaluation {
  const rows = report.rows.filter(({ signals }) => signals.includes(signal));
  if (rows.length === 0 && !report.edges.has(signal)) return own;
  const waits = rows.flatMap(interruptCheck).filter(({ verdict }) => told || verdict === 'fail');
  const edges = report.edges.get(signal);
  if (!edges) return waits.length === 0 ? own : { ...own, checks: [...own.checks, ...waits] };
  const checks = own.checks.map((check) => realCheck(check, edges, own.jitterS));
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
