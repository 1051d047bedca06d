import {
  bestSetting,
  checkedSignal,
  ClockError,
  clockPath,
  clockPhrase,
  clockSettingsFor,
  CodeError,
  decodeForSignal,
  derivationText,
  dutyRange,
  easedSignal,
  fetchTrust,
  editSignal,
  evaluatePlan,
  explainFigures,
  failed,
  planWorkspace,
  planArchive,
  planCode,
  planFault,
  planReport,
  planWaveforms,
  reportHtml,
  reportMarkdown,
  readPinNames,
  readWishes,
  replacedSignal,
  settingsOf,
  signalSurroundings,
  simulatePlan,
  stringWaysOf,
  succeeded,
  textFile,
  type ClockSetting,
  type DutyRange,
  type EditedSignal,
  type Evaluation,
  type EvaluationMemory,
  type Fault,
  type FigureExplanation,
  type InterruptOptions,
  type Part,
  type Plan,
  type Workspace,
  type PlanCode,
  type PlanCodeOptions,
  type PlanSignal,
  type Result,
  type Setting,
  type SignalEdit,
  type SignalEvaluation,
  type SignalWaveform,
  type WishLine,
} from '@herzschlag/core';
import { confirmedOf, factsOf } from '../facts.ts';
import { fileText, soundFile } from '../written-files.ts';

type Simulated = ReturnType<typeof simulatePlan>;

/** What the engine answers about the present plan; what it evaluates is remembered for the next call. */
export const planCalls = (memory: EvaluationMemory) => ({
  /** Everything the views show of a plan. */
  evaluate: (plan: Plan, part: Part): Evaluation => evaluatePlan(plan, part, memory),
  /** What the views show of a plan's part. */
  facts: (_: Plan, part: Part) => factsOf(part),
  /** How far the data of the plan's part is confirmed. */
  partConfirmed: (_: Plan, part: Part) => confirmedOf(part),
  /** What would keep a plan from being opened again once it is stored. */
  planFault: (plan: Plan, part: Part): Fault | undefined => planFault(plan, [part]),
  readPinNames: (_: Plan, part: Part, text: string) => readPinNames(text, part),
  /** One signal of a plan after an edit; undefined where the edit changes nothing, a fault where its plan would not open. */
  edit: (plan: Plan, part: Part, id: string, edit: SignalEdit): Result<EditedSignal | undefined> => {
    const asked = edit.do === 'retarget' ? checkedSignal(edit.signal) : undefined;
    if (asked && !asked.ok) return asked;
    const edited = editSignal(plan, part, id, edit, memory);
    const fault = edited && planFault(replacedSignal(plan, edited.signal), [part]);
    return fault ? { ok: false, fault } : succeeded(edited);
  },
  /** What wishes in plain words become in a plan, a line each. */
  wishes: (plan: Plan, part: Part, text: string): WishLine[] => readWishes(text, plan, part),
  /** The best setting for a signal that is to be added to a plan. */
  place: (plan: Plan, part: Part, signal: PlanSignal): Setting | undefined =>
    bestSetting({ ...plan, signals: [...plan.signals, signal] }, part, signal, 'cpu'),
  /** A new signal of a plan: its tolerances suit the oscillator, its setting is the best one. */
  begin: (plan: Plan, part: Part, signal: PlanSignal): PlanSignal => {
    const own = easedSignal(signal, part, plan.clock).signal;
    const setting = bestSetting({ ...plan, signals: [...plan.signals, own] }, part, own, 'cpu');
    return setting ? { ...own, setting } : own;
  },
  /** How the figures of a signal are calculated. */
  explain: (plan: Plan, part: Part, outcome: SignalEvaluation): FigureExplanation[] =>
    explainFigures(part, clockPath(part, plan.clock), outcome),
  /** All settings for a signal as a landscape, and why others cannot serve it. */
  surroundings: signalSurroundings,
  /** What lines of code really do, compared with a signal. */
  decode: decodeForSignal,
  /** Every pin of the plan from its start on. */
  waveforms: (plan: Plan, part: Part): SignalWaveform[] => planWaveforms(plan, part, memory),
  /** The plan's interrupts simulated, with all that was recorded. */
  interrupts: (plan: Plan, part: Part, options: InterruptOptions): Simulated =>
    simulated(memory, plan, part, options),
  /** As `interrupts`, for long times; tells the share that is done from time to time. */
  simulateLong: (
    plan: Plan,
    part: Part,
    options: InterruptOptions,
    progress: (share: number) => void,
  ): Simulated => {
    const stops = (done: number): boolean => {
      progress(done);
      return false;
    };
    return simulated(memory, plan, part, { ...options, stops });
  },
  /** What interrupts make of the duties of one signal; undefined where timers make them. */
  dutyRange: (plan: Plan, part: Part, id: string): DutyRange | undefined => {
    const path = clockPath(part, plan.clock);
    return dutyRange(plan, part, path, settingsOf(plan, part, path, memory), id);
  },
  /** The ways to send the bits of a string of LEDs, with the processor at so many times the plan's clock. */
  stringWays: stringWaysOf,
  /** The C files of a plan. */
  code: async (plan: Plan, part: Part, options: PlanCodeOptions): Promise<Result<PlanCode>> => {
    const { unverified } = await fetchTrust(part);
    try {
      return succeeded(planCode(plan, part, { ...options, unverified }, memory));
    } catch (error) {
      if (error instanceof CodeError) return failed(error.message);
      throw error;
    }
  },
  /** All that is handed over of a plan: files, registers, and which belongs to which. */
  workspace: async (plan: Plan, part: Part, options: PlanCodeOptions): Promise<Workspace> => {
    const { unverified } = await fetchTrust(part);
    return planWorkspace(plan, part, { ...options, unverified }, memory);
  },
  /** The plan for a review, as the text of a file. */
  report: async (plan: Plan, part: Part, kind: 'html' | 'md'): Promise<string> => {
    const report = planReport(plan, part, await fetchTrust(part), memory);
    return kind === 'html' ? reportHtml(report) : reportMarkdown(report);
  },
  /** Everything of a plan as one archive, with a backup of what the browser keeps of it beside. */
  archive: async (plan: Plan, part: Part, options: PlanCodeOptions, backup: string): Promise<Uint8Array> => {
    const trust = await fetchTrust(part);
    const { unverified } = trust;
    const beside = [textFile('history.backup.json', backup)];
    return planArchive(plan, part, trust, { ...options, unverified }, beside);
  },
  /** How a signal is derived, from the oscillator to the pin, as plain text. */
  derivation: (plan: Plan, _: Part, signal: PlanSignal, outcome: SignalEvaluation): string =>
    derivationText(plan, signal, outcome),
  /** What the pins do from the start on, or the plan's part, as the text of a file. */
  fileText,
  /** One pin as sound; undefined where it has no waveform. */
  sound: soundFile,
  /** The legal clock settings that bring a node nearest to a frequency, or why a setting is not legal. */
  clocks: (
    _: Plan,
    part: Part,
    clock: ClockSetting,
    node: string,
    wantedHz: number,
  ): { setting: ClockSetting; phrase: string; errorPpm: number }[] =>
    clockSettingsFor(part, clock, node, wantedHz).map(({ setting, errorPpm }) => ({
      setting,
      phrase: clockPhrase(clockPath(part, setting), node),
      errorPpm,
    })),
  checkClock: (_: Plan, part: Part, clock: ClockSetting): Result<ClockSetting> => {
    try {
      clockPath(part, clock);
      return succeeded(clock);
    } catch (error) {
      if (error instanceof ClockError) return failed(error.message, error.key);
      throw error;
    }
  },
});

function simulated(memory: EvaluationMemory, plan: Plan, part: Part, options: InterruptOptions): Simulated {
  const path = clockPath(part, plan.clock);
  return simulatePlan(plan, part, path, settingsOf(plan, part, path, memory), options);
}
