import { expose } from 'comlink';
import {
  assignPlan,
  bestSetting,
  CaptureError,
  checkPlan,
  checkedSignal,
  ClockError,
  clockPath,
  clockPhrase,
  clockSettingsFor,
  clocksOf,
  CodeError,
  compareCapture,
  decodeForSignal,
  dutyRange,
  evaluatePlan,
  explainFigures,
  failed,
  fetchPart,
  fetchParts,
  fixesFor,
  fixesForInfeasible,
  needsIn,
  partsNamedIn,
  planChange,
  planCode,
  planFault,
  planOn,
  planWaveforms,
  readCapture,
  readPart,
  readPinNames,
  readPlan,
  readWishes,
  replacedSignal,
  searchClocks,
  settingsOf,
  shareTick,
  simulatePlan,
  signalsOfNeeds,
  signalSurroundings,
  slowSharers,
  stringWaysOf,
  succeeded,
  thresholded,
  tickSharers,
  tryPart,
  type Capture,
  type ClockSetting,
  type Comparison,
  type DecodedForSignal,
  type DutyRange,
  type Evaluation,
  type Fault,
  type FigureExplanation,
  type Fix,
  type Infeasibility,
  type LedString,
  type StringWay,
  type InterruptOptions,
  type Part,
  type PartTrial,
  type PinNames,
  type Plan,
  type PlanAssignment,
  type PlanChange,
  type PlanCode,
  type PlanCodeOptions,
  type PlanSignal,
  type Result,
  type Setting,
  type SignalEvaluation,
  type SignalWaveform,
  type Surroundings,
  type Threshold,
  type TickProposal,
  type TriedFix,
  type WishLine,
  type WireMap,
  editSignal,
  stepBudget,
  type EditedSignal,
  type SignalEdit,
} from '@herzschlag/core';
import { factsOf, type PartFacts } from './facts.ts';
import { loadCalls } from './load-calls.ts';
import { outlineOf, type Outline } from './outline.ts';
import { emptyPlan } from '../state/empty.ts';
import { fileText, soundFile, type FileKind } from './written-files.ts';

/** A plan by the key under which the engine holds it, so that it is copied once and not with each call. */
export type PlanKey = number;

const plans = new Map<PlanKey, Promise<{ plan: Plan; part: Part }>>();

async function partOf(plan: Plan): Promise<Part> {
  const part = plan.ownPart?.id === plan.part ? plan.ownPart : await fetchPart(plan.part);
  if (!part) throw new RangeError(`no part “${plan.part}” is known`);
  return part;
}

function held(key: PlanKey): Promise<{ plan: Plan; part: Part }> {
  const found = plans.get(key);
  return found ?? Promise.reject(new RangeError(`the engine holds no plan ${key}`));
}

/** A plan from outside: the text of a file, or what the browser stored. */
export type Source = { kind: 'plan'; text: string } | { kind: 'stored plan'; value: unknown };

/** Steps that the search for one fix may take: few for a conflict between settings, more where nothing fits. */
const FIX_STEPS = { conflict: 40, infeasible: 60 };

/** Bytes of a file that are read at once. */
const PIECE = 1 << 21;

async function* piecesOf(file: File): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < file.size; at += PIECE) {
    yield new Uint8Array(await file.slice(at, at + PIECE).arrayBuffer());
  }
}

let capture: { key: string; capture: Capture } | undefined;

const api = {
  /** Holds a plan under a key for the calls that follow, which need not wait for it. */
  hold: (key: PlanKey, plan: Plan): void => {
    const found = partOf(plan).then((part) => ({ plan, part }));
    plans.set(key, found);
    // A plan without its part is told by the calls that ask for it.
    found.catch(() => undefined);
  },
  /** Drops a plan; calls that came before still have it. */
  release: (key: PlanKey): void => {
    plans.delete(key);
  },
  /** Every part that comes with the product. */
  parts: async (): Promise<PartFacts[]> => Promise.all((await fetchParts()).map(factsOf)),
  /** Reads a plan from outside. */
  readPlan: async (source: Source): Promise<Result<Plan>> => {
    const text = source.kind === 'plan' ? source.text : JSON.stringify(source.value);
    const parts = await partsNamedIn(text);
    const read = source.kind === 'plan' ? readPlan(text, parts) : checkPlan(source.value, parts);
    return read.ok ? succeeded(read.value.plan) : read;
  },
  /** What would keep a plan from being opened again once it is stored. */
  planFault: async (key: PlanKey): Promise<Fault | undefined> => {
    const { plan, part } = await held(key);
    return planFault(plan, [part]);
  },
  readPart: (text: string): Result<Part> => readPart(text),
  readPinNames: async (key: PlanKey, text: string): Promise<Result<PinNames>> =>
    readPinNames(text, (await held(key)).part),
  /** Everything the views show of a plan. */
  evaluate: async (key: PlanKey): Promise<Evaluation> => {
    const { plan, part } = await held(key);
    return evaluatePlan(plan, part);
  },
  /** What the views show of a plan's part. */
  facts: async (key: PlanKey): Promise<PartFacts> => factsOf((await held(key)).part),
  /** One signal of a plan after an edit; undefined where the edit changes nothing, a fault where its plan would not open. */
  edit: async (key: PlanKey, id: string, edit: SignalEdit): Promise<Result<EditedSignal | undefined>> => {
    const { plan, part } = await held(key);
    const asked = edit.do === 'retarget' ? checkedSignal(edit.signal) : undefined;
    if (asked && !asked.ok) return asked;
    const edited = editSignal(plan, part, id, edit);
    const fault = edited && planFault(replacedSignal(plan, edited.signal), [part]);
    return fault ? { ok: false, fault } : succeeded(edited);
  },
  /** What wishes in plain words become in a plan, a line each. */
  wishes: async (key: PlanKey, text: string): Promise<WishLine[]> => {
    const { plan, part } = await held(key);
    return readWishes(text, plan, part);
  },
  /** The signals of a list such as “four servos and a tone”; undefined where the text is none. */
  needs: (text: string): PlanSignal[] | undefined => {
    const needs = needsIn(text);
    return needs && signalsOfNeeds(needs);
  },
  /** Whether a part can do all signals of a list at once, under its usual clock. */
  tryNeeds: async (
    signals: readonly PlanSignal[],
    id: string,
    steps: number,
  ): Promise<PartTrial | undefined> => {
    const part = await fetchPart(id);
    if (!part) return undefined;
    const plan = { ...emptyPlan(part.id, part.defaultClock), signals: [...signals] };
    return tryPart(plan, part, part.defaultClock, stepBudget(steps));
  },
  /** What the signals of stored plans look like, for a small picture: periods to draw and the share that is high. */
  outline: (stored: unknown): Outline[] => outlineOf(stored),
  /** The best setting for a signal that is to be added to a plan. */
  place: async (key: PlanKey, signal: PlanSignal): Promise<Setting | undefined> => {
    const { plan, part } = await held(key);
    return bestSetting({ ...plan, signals: [...plan.signals, signal] }, part, signal, 'cpu');
  },
  /** How the figures of a signal come about. */
  explain: async (key: PlanKey, outcome: SignalEvaluation): Promise<FigureExplanation[]> => {
    const { plan, part } = await held(key);
    return explainFigures(part, clockPath(part, plan.clock), outcome);
  },
  /** All settings for a signal as a landscape, and why others cannot serve it. */
  surroundings: async (key: PlanKey, signal: PlanSignal): Promise<Surroundings> => {
    const { plan, part } = await held(key);
    return signalSurroundings(plan, part, signal);
  },
  /** What lines of code really do, compared with a signal. */
  decode: async (key: PlanKey, signal: PlanSignal, text: string): Promise<Result<DecodedForSignal>> => {
    const { plan, part } = await held(key);
    return decodeForSignal(plan, part, signal, text);
  },
  /** Every pin of the plan from its start on. */
  waveforms: async (key: PlanKey): Promise<SignalWaveform[]> => {
    const { plan, part } = await held(key);
    return planWaveforms(plan, part);
  },
  /** The plan's interrupts simulated, with all that was recorded. */
  interrupts: async (key: PlanKey, options: InterruptOptions): Promise<ReturnType<typeof simulatePlan>> => {
    const { plan, part } = await held(key);
    const path = clockPath(part, plan.clock);
    return simulatePlan(plan, part, path, settingsOf(plan, part, path), options);
  },
  /** As `interrupts`, for long times; tells the share that is done from time to time. */
  simulateLong: async (
    key: PlanKey,
    options: InterruptOptions,
    progress: (share: number) => void,
  ): Promise<ReturnType<typeof simulatePlan>> => {
    const { plan, part } = await held(key);
    const path = clockPath(part, plan.clock);
    const stops = (done: number): boolean => {
      progress(done);
      return false;
    };
    return simulatePlan(plan, part, path, settingsOf(plan, part, path), { ...options, stops });
  },
  /** What interrupts make of the duties of one signal; undefined where timers make them. */
  dutyRange: async (key: PlanKey, id: string): Promise<DutyRange | undefined> => {
    const { plan, part } = await held(key);
    const path = clockPath(part, plan.clock);
    return dutyRange(plan, part, path, settingsOf(plan, part, path), id);
  },
  /** The ways to send the bits of a string of LEDs, with the processor at so many times the plan's clock. */
  stringWays: async (
    key: PlanKey,
    id: string,
    by: number,
  ): Promise<{ ways: StringWay[]; string: LedString; cpuHz: number } | undefined> => {
    const { plan, part } = await held(key);
    return stringWaysOf(plan, part, id, by);
  },
  ...loadCalls(held),
  /** The C files of a plan. */
  code: async (key: PlanKey, options: PlanCodeOptions): Promise<Result<PlanCode>> => {
    const { plan, part } = await held(key);
    try {
      return succeeded(planCode(plan, part, options));
    } catch (error) {
      if (error instanceof CodeError) return failed(error.message);
      throw error;
    }
  },
  /** What the pins do from the start on, or the plan's part, as the text of a file. */
  fileText: async (key: PlanKey, kind: FileKind, seconds = 0): Promise<Result<string>> => {
    const { plan, part } = await held(key);
    return fileText(plan, part, kind, seconds);
  },
  /** One pin as sound; undefined where it has no waveform. */
  sound: async (key: PlanKey, signal: string, seconds: number): Promise<Result<Uint8Array | undefined>> => {
    const { plan, part } = await held(key);
    return soundFile(plan, part, signal, seconds);
  },
  /** What changes in places and code from one plan to another that was made of it. */
  change: async (before: PlanKey, after: PlanKey): Promise<PlanChange> => {
    const [one, other] = await Promise.all([held(before), held(after)]);
    return planChange(one.plan, one.part, other.plan, other.part);
  },
  /** The legal clock settings that bring a node nearest to a frequency, or why a setting is not legal. */
  clocks: async (
    key: PlanKey,
    clock: ClockSetting,
    node: string,
    wantedHz: number,
  ): Promise<{ setting: ClockSetting; phrase: string; errorPpm: number }[]> => {
    const { part } = await held(key);
    return clockSettingsFor(part, clock, node, wantedHz).map(({ setting, errorPpm }) => ({
      setting,
      phrase: clockPhrase(clockPath(part, setting), node),
      errorPpm,
    }));
  },
  checkClock: async (key: PlanKey, clock: ClockSetting): Promise<Result<ClockSetting>> => {
    try {
      clockPath((await held(key)).part, clock);
      return succeeded(clock);
    } catch (error) {
      if (error instanceof ClockError) return failed(error.message, error.key);
      throw error;
    }
  },
  /** Assigns all signals together within a budget of steps; reports the share of the budget used from time to time. */
  assign: async (
    key: PlanKey,
    steps: number,
    progress?: (share: number) => void,
  ): Promise<PlanAssignment> => {
    const { plan, part } = await held(key);
    return assignPlan(plan, part, stepBudget(steps, progress));
  },
  /** Fixes for each of the first of a plan's conflicts, in the order of its evaluation, for as long as they are wanted. */
  conflictFixes: async (
    key: PlanKey,
    max: number,
    wanted: () => boolean | Promise<boolean>,
  ): Promise<Fix[][]> => {
    const { plan, part } = await held(key);
    const found: Fix[][] = [];
    if (!(await wanted())) return found;
    for (const conflict of evaluatePlan(plan, part).conflicts.slice(0, max)) {
      if (!(await wanted())) break;
      found.push(fixesFor(plan, part, conflict, () => stepBudget(FIX_STEPS.conflict)));
    }
    return found;
  },
  /** Fixes for what no assignment can resolve, each of them tried. */
  infeasibleFixes: async (key: PlanKey, infeasibility: Infeasibility): Promise<TriedFix[]> => {
    const { plan, part } = await held(key);
    return fixesForInfeasible(plan, part, infeasibility, () => stepBudget(FIX_STEPS.infeasible));
  },
  /** The plan on one of the parts, under its own or the part's usual clock. */
  tryPart: async (key: PlanKey, id: string, steps: number): Promise<PartTrial | undefined> => {
    const { plan, part: own } = await held(key);
    const part = id === plan.part ? own : await fetchPart(id);
    const [clock] = part ? clocksOf(plan, part) : [];
    return part && clock && tryPart(plan, part, clock, stepBudget(steps));
  },
  /** Other clock settings that are better for the plan, the best first, each with its phrase. */
  tryClocks: async (key: PlanKey, steps: number): Promise<(PartTrial & { phrase: string })[]> => {
    const { plan, part } = await held(key);
    return searchClocks(plan, part, 24, stepBudget(steps)).map((trial) => ({
      ...trial,
      phrase: clockPhrase(clockPath(part, trial.clock), part.cpu.clock),
    }));
  },
  /** The plan on the part and clock of a trial. */
  planOn: async (key: PlanKey, trial: PartTrial): Promise<Plan> => {
    const { plan, part: own } = await held(key);
    const part = trial.part === plan.part ? own : await fetchPart(trial.part);
    return part ? planOn(plan, part, trial) : plan;
  },
  /** The signals that can share a tick, and the tick that the wanted ones (else the slow ones) could share. */
  shareTick: async (
    key: PlanKey,
    wanted: readonly string[] | undefined,
  ): Promise<{ able: string[]; chosen: string[]; proposal?: TickProposal }> => {
    const { plan, part } = await held(key);
    const able = tickSharers(plan);
    const chosen = able.filter((id) => (wanted ?? slowSharers(plan)).includes(id));
    const proposal = chosen.length < 2 ? undefined : shareTick(plan, part, chosen);
    return { able, chosen, ...(proposal ? { proposal } : {}) };
  },
  /** Reads a capture file, telling how far it has come; the engine holds on to it for `compare`. */
  openCapture: async (
    file: File,
    key: string,
    progress: (bytes: number) => unknown,
  ): Promise<Result<Capture>> => {
    try {
      const stop = { wanted: false };
      const read = await readCapture(file.name, piecesOf(file), (bytes) => {
        void Promise.resolve(progress(bytes)).then((answer) => {
          stop.wanted ||= answer === true;
        });
        return stop.wanted;
      });
      if (!read) return failed('Reading was stopped.');
      capture = { key, capture: read };
      return succeeded(read);
    } catch (error) {
      if (error instanceof CaptureError) return failed(`${file.name}: ${error.message}`);
      throw error;
    }
  },
  /** Gives the engine a capture that was stored. */
  holdCapture: (key: string, own: Capture): void => {
    capture = { key, capture: own };
  },
  /** Moves the thresholds of a wire that was captured in volts; undefined where the engine has another capture. */
  rethreshold: (key: string, wire: string, threshold: Threshold): Capture | undefined => {
    if (capture?.key !== key) return undefined;
    const wires = capture.capture.wires.map((one) =>
      one.name === wire && one.analog
        ? thresholded(one.name, one.analog.times, one.analog.values, threshold)
        : one,
    );
    capture = { key, capture: { ...capture.capture, wires } };
    return capture.capture;
  },
  /** Holds the capture of that key against a plan; undefined where the engine has another one. */
  compare: async (plan: PlanKey, key: string, wires: WireMap): Promise<Comparison | undefined> => {
    const { plan: own, part } = await held(plan);
    return capture?.key === key ? compareCapture(own, part, capture.capture, wires) : undefined;
  },
};

/** The core behind the worker. */
export type Engine = typeof api;

expose(api);

/** A sign of life, which a worker that is lost no longer gives. */
setInterval(() => postMessage({ alive: true }), 1000);
