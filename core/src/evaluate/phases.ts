import { clockOf, type ClockPath } from '../clock/path.ts';
import { goesFirst } from '../machine/bounds.ts';
import type { Arrivals, CpuModel, MaskedSection } from '../machine/model.ts';
import type { Part } from '../part/types.ts';
import { driveOf, outcomeUnder } from '../timer/drives/index.ts';
import type { Setting } from '../timer/setting.ts';
import type { TaskOrigin } from './cpu-model.ts';

/**
 * An edge of a signal that everything else is to disturb as much as it can: the task whose event makes it, the cycle of such an event from the start, and how
 * often they come.
 */
export type Aim = {
  signal: string;
  task: string;
  cycle: number;
  period: number;
  /** Whether the longest section in which the main loop keeps interrupts out has just begun, instead of a handler. */
  masked?: true;
};

/** By how much later something begins, whose first event comes in a cycle and then once a period, so that an event comes at a moment. */
export function delayTo(moment: number, first: number, period: number): number {
  const delay = Math.round(moment - first) % period;
  return Math.floor(delay < 0 ? delay + period : delay);
}

function later(arrivals: Arrivals, moment: number, aim: Aim | undefined): Arrivals {
  switch (arrivals.kind) {
    case 'periodic':
      return {
        ...arrivals,
        first: arrivals.first + delayTo(moment, arrivals.first, arrivals.n / arrivals.d),
      };
    case 'reloaded': {
      const period = arrivals.count * arrivals.counts + arrivals.hold;
      return { ...arrivals, first: arrivals.first + delayTo(moment, arrivals.first, period) };
    }
    case 'sporadic': {
      if (!aim) return arrivals;
      // As often as they may come, each time at such an edge.
      const edges = aim.period;
      const n = Math.max(1, Math.round(Math.ceil(arrivals.min / edges) * edges));
      return { kind: 'periodic', n, d: 1, first: Math.floor(moment), jitter: 0 };
    }
    case 'times':
      return arrivals;
  }
}

/**
 * When the tasks of a model are to come, by their places, for the edge to be as late as it can be: what is more urgent comes together with it, and of what is
 * less urgent the longest has just begun, sooner than the instruction under way could still end.
 */
export function momentsFor({ core, tasks }: CpuModel, aim: Aim): number[] {
  const target = tasks.find(({ id }) => id === aim.task);
  const after = tasks.filter((one) => target && one !== target && !goesFirst(one, target));
  if (aim.masked) return tasks.map(() => aim.cycle);
  const longest = after.reduce<(typeof after)[number] | undefined>(
    (long, one) => (long && long.cycles.max >= one.cycles.max ? long : one),
    undefined,
  );
  return tasks.map((one) => (one === longest ? aim.cycle - core.late - 1 : aim.cycle));
}

/**
 * A model in a phase, that of an aim or any other: the tasks of the plan that do not say when they first come, and counters that are reloaded, of other signals. Interrupts of
 * counters that are played have theirs from the firmware.
 */
export function inPhase(
  model: CpuModel,
  origins: readonly TaskOrigin[],
  moments: readonly number[],
  aim: Aim | undefined,
): CpuModel {
  const tasks = model.tasks.map((task, at) => {
    const { task: own, uses = [] } = origins[at] ?? {};
    const said = own && 'everyS' in own.arrives && own.arrives.firstS !== undefined;
    const moment = moments[at];
    if (said || moment === undefined || uses.some(({ signal }) => signal === aim?.signal)) return task;
    return { ...task, arrivals: later(task.arrivals, moment, aim) };
  });
  return { ...model, tasks, masked: aim?.masked ? maskedBefore(model, aim) : model.masked };
}

/** The masked sections with the longest of them begun a cycle before an edge, sooner than the instruction under way could still end. */
function maskedBefore({ core, masked }: CpuModel, aim: Aim): MaskedSection[] {
  const longest = Math.max(...masked.map(({ length }) => length));
  const moved = masked.findIndex(({ length }) => length === longest);
  return masked.map((section, at) => {
    const { first, every } = section;
    return at === moved
      ? { ...section, first: first + delayTo(aim.cycle - core.late - 1, first, every) }
      : section;
  });
}

/** The edges of a signal that interrupts make, as something to aim at: one for each of its events. */
export function aimsAt(part: Part, path: ClockPath, signal: string, setting: Setting): Aim[] {
  const perTick = clockOf(path, part.cpu.clock).div(outcomeUnder(part, path, setting).tickHz);
  const events = driveOf(setting).events?.(part, setting) ?? [];
  return events.map(({ interrupt: { vector, flag }, firstTicks, everyTicks }) => ({
    signal,
    task: `${vector}.${flag}`,
    // A period on, so that everything else can have come before.
    cycle: perTick.mul(firstTicks + everyTicks).valueOf(),
    period: perTick.mul(everyTicks).valueOf(),
  }));
}
