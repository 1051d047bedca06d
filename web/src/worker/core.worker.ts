import { expose } from 'comlink';
import { type AdjustedField, type Capture, CaptureError, ClockError, type ClockSetting, CodeError, type CodeFile, type Comparison, type DecodedForSignal, type Evaluation, type Fix, type Infeasibility, type Part, type PartTrial, type Plan, type PlanAssignment, type PlanChange, type PlanSignal, type Progress, type Ranking, type ReadPart, type ReadPlan, type Setting, type SignalView, type SignalWaveform, type Step, type Surroundings, type Threshold, type TickProposal, type TriedFix, type WireMap, adjust, assignPlan, bestSetting, checkPlan, clockNode, clockOf, clockPath, clockPhrase, clockSettingsFor, clocksOf, compareCapture, decodeForSignal, evaluatePlan, fixesFor, fixesForInfeasible, planChange, planCode, planOn, planWaveforms, readCapture, readPart, readPinNames, readPlan, requirementOf, searchClocks, shareTick, signalSurroundings, signalView, slowSharers, stepTarget, thresholded, tickSharers, tryPart, writeCsv, writePart, writeVcd, writeWav } from '@herzschlag/core';
import { factsOf, type PartFacts } from './facts.ts';
import { fetchPart, fetchParts } from './shelf.ts';

async function partOf(plan: Plan): Promise<Part> {
  const part = plan.ownPart?.id === plan.part ? plan.ownPart : await fetchPart(plan.part);
  if (!part) throw new RangeError(`no part “${plan.part}” is known`);
  return part;
}

type Outside = { ok: true; plan: Plan } | Extract<ReadPlan, { ok: false }>;

function withoutPart(read: ReadPlan): Outside {
  return read.ok ? { ok: true, plan: read.plan } : read;
}

/** The part a plan's text names; all parts where it names none of them, so that the fault can list them. */
async function partsNamedIn(text: string): Promise<Part[]> {
  const named = [...text.matchAll(/"part"\s*:\s*"([^"]{1,80})"/g)].map(([, id]) => id ?? '');
  const found = (await Promise.all(named.map(fetchPart))).filter((part) => part !== undefined);
  return found.length > 0 ? found : fetchParts();
}

/** What became of a file from the bench. */
export type OpenedCapture = { ok: true; capture: Capture } | { ok: false; fault: string };

let held: { key: string; capture: Capture } | undefined;

/** Bytes of a file that are read at once. */
const PIECE = 1 << 21;

async function* piecesOf(file: File): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < file.size; at += PIECE) {
    yield new Uint8Array(await file.slice(at, at + PIECE).arrayBuffer());
  }
}

/** Lets a search go on for so long, and tells its share of that time. */
function timed(seconds: number, progress?: (share: number) => void): () => boolean {
  const start = performance.now();
  return () => {
    const share = (performance.now() - start) / 1000 / seconds;
    progress?.(Math.min(1, share));
    return share < 1;
  };
}

const api = {
  parts: async (): Promise<PartFacts[]> => (await fetchParts()).map(factsOf),
  partOf: async (plan: Plan): Promise<PartFacts> => factsOf(await partOf(plan)),
  /** The plan's part as the text of its file. */
  partText: async (plan: Plan): Promise<string> => writePart(await partOf(plan)),
  readPart: (text: string): ReadPart => readPart(text),
  read: async (text: string): Promise<Outside> => withoutPart(readPlan(text, await partsNamedIn(text))),
  check: async (value: unknown): Promise<Outside> =>
    withoutPart(checkPlan(value, await partsNamedIn(JSON.stringify(value)))),
  view: async (plan: Plan, signal: PlanSignal, renew: boolean): Promise<SignalView> =>
    signalView(plan, await partOf(plan), signal, renew),
  /** The setting that is best by a ranking; undefined where none meets the target. */
  best: async (plan: Plan, signal: PlanSignal, ranking: Ranking): Promise<Setting | undefined> => {
    const part = await partOf(plan);
    return bestSetting(plan, part, signal, ranking);
  },
  /** What lines of code really do, held against a signal. */
  backward: async (plan: Plan, signal: PlanSignal, text: string): Promise<DecodedForSignal> =>
    decodeForSignal(plan, await partOf(plan), signal, text),
  surroundings: async (plan: Plan, signal: PlanSignal): Promise<Surroundings> =>
    signalSurroundings(plan, await partOf(plan), signal),
  outcome: async (plan: Plan): Promise<Evaluation & { clock: string }> => {
    const part = await partOf(plan);
    const clock = clockPhrase(clockPath(part, plan.clock), part.cpu.clock);
    return { ...evaluatePlan(plan, part), clock };
  },
  adjust: async (
    plan: Plan,
    signal: PlanSignal,
    setting: Setting,
    field: AdjustedField,
    value: number,
  ): Promise<Setting> => adjust(await partOf(plan), setting, requirementOf(signal), field, value),
  step: async (
    plan: Plan,
    signal: PlanSignal,
    setting: Setting,
    token: 'frequency' | 'duty',
    by: number,
  ): Promise<Step | undefined> => {
    const part = await partOf(plan);
    const path = clockPath(part, plan.clock);
    const clock = clockOf(path, clockNode(part, setting));
    const cpu = clockOf(path, part.cpu.clock);
    return stepTarget(part, signal, requirementOf(signal), setting, clock, token, by, cpu);
  },
  clockSettings: async (
    plan: Plan,
    clock: ClockSetting,
    node: string,
    wantedHz: number,
  ): Promise<{ setting: ClockSetting; phrase: string; errorPpm: number }[]> => {
    const part = await partOf(plan);
    return clockSettingsFor(part, clock, node, wantedHz).map(({ setting, errorPpm }) => ({
      setting,
      phrase: clockPhrase(clockPath(part, setting), node),
      errorPpm,
    }));
  },
  /** The signals that can share a tick, and the tick that the wanted ones (else the slow ones) could share. */
  shareTick: async (
    plan: Plan,
    wanted: readonly string[] | undefined,
  ): Promise<{ able: string[]; chosen: string[]; proposal?: TickProposal }> => {
    const able = tickSharers(plan);
    const chosen = able.filter((id) => (wanted ?? slowSharers(plan)).includes(id));
    const proposal = chosen.length < 2 ? undefined : shareTick(plan, await partOf(plan), chosen);
    return { able, chosen, ...(proposal ? { proposal } : {}) };
  },
  /** Ways out of each of the first of a plan's collisions, in the order of its outcome. */
  fixesFor: async (plan: Plan, max: number): Promise<Fix[][]> => {
    const part = await partOf(plan);
    const { conflicts } = evaluatePlan(plan, part);
    return conflicts.slice(0, max).map((one) => fixesFor(plan, part, one, () => timed(0.5)));
  },
  /** Ways out of what no allotment can resolve, each of them tried. */
  fixes: async (plan: Plan, conflict: Infeasibility): Promise<TriedFix[]> =>
    fixesForInfeasible(plan, await partOf(plan), conflict, () => timed(1)),
  /** What changes in places and code from one plan to another that was made of it. */
  planChange: async (before: Plan, after: Plan): Promise<PlanChange> =>
    planChange(before, await partOf(before), after, await partOf(after)),
  /** All signals placed together, in at most so many seconds; tells from time to time how long it has taken. */
  assign: async (plan: Plan, seconds: number, progress?: (share: number) => void): Promise<PlanAssignment> =>
    assignPlan(plan, await partOf(plan), timed(seconds, progress)),
  /** The plan on one of the parts, under its own or the part's usual clock. */
  tryPart: async (plan: Plan, id: string, seconds: number): Promise<PartTrial[]> => {
    const part = id === plan.part ? await partOf(plan) : await fetchPart(id);
    if (!part) return [];
    return clocksOf(plan, part).flatMap((clock) => tryPart(plan, part, clock, timed(seconds)) ?? []);
  },
  /** Clock settings under which all signals go, the best first, each with its phrase. */
  searchClocks: async (plan: Plan, seconds: number): Promise<(PartTrial & { phrase: string })[]> => {
    const part = await partOf(plan);
    return searchClocks(plan, part, 24, timed(seconds)).map((trial) => ({
      ...trial,
      phrase: clockPhrase(clockPath(part, trial.clock), part.cpu.clock),
    }));
  },
  /** The plan on the part and clock of a trial. */
  planOn: async (plan: Plan, trial: PartTrial): Promise<Plan> => {
    const part = trial.part === plan.part ? await partOf(plan) : await fetchPart(trial.part);
    return part ? planOn(plan, part, trial) : plan;
  },
  pinNames: async (plan: Plan, text: string) => readPinNames(text, await partOf(plan)),
  clockFault: async (plan: Plan, clock: ClockSetting): Promise<string | undefined> => {
    const part = await partOf(plan);
    try {
      clockPath(part, clock);
      return undefined;
    } catch (error) {
      if (error instanceof ClockError) return error.message;
      throw error;
    }
  },
  /** Every pin of the plan from its start on. */
  lanes: async (plan: Plan): Promise<SignalWaveform[]> => planWaveforms(plan, await partOf(plan)),
  /** What the pins do from the start on, as the text of a file. */
  traceText: async (plan: Plan, kind: 'vcd' | 'csv', seconds: number): Promise<string> => {
    const lanes = planWaveforms(plan, await partOf(plan));
    return [...(kind === 'vcd' ? writeVcd : writeCsv)(lanes, seconds)].join('');
  },
  /** One pin as sound; undefined where it has no waveform. */
  traceSound: async (plan: Plan, signal: string, seconds: number): Promise<Uint8Array | undefined> => {
    const waveform = planWaveforms(plan, await partOf(plan)).find((one) => one.signal === signal);
    return waveform && writeWav(waveform.waveform, waveform.tickHz, seconds);
  },
  /** Reads a capture file, telling how far it has come; the worker holds on to it for `compare`. */
  openCapture: async (file: File, key: string, progress: Progress): Promise<OpenedCapture> => {
    try {
      const stop = { wanted: false };
      const capture = await readCapture(file.name, piecesOf(file), (bytes) => {
        void Promise.resolve(progress(bytes)).then((answer) => {
          stop.wanted ||= answer === true;
        });
        return stop.wanted;
      });
      if (!capture) return { ok: false, fault: 'Reading was stopped.' };
      held = { key, capture };
      return { ok: true, capture };
    } catch (error) {
      if (error instanceof CaptureError) return { ok: false, fault: `${file.name}: ${error.message}` };
      throw error;
    }
  },
  /** Gives the worker a capture that was kept. */
  holdCapture: (key: string, capture: Capture): void => {
    held = { key, capture };
  },
  /** Moves the thresholds of a wire that was captured in volts; undefined where the worker has another capture. */
  rethreshold: (key: string, wire: string, threshold: Threshold): Capture | undefined => {
    if (held?.key !== key) return undefined;
    const wires = held.capture.wires.map((one) =>
      one.name === wire && one.analog
        ? thresholded(one.name, one.analog.times, one.analog.values, threshold)
        : one,
    );
    held = { key, capture: { ...held.capture, wires } };
    return held.capture;
  },
  /** Holds the capture of that key against the plan; undefined where the worker has another one. */
  compare: async (plan: Plan, key: string, wires: WireMap): Promise<Comparison | undefined> =>
    held?.key === key ? compareCapture(plan, await partOf(plan), held.capture, wires) : undefined,
  code: async (plan: Plan): Promise<{ files: CodeFile[] } | { error: string }> => {
    const part = await partOf(plan);
    try {
      return { files: planCode(plan, part) };
    } catch (error) {
      if (error instanceof CodeError) return { error: error.message };
      throw error;
    }
  },
};

/** The core behind the worker. */
export type CoreApi = typeof api;

expose(api);
