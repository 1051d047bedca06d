import type { Check, Verdict } from '../check/check.ts';
import { evaluatePlan, type EvaluatedSignal, type Evaluation } from '../evaluate/evaluate.ts';
import type { Part } from '../part/types.ts';
import { pinName } from '../plan/pin-names.ts';
import type { Plan } from '../plan/plan.ts';
import { hex } from '../quantity/print.ts';
import { sentenceText } from '../signal/sentence.ts';
import { phaseText, sequenceText } from '../signal/sequence-text.ts';
import { firstEdgeText, oppositeText } from '../signal/timing-text.ts';
import { planChange, type FileChange, type PlanChange } from './change.ts';

/** A text before and after; one of them is absent where the thing is new or gone. */
type Was = { before?: string; after?: string };

/** What becomes of a signal: its target in words, and where and how it is made. */
type SignalDiff = { signal: string; name: string; target?: Was; setting?: Was };

/** What becomes of a check; `worse` where it passed before and does not now. */
type CheckDiff = { signal: string; check: string; before?: Verdict; after?: Verdict; worse: boolean };

/** What is different between two plans. */
export type PlanDiff = {
  /** Name, part and clock, where they differ. */
  plan: { what: string; before: string; after: string }[];
  signals: SignalDiff[];
  registers: (Was & { register: string })[];
  code: FileChange[];
  noCode?: NonNullable<PlanChange['noCode']>;
  checks: CheckDiff[];
  /** How many checks pass of how many, before and after, and whether any check or conflict got worse. */
  passing: { before: string; after: string };
  worse: boolean;
};

/** A plan with its part. */
export type PlanOnPart = { plan: Plan; part: Part };

type Row = EvaluatedSignal | undefined;

/** The target of a signal with its rules, in words. */
function targetText(row: Row, plan: Plan): string | undefined {
  if (!row) return undefined;
  const { signal } = row;
  const nameOf = (id: string): string => plan.signals.find((one) => one.id === id)?.name ?? id;
  return [
    sentenceText(signal, (pin) => pinName(plan, pin)),
    ...(signal.sequence ? [`Sequence: ${sequenceText(signal.sequence)}.`] : []),
    ...(signal.phase ? [`Phase: ${phaseText(signal.phase, nameOf)}.`] : []),
    ...(signal.complement ? [`Opposite: ${oppositeText(signal.complement)}.`] : []),
    ...(signal.firstEdgeS === undefined ? [] : [`First edge: ${firstEdgeText(signal.firstEdgeS)}.`]),
  ].join(' ');
}

/** Where and how a signal is made, with its numbers. */
function settingText(row: Row): string | undefined {
  const outcome = row?.outcome;
  if (!outcome) return undefined;
  const numbers = outcome.ladder.flatMap(({ label, value }) =>
    value === undefined ? [] : [`${label} ${value}`],
  );
  return [outcome.place.text, ...numbers].join(', ');
}

function changed(before: string | undefined, after: string | undefined): Was | undefined {
  if (before === after) return undefined;
  return { ...(before === undefined ? {} : { before }), ...(after === undefined ? {} : { after }) };
}

/** Ids of two lists, in the order of the later one, those that are gone at the end. */
function ids(before: readonly string[], after: readonly string[]): string[] {
  return [...new Set([...after, ...before])];
}

function rowsOf({ signals }: Evaluation): Map<string, EvaluatedSignal> {
  return new Map(signals.map((row) => [row.signal.id, row]));
}

/** The checks of a signal by their names; of several of one name the worst. A signal in a conflict passes none. */
function checksOf(row: Row): Map<string, Verdict> {
  const found = new Map<string, Verdict>();
  const worst = (one: Verdict | undefined, other: Verdict): Verdict =>
    one === 'fail' || other === 'fail' ? 'fail' : one === 'unknown' ? one : other;
  const name = ({ label, property }: Check): string => label ?? property;
  for (const check of row?.outcome?.checks ?? []) {
    const own = row && row.conflicts.length > 0 ? 'fail' : check.verdict;
    found.set(name(check), worst(found.get(name(check)), own));
  }
  if (row && !row.outcome) found.set('setting', 'fail');
  return found;
}

function checkDiffs(before: Row, after: Row, signal: string): CheckDiff[] {
  const [was, is] = [checksOf(before), checksOf(after)];
  return ids([...was.keys()], [...is.keys()]).flatMap((check): CheckDiff[] => {
    const [one, other] = [was.get(check), is.get(check)];
    if (one === other) return [];
    // A new check that fails is worse, too; one that goes with its signal is not.
    const worse = other !== undefined && other !== 'pass' && (one === undefined || one === 'pass');
    return [
      {
        signal,
        check,
        ...(one === undefined ? {} : { before: one }),
        ...(other === undefined ? {} : { after: other }),
        worse,
      },
    ];
  });
}

function registerDiffs(before: Evaluation, after: Evaluation): PlanDiff['registers'] {
  const texts = ({ registers }: Evaluation) =>
    new Map(registers.map(({ name, value, width }) => [name, hex(value, width)]));
  const [was, is] = [texts(before), texts(after)];
  return ids([...was.keys()], [...is.keys()]).flatMap((register) => {
    const own = changed(was.get(register), is.get(register));
    return own ? [{ register, ...own }] : [];
  });
}

/**
 * What is different from one plan to another: targets, settings, registers, code line by line, and checks. Signals are the same
 * where their ids are.
 */
export function planDiff(one: PlanOnPart, other: PlanOnPart): PlanDiff {
  const [was, is] = [evaluatePlan(one.plan, one.part), evaluatePlan(other.plan, other.part)];
  const [old, next] = [rowsOf(was), rowsOf(is)];
  const all = ids([...old.keys()], [...next.keys()]);
  const facts = [
    { what: 'name', before: one.plan.name, after: other.plan.name },
    { what: 'part', before: one.part.name, after: other.part.name },
    { what: 'clock', before: was.clockLine, after: is.clockLine },
  ];
  const signals = all.flatMap((signal): SignalDiff[] => {
    const [before, after] = [old.get(signal), next.get(signal)];
    const target = changed(targetText(before, one.plan), targetText(after, other.plan));
    const setting = changed(settingText(before), settingText(after));
    if (!target && !setting) return [];
    const name = (after ?? before)?.signal.name ?? signal;
    return [{ signal, name, ...(target ? { target } : {}), ...(setting ? { setting } : {}) }];
  });
  const checks = all.flatMap((signal) => checkDiffs(old.get(signal), next.get(signal), signal));
  const { code, noCode } = planChange(one.plan, one.part, other.plan, other.part);
  return {
    plan: facts.filter(({ before, after }) => before !== after),
    signals,
    registers: registerDiffs(was, is),
    code,
    ...(noCode ? { noCode } : {}),
    checks,
    passing: { before: `${was.passing} of ${was.total}`, after: `${is.passing} of ${is.total}` },
    worse: checks.some(({ worse }) => worse) || is.conflicts.length > was.conflicts.length,
  };
}
