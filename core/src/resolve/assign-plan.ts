import { assign, type AssignRules } from '../assign/assign.ts';
import type { Request } from '../assign/request.ts';
import type { Objective } from '../assign/objective.ts';
import { ClockError, clockPath, type ClockPath } from '../clock/path.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { rootOf, timerOf } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import { neverFollows } from '../evaluate/code-sequence.ts';
import { evaluatePlan, type Failure } from '../evaluate/evaluate.ts';
import { passesAlone } from '../evaluate/deliverable.ts';
import { printNumber } from '../quantity/print.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import { isOutput, outcomeUnder } from '../timer/drives/index.ts';
import { withSettings } from '../plan/edit.ts';
import { hasTimer, pinsOfSetting, type Setting } from '../timer/setting.ts';
import { infeasibilitiesOf, type Infeasibility } from './infeasible.ts';
import { programLoops, withLoops } from './program-loops.ts';
import { rearranged } from './rearrange.ts';
import { reasonAlone } from './trial-reason.ts';

/** A plan with every signal placed, or why that does not fit. */
export type PlanAssignment = {
  feasible: boolean;
  optimal: boolean;
  settings: { signal: string; setting: Setting }[];
  objective?: Objective;
  nodes: number;
  /** What fails with these settings all the same: under the interrupts of the whole plan, or by its loads. */
  failing: Failure[];
  /** The fewest signals that cannot be placed together, where it does not fit. */
  conflicts: Infeasibility[];
  /** Said where neither an assignment nor a conflict was found. */
  ended?: string;
};

/** Settings whose checks are remembered while a plan is assigned. */
const REMEMBERED = 4000;

/** Whether a setting would do for a signal by itself, remembered by setting. */
function accepting(part: Part, path: ClockPath, signal: PlanSignal): (setting: Setting) => boolean {
  const known = new Map<string, boolean>();
  return (setting) => {
    const key = JSON.stringify(setting);
    const before = known.get(key);
    if (before !== undefined) return before;
    const passes = passesAlone(part, path, signal, setting);
    if (known.size >= REMEMBERED) known.clear();
    known.set(key, passes);
    return passes;
  };
}

/** A signal of a plan as assignment sees it, with every rule that a check of the plan knows. */
export function requestOf(part: Part, path: ClockPath, signal: PlanSignal): Request {
  const { sequence, firstEdgeS, complement } = signal;
  return {
    id: signal.id,
    name: signal.name,
    requirement: requirementOf(signal),
    ...(signal.pin === undefined ? {} : { pin: signal.pin }),
    ...(signal.locked && signal.setting ? { locked: signal.setting } : {}),
    ...(signal.setting && hasTimer(signal.setting) ? { present: signal.setting } : {}),
    ...(complement ? { opposite: complement } : {}),
    ...(signal.phase ? { phase: signal.phase } : {}),
    ...(signal.knob ? { byOutput: true } : {}),
    accepts: accepting(part, path, signal),
    ...(sequence ? { never: (setting: Setting) => neverFollows(part, setting) } : {}),
    strict: sequence !== undefined || firstEdgeS !== undefined || complement !== undefined,
  };
}

/** What assignment is asked for a whole plan: signals that a loop of the program makes hold their pins, all others want a timer. */
export function askedOf(
  plan: Pick<Plan, 'clock' | 'signals' | 'reserved'>,
  part: Part,
  mayContinue?: () => boolean,
): { path: ClockPath; loops: Map<string, Setting>; requests: Request[]; rules: AssignRules } {
  const path = clockPath(part, plan.clock);
  const loops = programLoops(plan, part, path, (signal, setting) => accepting(part, path, signal)(setting));
  return {
    path,
    loops,
    requests: plan.signals.filter(({ id }) => !loops.has(id)).map((signal) => requestOf(part, path, signal)),
    rules: {
      reserved: new Set(plan.reserved ?? []),
      pins: new Set([...loops.values()].flatMap(pinsOfSetting)),
      ...(mayContinue ? { mayContinue } : {}),
    },
  };
}

type Assigned = Omit<PlanAssignment, 'conflicts' | 'ended' | 'failing'>;

function assigned(part: Part, { path, loops, requests, rules }: ReturnType<typeof askedOf>): Assigned {
  const found = assign(part, path, requests, rules);
  return {
    ...found,
    settings: withLoops(found, requests, loops),
  };
}

/** All signals of a plan placed on its part, without the reason if they do not fit. */
export function assignAll(plan: Plan, part: Part, mayContinue?: () => boolean): Assigned {
  return assigned(part, askedOf(plan, part, mayContinue));
}

/** Signals of which pairs are tried by themselves where a search ended without a proof. */
const MAX_PAIRED = 12;

/** Which signals of a plan, one or two of them, cannot be placed by themselves, and how many were placed alone. */
type Apart = { named: Infeasibility[]; placed: number };

/** Signals, one or two, that cannot be placed even by themselves, for a plan whose own search proved nothing. */
function smallConflicts(
  part: Part,
  path: ClockPath,
  requests: readonly Request[],
  rules: AssignRules,
): Apart {
  const placed = new Set<Request>();
  const fails = (own: readonly Request[]): boolean => {
    const { feasible, optimal } = assign(part, path, own, { ...rules, anyFeasible: true });
    const [only, ...others] = own;
    if (feasible && only && others.length === 0) placed.add(only);
    return !feasible && optimal;
  };
  const alone = requests.filter((one) => fails([one]));
  const others = requests.filter((one) => !alone.includes(one)).slice(0, MAX_PAIRED);
  const sets = [...alone.map((one) => [one])];
  if (alone.length === 0) {
    const pair = others
      .flatMap((one, at) => others.slice(at + 1).map((other) => [one, other]))
      .find((both) => rules.mayContinue?.() !== false && fails(both));
    if (pair) sets.push(pair);
  }
  return { named: sets.flatMap((own) => infeasibilitiesOf(part, path, own, rules)), placed: placed.size };
}

/** An assignment and what fails under it. */
type Judged = Assigned & { failing: Failure[] };

/** How often the signals that fail under the interrupts of the others are asked to come from outputs instead. */
const TRIES = 3;

/**
 * An assignment with what fails under it. Signals by themselves pass with their settings; where one that the program makes fails beside the others, it is tried
 * with a timer's own output, and then one or two of them in other ways.
 */
function judged(plan: Plan, part: Part, asked: ReturnType<typeof askedOf>, first: Assigned): Judged {
  const failingWith = ({ settings }: Assigned): Failure[] =>
    evaluatePlan(withSettings(plan, settings), part).failures;
  let best: Judged = { ...first, failing: failingWith(first) };
  let { requests } = asked;
  /** The first assignment with fewer failures in which signals, all of some or else one of them, come from outputs. */
  const byOutputs = (moved: readonly string[]): Judged | undefined => {
    const sets = moved.length > 1 ? [moved, ...moved.map((id) => [id])] : [moved];
    for (const set of sets) {
      if (asked.rules.mayContinue?.() === false) return undefined;
      const asOutputs = requests.map((one) => (set.includes(one.id) ? { ...one, byOutput: true } : one));
      const found = assigned(part, { ...asked, requests: asOutputs });
      const failing = found.feasible ? failingWith(found) : best.failing;
      if (failing.length >= best.failing.length) continue;
      requests = asOutputs;
      // What is best of all that passes was not proven.
      return { ...found, optimal: false, failing };
    }
    return undefined;
  };
  for (let tries = 0; tries < TRIES && best.failing.length > 0; tries += 1) {
    const moved = best.settings.filter(
      ({ signal, setting }) =>
        best.failing.some((one) => one.signal === signal) && !isOutput(setting) && setting.pin !== undefined,
    );
    const better = moved.length > 0 ? byOutputs(moved.map(({ signal }) => signal)) : undefined;
    if (!better) break;
    best = better;
  }
  const other = best.failing.length > 0 ? rearranged(plan, part, best, asked.rules.mayContinue) : undefined;
  if (!other) return best;
  return { ...best, ...other, optimal: false, objective: objectiveOf(part, asked.path, other.settings) };
}

/** Processor time and timers of settings that no search has compared; of their margins nothing is known. */
function objectiveOf(part: Part, path: ClockPath, settings: PlanAssignment['settings']): Objective {
  const timers = settings.flatMap(({ setting }) =>
    hasTimer(setting) ? [rootOf(timerOf(part, setting.timer))] : [],
  );
  const cpu = settings.reduce((sum, { setting }) => sum + outcomeUnder(part, path, setting).cpu, 0);
  return { cpu, level: 0, timers: new Set(timers).size };
}

/**
 * Places all signals of a plan on its part, or names the fewest signals that conflict, or says that the search ended and
 * what it had tried. `mayContinue` is asked whether the search may still go on.
 */
export function assignPlan(plan: Plan, part: Part, mayContinue?: () => boolean): PlanAssignment {
  const asked = askedOf(plan, part, mayContinue);
  const found = assigned(part, asked);
  if (found.feasible) return { ...judged(plan, part, asked, found), conflicts: [] };
  const { path, requests, rules } = asked;
  const { named, placed } = found.optimal
    ? { named: infeasibilitiesOf(part, path, requests, rules), placed: 0 }
    : smallConflicts(part, path, requests, rules);
  const conflicts = named.map((one) => withCause(plan, part, path, one));
  const failing: Failure[] = [];
  if (conflicts.length > 0) return { ...found, failing, conflicts };
  const tried =
    found.nodes > 0 ? `after ${printNumber(found.nodes)} placements` : 'before it could place anything';
  return {
    ...found,
    failing,
    conflicts,
    ended: `The search ended ${tried} without an assignment of all ${plan.signals.length} signals; ${apart(placed, requests.length)}.${standing(plan)}`,
  };
}

/** How many of the signals are known to fit by themselves, in words. */
function apart(placed: number, all: number): string {
  if (placed === all) return 'each of them fits by itself';
  return placed === 0
    ? 'none was tried by itself'
    : `${placed} of them fit by themselves, the others were not tried to the end`;
}

/** The rules beyond frequency and duty that a search without a result had to obey. */
function standing({ signals }: Plan): string {
  const rules = signals.flatMap(({ name, phase, sequence, firstEdgeS, complement }) => [
    ...(phase ? [`the phase of ${name}`] : []),
    ...(sequence ? [`the sequence of ${name}`] : []),
    ...(firstEdgeS === undefined ? [] : [`the first edge of ${name}`]),
    ...(complement ? [`the opposite of ${name}`] : []),
  ]);
  return rules.length === 0 ? '' : ` Rules that may prevent one: ${rules.join(', ')}.`;
}

/** A conflict of one signal with itself is reported with its cause: the oscillator, or what refuses most timers. */
function withCause(plan: Plan, part: Part, path: ClockPath, conflict: Infeasibility): Infeasibility {
  const { signals, rules } = conflict;
  const [id] = signals;
  const signal = plan.signals.find((one) => one.id === id);
  const ruled = rules.reserved.length > 0 || rules.locked.length > 0;
  if (signals.length !== 1 || ruled || !signal) return conflict;
  return { ...conflict, reason: reasonAlone(part, path, plan.clock, signal) };
}

/** A plan's clock under other settings; undefined where those are not legal. */
export function pathUnder(part: Part, clock: Plan['clock']): ClockPath | undefined {
  try {
    return clockPath(part, clock);
  } catch (error) {
    if (error instanceof ClockError) return undefined;
    throw error;
  }
}
