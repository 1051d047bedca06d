import { leastSpan, meanDistance, mostEvents } from './arrivals.ts';
import type { CpuModel, CpuTask } from './model.ts';

/** What can be said of a task for all time: the longest waits in cycles, or that they grow without end. */
export type Bound =
  | {
      /** From the event to the start of its part of the handler, and to its end. */
      wait: number;
      response: number;
    }
  | 'unbounded';

/** Rounds of all recurrences of one task, times the tasks that they ask: after these a bound counts as none. */
const STEPS = 100_000;

/** Events of one busy period that are looked at. */
const EVENTS = 10_000;

/** Cycles that one event of a task costs whoever waits for it: the way in, its part, and the way out. */
function costOf({ core }: CpuModel, { cycles }: CpuTask): number {
  return core.entry + cycles.max + core.exit + (core.between ? 1 + core.late : 0);
}

/**
 * Cycles that an event of one task costs another that waits for it. Handlers of one level follow each other without the way out and in between, where
 * the processor does that; a more urgent one comes with both.
 */
function chainedCost(model: CpuModel, one: CpuTask, waiting: CpuTask): number {
  const { tail, between } = model.core;
  return tail !== undefined && !between && one.level === waiting.level
    ? tail + one.cycles.max
    : costOf(model, one);
}

/** Whether one task is served before another when both are pending. */
export function goesFirst(one: CpuTask, other: CpuTask): boolean {
  return one.level < other.level || (one.level === other.level && one.vector <= other.vector);
}

/**
 * Cycles for which a task can find the processor taken by something that it would go before: an instruction, a masked
 * section, the way into or out of a less urgent handler and an instruction of it, or a whole handler of its own level that has just begun.
 */
function blockingOf(model: CpuModel, task: CpuTask): number {
  const { core, tasks, masked } = model;
  const step = core.between ? 1 + core.late : 0;
  const handlers = new Map<number, number>();
  // A handler may have just begun its way out, into which none is chained any more.
  const out = core.tail === undefined ? 0 : core.exit;
  let longest = Math.max(core.late, step, out, ...masked.map(({ length }) => length));
  for (const other of tasks) {
    if (other === task || goesFirst(other, task)) continue;
    if (other.level > task.level && !core.masks) {
      const short = other.cycles.min <= core.late;
      const out = core.late + core.exit + step;
      longest = Math.max(longest, short ? core.entry + out : Math.max(core.entry + core.late, out));
      continue;
    }
    const before = handlers.get(other.vector) ?? core.entry + core.exit + step;
    handlers.set(other.vector, before + other.cycles.max);
  }
  return Math.max(longest, ...handlers.values());
}

/** How many steps are left. */
type Budget = { rounds: number };

/** The fixed point that a recurrence climbs to from a first value; undefined where it does not end within the budget. */
function fixedPoint(budget: Budget, from: number, climb: (value: number) => number): number | undefined {
  let value = from;
  while (budget.rounds > 0) {
    budget.rounds -= 1;
    const higher = climb(value);
    if (higher === value) return value;
    if (!Number.isFinite(higher) || higher > Number.MAX_SAFE_INTEGER) return undefined;
    value = higher;
  }
  return undefined;
}

/** Nominal cycle of the q-th event after the first one of a dense stretch; release jitter may bring it forward from there. */
function nominal(task: CpuTask, q: number): number {
  const { arrivals } = task;
  return arrivals.kind === 'periodic'
    ? Math.floor((q * arrivals.n) / arrivals.d)
    : leastSpan(arrivals, q + 1);
}

/**
 * The longest a task can wait, whatever the phases of the others: the recurrence for fixed priorities with blocking and
 * release jitter, in which a handler once begun is interrupted by more urgent levels only. With a level for each task this
 * is the preemptive case, with one level for all of them the non-preemptive one.
 *
 * Sources: M. Joseph, P. Pandya, "Finding response times in a real-time system" (1986); N. Audsley et al., "Applying new
 * scheduling theory to static priority pre-emptive scheduling" (1993, blocking and jitter); K. Tindell, A. Burns,
 * A. Wellings, "An extendible approach for analysing fixed priority hard real-time tasks" (1994, several events in a busy
 * period); Y. Wang, M. Saksena, "Scheduling fixed-priority tasks with preemption threshold" (1999); R. Davis et al.,
 * "Controller area network schedulability analysis: refuted, revisited and revised" (2007, the non-preemptive case).
 */
export function boundOf(model: CpuModel, task: CpuTask): Bound {
  const { core, tasks } = model;
  const others = tasks.filter((other) => other !== task && goesFirst(other, task));
  const above = core.masks ? [] : others.filter(({ level }) => level < task.level);
  // Where handlers are chained only the first of them is entered from outside, and which one comes next is decided after that.
  const entry = core.tail !== undefined && !core.between ? core.tail : core.entry;
  const blocking = blockingOf(model, task) + core.entry - entry;
  const own = chainedCost(model, task, task);
  const jitter = task.arrivals.kind === 'periodic' ? task.arrivals.jitter : 0;
  const load = [...others, task].reduce(
    (sum, one) => sum + chainedCost(model, one, task) / meanDistance(one.arrivals),
    0,
  );
  // A handler whose flag is never cleared runs again and again: nothing that it comes before is served any more.
  if (load > 1 || [...others, task].some(({ clears }) => clears === 'never')) return 'unbounded';

  const budget: Budget = { rounds: Math.ceil(STEPS / (1 + others.length)) };
  const sum = (of: readonly CpuTask[], cycles: number, closed: boolean): number =>
    of.reduce(
      (total, one) => total + mostEvents(one.arrivals, cycles, closed) * chainedCost(model, one, task),
      0,
    );

  const busy = fixedPoint(
    budget,
    blocking + own,
    (cycles) => blocking + sum(others, cycles, false) + mostEvents(task.arrivals, cycles, false) * own,
  );
  if (busy === undefined) return 'unbounded';
  const events = Math.max(1, mostEvents(task.arrivals, busy, false));
  if (events > EVENTS) return 'unbounded';

  let wait = 0;
  let response = 0;
  for (let q = 0; q < events; q += 1) {
    const start = fixedPoint(
      budget,
      blocking + q * own,
      (cycles) => blocking + q * own + sum(others, cycles, true),
    );
    if (start === undefined) return 'unbounded';
    const begun = above.map((one) => mostEvents(one.arrivals, start, true));
    const end = fixedPoint(budget, start + entry + task.cycles.max, (cycles) =>
      above.reduce(
        (total, one, at) =>
          total +
          Math.max(0, mostEvents(one.arrivals, cycles, false) - (begun[at] ?? 0)) * costOf(model, one),
        start + entry + task.cycles.max,
      ),
    );
    if (end === undefined) return 'unbounded';
    const came = q === 0 ? 0 : nominal(task, q) - jitter;
    wait = Math.max(wait, start + entry - came);
    response = Math.max(response, end - came);
  }
  return { wait, response };
}

/** The share of the processor's time that all handlers and masked sections take in the long run; above 1 it is overloaded. */
export function utilisation(model: CpuModel): number {
  const { tasks, masked } = model;
  return (
    tasks.reduce((sum, task) => sum + costOf(model, task) / meanDistance(task.arrivals), 0) +
    masked.reduce((sum, { every, length }) => sum + length / every, 0)
  );
}
