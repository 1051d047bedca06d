import { expose } from 'comlink';
import {
  checkPlan,
  evaluationMemory,
  fetchPart,
  fetchParts,
  easedSignal,
  needsIn,
  partsNamedIn,
  planChange,
  planDiff,
  type ArchivedPlan,
  planInArchive,
  readArchive,
  type PlanDiff,
  readPart,
  readPlan,
  signalsOfNeeds,
  stepBudget,
  succeeded,
  tryPart,
  type PartTrial,
  type Plan,
  type PlanChange,
  type PlanSignal,
  type Result,
} from '@herzschlag/core';
import { emptyPlan } from '../state/empty.ts';
import { captureCalls } from './calls/capture.ts';
import { loadCalls } from './calls/load.ts';
import { planCalls } from './calls/plan.ts';
import { searchCalls } from './calls/search.ts';
import { confirmedOf, factsOf, type Confirmed, type PartFacts } from './facts.ts';
import { heldPlans, withKeys, type PlanKey } from './held-plans.ts';
import { outlineOf } from './outline.ts';

/** A plan from outside: the text of a file, or what the browser stored. */
export type Source = { kind: 'plan'; text: string } | { kind: 'stored plan'; value: unknown };

const held = heldPlans();
const memory = evaluationMemory();

const api = {
  /** Holds a plan under a key for the calls that follow, which need not wait for it. */
  hold: held.hold,
  /** Drops a plan; calls that came before still have it. */
  release: held.release,
  /** Every part that comes with the product. */
  parts: async (): Promise<PartFacts[]> => (await fetchParts()).map(factsOf),
  /** How far each of them is confirmed, by its id. */
  confirmed: async (): Promise<Record<string, Confirmed>> => {
    const parts = await fetchParts();
    return Object.fromEntries(
      await Promise.all(parts.map(async (part) => [part.id, await confirmedOf(part)] as const)),
    );
  },
  /** Reads a plan from outside. */
  readPlan: async (source: Source): Promise<Result<Plan>> => {
    const text = source.kind === 'plan' ? source.text : JSON.stringify(source.value);
    const parts = await partsNamedIn(text);
    const read = source.kind === 'plan' ? readPlan(text, parts) : checkPlan(source.value, parts);
    return read.ok ? succeeded(read.value.plan) : read;
  },
  readPart,
  /** What an archive holds of a plan. */
  openArchive: (bytes: Uint8Array): Result<ArchivedPlan> => {
    const files = readArchive(bytes);
    return files.ok ? planInArchive(files.value) : files;
  },
  /** The signals of a list such as “four servos and a tone”; undefined where the text is not one. */
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
    const eased = signals.map((signal) => easedSignal(signal, part, part.defaultClock).signal);
    const plan = { ...emptyPlan(part.id, part.defaultClock), signals: eased };
    return tryPart(plan, part, part.defaultClock, stepBudget(steps));
  },
  /** What the signals of stored plans look like, for a small picture: periods to draw and the share that is high. */
  outline: outlineOf,
  /** What is different between two plans. */
  diff: async (before: PlanKey, after: PlanKey): Promise<PlanDiff> =>
    planDiff(await held.plan(before), await held.plan(after)),
  /** What changes in places and code from one plan to another that was made of it. */
  change: async (before: PlanKey, after: PlanKey): Promise<PlanChange> => {
    const [one, other] = await Promise.all([held.plan(before), held.plan(after)]);
    return planChange(one.plan, one.part, other.plan, other.part);
  },
  ...withKeys(held, { ...planCalls(memory), ...searchCalls(memory), ...loadCalls(memory) }),
  ...captureCalls(held),
};

/** The core behind the worker. */
export type Engine = typeof api;

expose(api);

/** A sign of life, which a worker that is lost no longer gives. */
setInterval(() => postMessage({ alive: true }), 1000);
