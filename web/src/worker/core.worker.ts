import { expose } from 'comlink';
import type { Setting } from '@herzschlag/core/timer/setting.ts';
import { CodeError, type CodeFile } from '@herzschlag/core/code/c.ts';
import {
  ClockError,
  clockOf,
  clockPath,
  clockPhrase,
  type ClockSetting,
} from '@herzschlag/core/clock/path.ts';
import { clockSettingsFor } from '@herzschlag/core/clock/search.ts';
import { adjust, type AdjustedField } from '@herzschlag/core/fit/refit.ts';
import { stepTarget, type Step } from '@herzschlag/core/fit/step.ts';
import type { Plan, PlanSignal } from '@herzschlag/core/format/plan.ts';
import { checkPlan, readPlan, type ReadPlan } from '@herzschlag/core/format/read.ts';
import { readPinNames } from '@herzschlag/core/format/pin-names.ts';
import { readPart, writePart, type ReadPart } from '@herzschlag/core/format/read-part.ts';
import { planCode, planOutcome, type PlanOutcome } from '@herzschlag/core/outcome/outcome.ts';
import { readCode, type ReadCode } from '@herzschlag/core/outcome/backward.ts';
import type { Ranking } from '@herzschlag/core/fit/rank.ts';
import {
  bestSetting,
  signalSurroundings,
  signalView,
  type SignalView,
  type Surroundings,
} from '@herzschlag/core/outcome/view.ts';
import { featuresOf } from '@herzschlag/core/part/features.ts';
import { fetchPart, fetchParts } from './shelf.ts';
import type { ClockNode, Part } from '@herzschlag/core/part/schema.ts';
import { clockNode } from '@herzschlag/core/timer/produce.ts';
import { shareTick, slowSharers, tickSharers, type TickProposal } from '@herzschlag/core/outcome/share.ts';
import { compareCapture, type Comparison, type WireMap } from '@herzschlag/core/outcome/compare.ts';
import { planLanes, type PlanLane } from '@herzschlag/core/outcome/lanes.ts';
import { writeCsv } from '@herzschlag/core/format/csv-write.ts';
import { writeVcd } from '@herzschlag/core/format/vcd-write.ts';
import { writeWav } from '@herzschlag/core/format/wav-write.ts';
import { readCapture, type Progress } from '@herzschlag/core/format/read-capture.ts';
import { thresholded, type Threshold } from '@herzschlag/core/wave/threshold.ts';
import { CaptureError, type Capture } from '@herzschlag/core/wave/capture.ts';
import { capturePins, timerPins } from '@herzschlag/core/part/find.ts';
import { goalOf } from '@herzschlag/core/target/goal.ts';

async function partOf(plan: Plan): Promise<Part> {
  const part = plan.ownPart?.id === plan.part ? plan.ownPart : await fetchPart(plan.part);
  if (!part) throw new RangeError(`no part “${plan.part}” is known`);
  return part;
}

type Outside = { ok: true; plan: Plan } | Extract<ReadPlan, { ok: false }>;

function withoutPart(read: ReadPlan): Outside {
  return read.ok ? { ok: true, plan: read.plan } : read;
}

/** A point of the clock path that a plan can set. */
export type ClockKnob = {
  id: string;
  name: string;
  sign: '÷' | '×' | '→';
  options?: (number | string)[];
  range?: { least: number; most: number };
  standard: number | string;
  note?: string;
};

/** What the interface shows of a part. */
export type PartFacts = {
  id: string;
  name: string;
  about: string;
  features: string[];
  verified: boolean;
  unverified: string[];
  source: string;
  pins: string[];
  timerPins: string[];
  /** Pins whose edges some timer can capture. */
  capturePins: string[];
  /** Pins the program can drive, whether or not a timer can. */
  softwarePins: string[];
  limits: { pinMilliamps: number; maxHz: number };
  timers: { id: string; name: string; clock: string }[];
  standardClock: ClockSetting;
  sources: { id: string; name: string; hz: number | [number, number]; tolerancePpm: number; note?: string }[];
  knobs: ClockKnob[];
};

function knobOf(node: ClockNode): ClockKnob[] {
  const noted = 'note' in node && node.note ? { note: node.note } : {};
  if (node.kind === 'choice' && node.standard !== undefined) {
    return [
      { id: node.id, name: node.name, sign: '→', options: [...node.from], standard: node.standard, ...noted },
    ];
  }
  if (node.kind !== 'divider' && node.kind !== 'multiplier') return [];
  const sign = node.kind === 'divider' ? '÷' : '×';
  const base = { id: node.id, name: node.name, sign, standard: node.standard, ...noted } as const;
  if (node.by.kind === 'range') return [{ ...base, range: { least: node.by.least, most: node.by.most } }];
  return node.by.options.length < 2
    ? []
    : [{ ...base, options: node.by.options.map((option) => option.divide) }];
}

/** Whether a plan can name this oscillator as its source: one that a choice of the source takes, or the standard one. */
function isPlanSource(part: Part, id: string): boolean {
  const choices = part.clocks.filter((node) => node.kind === 'choice' && node.standard === undefined);
  const taken = choices.some((node) => node.kind === 'choice' && node.from.includes(id));
  return (
    taken ||
    id === part.standardClock.source ||
    (choices.length === 0 &&
      !part.clocks.some((node) => node.id === id && node.kind === 'source' && node.always))
  );
}

function factsOf(part: Part): PartFacts {
  return {
    id: part.id,
    name: part.name,
    about: part.about,
    features: featuresOf(part),
    verified: part.verified,
    unverified: [...(part.unverified ?? [])],
    source: part.source,
    pins: part.pins.map((pin) => pin.id),
    timerPins: timerPins(part),
    capturePins: capturePins(part),
    softwarePins: part.pins.filter((pin) => pin.software).map((pin) => pin.id),
    limits: part.limits,
    timers: part.timers.map(({ id, name, clock }) => ({ id, name, clock })),
    standardClock: part.standardClock,
    sources: part.clocks.flatMap((node) =>
      node.kind === 'source' && isPlanSource(part, node.id)
        ? [
            {
              id: node.id,
              name: node.name,
              hz: typeof node.hz === 'number' ? node.hz : ([node.hz[0], node.hz[1]] as [number, number]),
              tolerancePpm: node.tolerancePpm,
              ...(node.note ? { note: node.note } : {}),
            },
          ]
        : [],
    ),
    knobs: part.clocks.flatMap(knobOf),
  };
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
  backward: async (plan: Plan, signal: PlanSignal, text: string): Promise<ReadCode> =>
    readCode(plan, await partOf(plan), signal, text),
  surroundings: async (plan: Plan, signal: PlanSignal): Promise<Surroundings> =>
    signalSurroundings(plan, await partOf(plan), signal),
  outcome: async (plan: Plan): Promise<PlanOutcome & { clock: string }> => {
    const part = await partOf(plan);
    const clock = clockPhrase(clockPath(part, plan.clock), part.cpu.clock);
    return { ...planOutcome(plan, part), clock };
  },
  adjust: async (
    plan: Plan,
    signal: PlanSignal,
    setting: Setting,
    field: AdjustedField,
    value: number,
  ): Promise<Setting> => adjust(await partOf(plan), setting, goalOf(signal), field, value),
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
    return stepTarget(part, signal, goalOf(signal), setting, clock, token, by, cpu);
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
  lanes: async (plan: Plan): Promise<PlanLane[]> => planLanes(plan, await partOf(plan)),
  /** What the pins do from the start on, as the text of a file. */
  traceText: async (plan: Plan, kind: 'vcd' | 'csv', seconds: number): Promise<string> => {
    const lanes = planLanes(plan, await partOf(plan));
    return [...(kind === 'vcd' ? writeVcd : writeCsv)(lanes, seconds)].join('');
  },
  /** One pin as sound; undefined where it has no lane. */
  traceSound: async (plan: Plan, signal: string, seconds: number): Promise<Uint8Array | undefined> => {
    const lane = planLanes(plan, await partOf(plan)).find((one) => one.signal === signal);
    return lane && writeWav(lane.lane, lane.tickHz, seconds);
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
