import { boundOf, utilisation, type Bound } from '../machine/bounds.ts';
import { leastSpan, meanDistance } from '../machine/arrivals.ts';
import type { CpuTask } from '../machine/model.ts';
import type { CpuRun, TaskTally } from '../machine/record.ts';
import { simulate } from '../machine/simulate.ts';
import type { ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import type { Plan } from '../plan/plan.ts';
import { printSeconds } from '../quantity/print.ts';
import type { Setting } from '../timer/setting.ts';
import { planCpu, type PlanCpu, type TaskOrigin } from './cpu-model.ts';
import { pollRows, type PollRow, type Round } from './polls.ts';
import { playedProgram } from './firmware.ts';
import { aimsAt, inPhase, momentsFor, type Aim } from './phases.ts';
import { planProgram, type PlanProgram } from './program.ts';
import { programOf } from '../program/program.ts';
import { loopEdges, pinEdges, type CycleEdges, type RealEdges } from './real-edges.ts';

/** How long an event may wait, and what comes of it. */
export type Deadline = {
  /** It must be taken before the next one comes, or its handler must have ended by then. */
  of: 'next' | 'end';
  limitS: number;
  /** The bound; absent where waits grow without end. */
  valueS?: number;
  verdict: 'pass' | 'fail';
  sentence: string;
  /** When it was seen to fail, in s from the start; absent where only the bound says that it can. */
  atS?: number;
};

/** One interrupt of a plan: what it asks for, what a simulation saw of it, and what is certain. Times in s. */
export type InterruptRow = {
  id: string;
  name: string;
  /** The signals that need it; empty for a task of the plan, which `task` names. */
  signals: string[];
  task?: string;
  /** The most events a second; absent where they come to an end. */
  rateHz?: number;
  cycles: { min: number; max: number };
  estimated: boolean;
  /** Whether it is the second interrupt of a signal, at its match, whose handler has a length of its own. */
  match?: true;
  priority: number;
  events: number;
  served: number;
  lost: number;
  wait: { leastS: number; meanS: number; worstS: number; boundS?: number };
  response: { worstS: number; boundS?: number };
  /** When the event with the worst wait came. */
  worstAtS: number;
  /** The share of the processor that it took. */
  share: number;
  deadline?: Deadline;
};

/** What the processor does under a plan. */
export type InterruptReport = {
  rows: InterruptRow[];
  /** From the decision to a handler's first instruction, in s: no event waits less. */
  entryS: number;
  /** The simulated time in s; shorter than asked for where so many interrupts came. */
  seconds: number;
  /** Share of the processor that handlers and masked sections take in the long run, by the bounds' figures. */
  utilisation: number;
  /** What is left for the main loop, the longest stretch without it and when that began. */
  main: { share: number; longestAbsenceS: number; absentAtS: number };
  /** A round of the main loop, where the plan tells its length, and what comes of what it polls. */
  round?: Round;
  polls: PollRow[];
  /** The task whose handler runs for ever, since its flag is never cleared. */
  stuck?: string;
  /** What the interrupts make of each signal whose pin they move. */
  edges: Map<string, RealEdges>;
};

/** How long to simulate. */
export type InterruptOptions = {
  seconds: number;
  seed: number;
  /** The phase between timers and tasks that is looked at; absent where all begin together. */
  aim?: Aim;
  /** The cycle of one event of each task, by its place in the model: another phase than that of the start, without an aim. */
  moments?: readonly number[];
  most?: number;
  /** The most edges of a delay loop that are played; 20,000 where absent. */
  mostLoopEdges?: number;
  stops?: (done: number) => boolean;
};

/** Enough edges of a delay loop to judge it. */
const MOST_LOOP_EDGES = 20_000;

/** Cycles of a round of the main loop where a plan does not tell them. */
const USUAL_ROUND = 1000;

/** What an evaluation simulates: up to a second or so many interrupts, all begun together. */
export const EVALUATED: InterruptOptions = { seconds: 1, seed: 1, most: 10_000 };

/** At how many other phases an evaluation looks, and for how many interrupts. */
const MOST_AIMS = 8;
const MOST_IN_PHASE = 1500;

/**
 * What interrupts make of pins at other phases between timers and tasks than those they begin with, which nothing fixes, or only the order of the
 * start: for each edge the phase that is worst for it. None where no handler moves a pin, or nothing else interrupts.
 */
export function otherPhases(
  plan: Pick<Plan, 'signals' | 'cpu' | 'pinNames'>,
  part: Part,
  path: ClockPath,
  settings: ReadonlyMap<string, Setting>,
  known: PlanProgram,
  first: InterruptReport,
): InterruptReport['edges'][] {
  const masks = planCpu(plan, part, path, settings).model.masked.length > 0;
  if (first.edges.size === 0 || (first.rows.length < 2 && !masks)) return [];
  const aims = [...first.edges.keys()].flatMap((id) => {
    const setting = settings.get(id);
    return setting ? aimsAt(part, path, id, setting) : [];
  });
  const all = aims.flatMap((aim): Aim[] => (masks ? [aim, { ...aim, masked: true }] : [aim]));
  return all.slice(0, MOST_AIMS).map((aim) => {
    const options = { ...EVALUATED, most: MOST_IN_PHASE, aim };
    return simulatePlan(plan, part, path, settings, options, known).report.edges;
  });
}

/** The longest an event can keep its flag set, in cycles; a next one until then is lost. */
function flagHeld(entry: number, task: CpuTask, bound: Bound): number {
  if (bound === 'unbounded' || task.clears === 'never') return Infinity;
  if (task.clears === 'end') return bound.response;
  return task.clears === 'entry' ? bound.wait - entry : bound.wait;
}

function lossAt({ losses }: CpuRun, task: number): number | undefined {
  const at = losses.task.indexOf(task);
  return at < 0 ? undefined : losses.at[at];
}

function nextDeadline(cpu: PlanCpu, run: CpuRun, at: number, bound: Bound): Deadline | undefined {
  const { model, cpuHz } = cpu;
  const task = model.tasks[at];
  if (!task) return undefined;
  const limit = leastSpan(task.arrivals, 2);
  if (!Number.isFinite(limit)) return undefined;
  const held = flagHeld(model.core.entry, task, bound);
  const { lost = 0, events = 0 } = run.tally[at] ?? {};
  const seen = lossAt(run, at);
  const fails = lost > 0 || held >= limit;
  const limitS = limit / cpuHz;
  const worst = Number.isFinite(held) ? `can wait ${printSeconds(held / cpuHz)}` : 'can wait without limit';
  const sentence =
    lost > 0
      ? `${lost} of ${events} events of ${task.name} are lost: the next one can come after ${printSeconds(limitS)}, while its flag is still set.`
      : fails
        ? `An event of ${task.name} ${worst} before it is taken, and the next one can come after ${printSeconds(limitS)}: it would be lost.`
        : `An event of ${task.name} is taken within ${printSeconds(held / cpuHz)}, before the next one after ${printSeconds(limitS)}.`;
  return {
    of: 'next',
    limitS,
    ...(Number.isFinite(held) ? { valueS: held / cpuHz } : {}),
    verdict: fails ? 'fail' : 'pass',
    sentence,
    ...(seen === undefined ? {} : { atS: seen / cpuHz }),
  };
}

function endDeadline(
  { cpuHz }: PlanCpu,
  { name }: CpuTask,
  tally: TaskTally,
  bound: Bound,
  limitS: number,
): Deadline {
  const certain = bound === 'unbounded' ? undefined : bound.response / cpuHz;
  const seen = tally.worstResponse / cpuHz;
  const fails = certain === undefined || certain > limitS || seen > limitS;
  const worst = certain === undefined ? 'may never end' : `can end ${printSeconds(certain)} after its event`;
  return {
    of: 'end',
    limitS,
    ...(certain === undefined ? {} : { valueS: certain }),
    verdict: fails ? 'fail' : 'pass',
    sentence: `The handler of ${name} ${worst}; its deadline is ${printSeconds(limitS)}.`,
    ...(seen > limitS ? { atS: tally.worstAt / cpuHz } : {}),
  };
}

/** The deadline of a row: that of the plan if that fails or nothing can be lost, else that of the next event. */
function deadlineOf(cpu: PlanCpu, run: CpuRun, at: number, bound: Bound): Deadline | undefined {
  const next = nextDeadline(cpu, run, at, bound);
  const own = cpu.origins[at]?.task?.deadlineS;
  const task = cpu.model.tasks[at];
  const tally = run.tally[at];
  if (own === undefined || !task || !tally) return next;
  const end = endDeadline(cpu, task, tally, bound, own);
  return next?.verdict === 'fail' && end.verdict === 'pass' ? next : end;
}

function rowOf(cpu: PlanCpu, run: CpuRun, at: number, origin: TaskOrigin): InterruptRow[] {
  const { model, cpuHz } = cpu;
  const task = model.tasks[at];
  const tally = run.tally[at];
  if (!task || !tally) return [];
  const bound = boundOf(model, task);
  const [wait, response] = bound === 'unbounded' ? [] : [bound.wait / cpuHz, bound.response / cpuHz];
  const deadline = deadlineOf(cpu, run, at, bound);
  const rate = cpuHz / meanDistance(task.arrivals);
  return [
    {
      id: task.id,
      name: task.name,
      signals: [...new Set(origin.uses.map(({ signal }) => signal))],
      ...(origin.task ? { task: origin.task.id } : {}),
      ...(rate > 0 ? { rateHz: rate } : {}),
      cycles: task.cycles,
      estimated: origin.estimated,
      ...(origin.uses.length > 0 && origin.uses.every(({ length }) => length === 'match')
        ? { match: true as const }
        : {}),
      priority: task.level,
      events: tally.events,
      served: tally.served,
      lost: tally.lost,
      wait: {
        leastS: tally.served === 0 ? 0 : tally.leastWait / cpuHz,
        meanS: tally.meanWait / cpuHz,
        worstS: tally.worstWait / cpuHz,
        ...(wait === undefined ? {} : { boundS: wait }),
      },
      response: {
        worstS: tally.worstResponse / cpuHz,
        ...(response === undefined ? {} : { boundS: response }),
      },
      worstAtS: tally.worstAt / cpuHz,
      share: run.cycles === 0 ? 0 : tally.busy / run.cycles,
      ...(deadline ? { deadline } : {}),
    },
  ];
}

/** A plan's interrupts simulated, with everything that the simulation recorded. @throws SettingError */
export function simulatePlan(
  plan: Pick<Plan, 'signals' | 'cpu' | 'pinNames'>,
  part: Part,
  path: ClockPath,
  settings: ReadonlyMap<string, Setting>,
  options: InterruptOptions,
  known: PlanProgram = planProgram(plan, part, path, settings),
): { cpu: PlanCpu; run: CpuRun; report: InterruptReport; edges: Map<string, CycleEdges> } {
  const { signals } = known;
  const program = programOf(part, signals);
  const cpu = planCpu(plan, part, path, settings, program);
  const { cpuHz, model, origins } = cpu;
  const tasks = origins.map(({ interrupt, estimated }) => ({
    ...(interrupt ? { interrupt } : {}),
    measured: !estimated,
  }));
  const { aim } = options;
  const moments = options.moments ?? (aim && momentsFor(model, aim));
  const byKey = new Map<string, number>(
    origins.flatMap(({ interrupt, uses }, at): [string, number][] => {
      const moment = moments?.[at];
      const aimed = uses.some(({ signal }) => signal === aim?.signal);
      return interrupt && moment !== undefined && !aimed
        ? [[`${interrupt.vector} ${interrupt.flag}`, moment]]
        : [];
    }),
  );
  const { firmware, pins } = playedProgram(part, path, signals, program, tasks, (key) => byKey.get(key));
  const asked = {
    cycles: Math.max(1, Math.round(options.seconds * cpuHz)),
    seed: options.seed,
    ...(options.most === undefined ? {} : { most: options.most }),
    ...(options.stops ? { stops: options.stops } : {}),
  };
  const run = simulate(moments ? inPhase(model, origins, moments, aim) : model, asked, firmware);
  const stuck = run.stuck === undefined ? undefined : model.tasks[run.stuck]?.name;
  const lostOf = (id: string): number =>
    origins.reduce(
      (sum, { uses }, at) =>
        uses.some(({ signal }) => signal === id) ? sum + (run.tally[at]?.lost ?? 0) : sum,
      0,
    );
  const made = plan.signals.flatMap(({ id }) => {
    const pin = pins.get(settings.get(id)?.pin ?? '');
    const own = origins.some(({ uses }) => uses.some(({ signal }) => signal === id));
    return pin && own ? [[id, pinEdges(cpu, pin, lostOf(id))] as const] : [];
  });
  if (model.tasks.length > 0) {
    made.push(
      ...cpu.loops.map(
        (loop) => [loop.signal, loopEdges(cpu, run, loop, options.mostLoopEdges ?? MOST_LOOP_EDGES)] as const,
      ),
    );
  }
  const share = run.cycles === 0 ? 1 : run.main.cycles / run.cycles;
  const { roundCycles } = plan.cpu?.mainLoop ?? {};
  const aloneS = (roundCycles ?? USUAL_ROUND) / cpuHz;
  const meanS = aloneS / Math.max(1e-6, share);
  const report: InterruptReport = {
    rows: origins.flatMap((origin, at) => rowOf(cpu, run, at, origin)),
    entryS: model.core.entry / cpuHz,
    seconds: run.cycles / cpuHz,
    utilisation: utilisation(model),
    main: {
      share,
      longestAbsenceS: run.main.longestAbsence / cpuHz,
      absentAtS: run.main.absentAt / cpuHz,
    },
    ...(roundCycles === undefined ? {} : { round: { aloneS, meanS } }),
    polls: pollRows(plan, meanS),
    ...(stuck === undefined ? {} : { stuck }),
    edges: new Map(made.map(([signal, { figures }]) => [signal, figures])),
  };
  return { cpu, run, report, edges: new Map(made.map(([signal, { edges }]) => [signal, edges])) };
}
