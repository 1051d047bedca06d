import type { Check, Verdict } from '../check/check.ts';
import { clockOf, clockPath, clockPhrase, type ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { printHz } from '../quantity/print.ts';
import { clockSetUpWrites, laterWrites } from '../timer/clock-set-up.ts';
import { registersOf, settingRegisters, settingWrites } from '../timer/encode.ts';
import type { RegisterWrite } from '../timer/fields.ts';
import { mergeWrites } from '../timer/merge.ts';
import type { Setting } from '../timer/setting.ts';
import { chooseSettings, proposedSetting } from './choose.ts';
import { conflictsBetween, type Conflict, type Holder } from './conflicts.ts';
import { taskFailures, underInterrupts } from './interrupt-checks.ts';
import { EVALUATED, otherPhases, simulatePlan, type InterruptReport } from './interrupts.ts';
import { evaluateSetting, type SignalEvaluation } from './signal.ts';
import { evaluationMemory, type EvaluationMemory } from './memory.ts';
import { priorityWrites } from './priorities.ts';
import { planProgram, type PlanProgram } from './program.ts';
import { startOf } from './start.ts';
import { phaseChecks } from './timing-checks.ts';

/** A signal of a plan with what its setting gives; without an outcome where nothing can make it. */
export type EvaluatedSignal = {
  signal: PlanSignal;
  outcome?: SignalEvaluation;
  /** Whether the setting is only proposed: the plan has none for this signal. */
  proposed: boolean;
  /** Places in the list of conflicts that this signal is part of. */
  conflicts: number[];
  /** Over all checks; what a computed waveform does not show, a conflict, and a signal that nothing can make fail. */
  verdict: 'pass' | 'fail';
};

/**
 * Something that keeps a plan from passing, for a list of what fails: of a signal, or of a task of the processor. Where
 * interrupts are the reason, `atS` is the simulated moment in s at which it was seen.
 */
export type Failure = {
  signal?: string;
  task?: string;
  name: string;
  text: string;
  interrupts?: boolean;
  atS?: number;
};

/** A plan as a whole: everything that a view, a command, the code or a comparison with a capture shows of it. */
export type Evaluation = {
  signals: EvaluatedSignal[];
  conflicts: (Conflict & { sentence: string })[];
  /** How many checks and deadlines of tasks pass, of how many; a check of a signal in a conflict does not pass. */
  passing: number;
  total: number;
  failures: Failure[];
  /** The way from the oscillator to the processor, and what each group of timers runs at. */
  clock: string;
  clockLine: string;
  /** Who waits for whom among its interrupts. */
  interrupts: InterruptReport;
  /** All registers of the plan once each; empty while two signals want different values in one place. */
  registers: RegisterWrite[];
};

/** Over several checks: one that fails outweighs one that is unknown, which outweighs those that pass. */
export function worstVerdict(verdicts: readonly Verdict[]): Verdict {
  if (verdicts.length === 0 || verdicts.includes('fail')) return 'fail';
  return verdicts.includes('unknown') ? 'unknown' : 'pass';
}

const SAID: Record<Verdict, string> = { pass: 'passes', fail: 'fails', unknown: 'is unknown' };

function clockLine(part: Part, path: ClockPath): string {
  const groups = new Map<string, string[]>();
  for (const timer of part.timers) {
    if (timer.variantOf === undefined && path.clocks.has(timer.clock))
      groups.set(timer.clock, [...(groups.get(timer.clock) ?? []), timer.name]);
  }
  const words = [...groups].map(([node, [first = '', ...more]]) => {
    const others = more.length > 0 ? ` and ${more.length} more` : '';
    return `${first}${others} ${printHz(clockOf(path, node).valueOf())}`;
  });
  return [clockPhrase(path, part.cpu.clock), ...words].join(' → ');
}

function mergedRegisters(part: Part, path: ClockPath, holders: readonly Holder[]): RegisterWrite[] {
  const starts = holders.map((holder) => startOf(part, path, holder, holders));
  const settings = starts.map(({ setting }) => setting);
  const users = settings.map((setting) => ({ name: '', writes: settingWrites(part, setting) }));
  const { writes, conflicts } = mergeWrites(users);
  if (conflicts.length > 0) return [];
  const clock = clockSetUpWrites(part, path, settings);
  const order = settings.flatMap((setting) => settingRegisters(part, setting, clock).map(({ name }) => name));
  return registersOf(
    part,
    laterWrites([
      ...clock,
      ...writes,
      ...starts.flatMap(({ counting }) => counting),
      ...priorityWrites(part, path, holders),
    ]),
    [...new Set(order)],
  );
}

/** What a check that does not pass says: its name and its reason; what the code leaves out is a sentence of its own. */
export function failureText({ property, label, verdict, note }: Check): string {
  if (property === 'delivered' && note !== undefined) return note;
  return `${label ?? property} ${SAID[verdict]}${note === undefined ? '' : `: ${note}`}`;
}

function failuresOf(
  signals: readonly EvaluatedSignal[],
  conflicts: Evaluation['conflicts'],
  interrupts: InterruptReport,
): Failure[] {
  const seenAt = (id: string): number | undefined =>
    interrupts.rows.find(({ signals: ids, deadline }) => ids.includes(id) && deadline?.atS !== undefined)
      ?.deadline?.atS;
  const ofSignals = signals.flatMap(({ signal: { id, name }, outcome, conflicts: own }): Failure[] => {
    const failing = (outcome?.checks ?? []).filter(({ verdict }) => verdict !== 'pass');
    const atS = seenAt(id);
    return [
      ...(outcome ? [] : [{ signal: id, name, text: 'cannot be made on this part as it is set' }]),
      ...failing.map((check): Failure => {
        const failure = { signal: id, name, text: failureText(check) };
        if (check.property !== 'interrupt') return failure;
        return { ...failure, interrupts: true, ...(atS === undefined ? {} : { atS }) };
      }),
      ...own.map((at) => ({ signal: id, name, text: conflicts[at]?.sentence ?? '' })),
    ];
  });
  return [...ofSignals, ...taskFailures(interrupts).map((one) => ({ ...one, interrupts: true }))];
}

/** All of a signal that its evaluation depends on: not its name. */
function keyOf(clock: Plan['clock'], signal: PlanSignal, rest: unknown): string {
  return JSON.stringify([clock, { ...signal, name: '' }, rest]);
}

/** All that the simulation of a plan's interrupts depends on. */
function keyOfInterrupts({ clock, cpu, signals }: Plan, settings: ReadonlyMap<string, Setting>): string {
  const own = signals.map((signal) => [{ ...signal, setting: settings.get(signal.id) }]);
  return JSON.stringify([clock, cpu, own]);
}

/** The setting of each signal of a plan that has one, chosen or proposed. */
export function settingsOf(
  plan: Plan,
  part: Part,
  path: ClockPath,
  memory: EvaluationMemory = evaluationMemory(),
): Map<string, Setting> {
  const { proposal } = memory.of(part);
  const chosen = chooseSettings(plan, part, path, (...asked) =>
    proposal(keyOf(plan.clock, asked[2], asked[3]), () => proposedSetting(...asked)),
  );
  return new Map([...chosen].flatMap(([id, setting]) => (setting ? [[id, setting] as const] : [])));
}

/** What is evaluated, and what is known of it so far. */
type Given = {
  plan: Plan;
  part: Part;
  path: ClockPath;
  settings: ReadonlyMap<string, Setting>;
  interrupts: InterruptReport;
  phases: readonly InterruptReport['edges'][];
  program: PlanProgram;
};

/** What the program leaves out of a signal, as checks that fail. */
function deliveredChecks({ leftOut }: PlanProgram, { id, name }: PlanSignal): Check[] {
  return leftOut
    .filter(({ signal }) => signal === id)
    .map(({ text }) => ({
      property: 'delivered',
      unit: 'count',
      label: 'in the code',
      verdict: 'fail',
      // Whose it is stands beside it.
      note: `Not in the code: ${text.slice(`${name}: `.length)}`,
    }));
}

/** What the setting of a signal gives under the plan's interrupts and beside the signal that its phase is told from. */
function outcomeOf(
  { plan, part, path, settings, interrupts, phases, program }: Given,
  signal: PlanSignal,
  { evaluation }: ReturnType<EvaluationMemory['of']>,
): SignalEvaluation | undefined {
  const setting = settings.get(signal.id);
  if (!setting) return undefined;
  const alone = evaluation(keyOf(plan.clock, signal, setting), () =>
    evaluateSetting(part, path, signal, setting),
  );
  const own = underInterrupts(alone, signal, interrupts, plan.cpu !== undefined, phases);
  const other = plan.signals.find(({ id }) => id === signal.phase?.to);
  const placed = other && settings.get(other.id);
  const to = other && placed ? { signal: other, setting: placed } : undefined;
  const phase: Check[] = phaseChecks(part, path, { signal, setting }, to);
  const more = [...phase, ...deliveredChecks(program, signal)];
  return more.length === 0 ? own : { ...own, checks: [...own.checks, ...more] };
}

function evaluatedSignal(
  signal: PlanSignal,
  outcome: SignalEvaluation | undefined,
  conflicts: readonly Conflict[],
): EvaluatedSignal {
  const own = conflicts.flatMap(({ signals: ids }, at) => (ids.includes(signal.id) ? [at] : []));
  const worst = worstVerdict(outcome?.checks.map(({ verdict }) => verdict) ?? []);
  return {
    signal,
    ...(outcome ? { outcome } : {}),
    proposed: signal.setting === undefined,
    conflicts: own,
    verdict: own.length === 0 && worst === 'pass' ? 'pass' : 'fail',
  };
}

/** How many checks and deadlines pass, of how many. A signal that nothing can make counts as one that does not. */
function passingOf(
  signals: readonly EvaluatedSignal[],
  interrupts: InterruptReport,
): Pick<Evaluation, 'passing' | 'total'> {
  const late = new Set(taskFailures(interrupts).map(({ task }) => task));
  const tasks = interrupts.rows.flatMap(({ task, deadline }) =>
    task !== undefined && (deadline || late.has(task)) ? [task] : [],
  );
  const checks = signals.flatMap(({ outcome, conflicts }) =>
    (outcome?.checks ?? []).map(({ verdict }) => verdict === 'pass' && conflicts.length === 0),
  );
  const unmade = signals.filter(({ outcome }) => !outcome).length;
  return {
    passing: checks.filter(Boolean).length + tasks.filter((task) => !late.has(task)).length,
    total: checks.length + unmade + tasks.length,
  };
}

/**
 * Evaluates a plan on its part. The only place that decides which setting a signal without one has, brings its checks
 * together and lays its registers over each other. With a `memory` an edit computes only what depends on it.
 */
export function evaluatePlan(
  plan: Plan,
  part: Part,
  memory: EvaluationMemory = evaluationMemory(),
): Evaluation {
  const path = clockPath(part, plan.clock);
  const known = memory.of(part);
  const settings = settingsOf(plan, part, path, memory);
  const key = keyOfInterrupts(plan, settings);
  const program = known.program(key, () => planProgram(plan, part, path, settings));
  const { report: interrupts, phases } = known.interrupts(key, () => {
    const { report } = simulatePlan(plan, part, path, settings, EVALUATED, program);
    return { report, phases: otherPhases(plan, part, path, settings, program, report) };
  });
  const given = { plan, part, path, settings, interrupts, phases, program };
  const holders = plan.signals.flatMap((signal) => {
    const setting = settings.get(signal.id);
    return setting ? [{ signal, setting }] : [];
  });
  const conflicts = conflictsBetween(part, plan, holders).map((one) => ({
    ...one,
    sentence: `${one.title} ${one.text}`,
  }));
  const signals = plan.signals.map((signal) =>
    evaluatedSignal(signal, outcomeOf(given, signal, known), conflicts),
  );
  return {
    signals,
    conflicts,
    ...passingOf(signals, interrupts),
    failures: failuresOf(signals, conflicts, interrupts),
    interrupts,
    clock: clockPhrase(path, part.cpu.clock),
    clockLine: clockLine(part, path),
    registers: conflicts.length > 0 ? [] : mergedRegisters(part, path, holders),
  };
}
