import {
  type CpuLoad,
  type Cycles,
  type InterruptRow,
  type Plan,
  type PlanTask,
  withHandlerCycles,
} from '@herzschlag/core';

function withCpu(plan: Plan, cpu: CpuLoad): Plan {
  return { ...plan, cpu };
}

function withTask(plan: Plan, id: string, change: (task: PlanTask) => PlanTask): Plan {
  const tasks = (plan.cpu?.tasks ?? []).map((task) => (task.id === id ? change(task) : task));
  return withCpu(plan, { ...plan.cpu, tasks });
}

/** The plan with another length of an interrupt's handler; undefined goes back to the estimate. */
export function withCycles(plan: Plan, row: InterruptRow, cycles: Cycles | undefined): Plan {
  if (row.task !== undefined) {
    return cycles === undefined ? plan : withTask(plan, row.task, (task) => ({ ...task, cycles }));
  }
  const signals = plan.signals.map((signal) =>
    row.signals.includes(signal.id)
      ? withHandlerCycles(signal, cycles, row.match ? 'match' : 'cycles')
      : signal,
  );
  return { ...plan, signals };
}

/** The plan with another priority of an interrupt. */
export function withPriority(plan: Plan, row: InterruptRow, priority: number): Plan {
  if (row.task !== undefined) return withTask(plan, row.task, (task) => ({ ...task, priority }));
  const signals = plan.signals.map((signal) =>
    row.signals.includes(signal.id) ? { ...signal, handler: { ...signal.handler, priority } } : signal,
  );
  return { ...plan, signals };
}

/** The plan with a changed task. */
export function withTaskFacts(plan: Plan, id: string, facts: Partial<PlanTask>): Plan {
  return withTask(plan, id, (task) => ({ ...task, ...facts }));
}

/** The plan with one task more: events at least 1 ms apart, a handler of 100 cycles. */
export function withNewTask(plan: Plan): Plan {
  const tasks = plan.cpu?.tasks ?? [];
  const taken = new Set(tasks.map(({ id }) => id));
  let number = tasks.length + 1;
  while (taken.has(`task-${number}`)) number += 1;
  const task: PlanTask = {
    id: `task-${number}`,
    name: `Interrupt ${number}`,
    arrives: { leastS: 0.001 },
    cycles: 100,
  };
  return withCpu(plan, { ...plan.cpu, tasks: [...tasks, task] });
}

/** The plan without a task. */
export function withoutTask(plan: Plan, id: string): Plan {
  return withCpu(plan, { ...plan.cpu, tasks: (plan.cpu?.tasks ?? []).filter((task) => task.id !== id) });
}

type Masked = NonNullable<NonNullable<CpuLoad['mainLoop']>['masked']>;

/** The plan with other masked sections of the main loop. */
export function withMasked(plan: Plan, change: (masked: Masked) => Masked): Plan {
  const masked = change(plan.cpu?.mainLoop?.masked ?? []);
  return withCpu(plan, { ...plan.cpu, mainLoop: { ...plan.cpu?.mainLoop, masked } });
}

type Polls = NonNullable<NonNullable<CpuLoad['mainLoop']>['polls']>;

/** The plan with other things that its main loop polls. */
export function withPolls(plan: Plan, change: (polls: Polls) => Polls): Plan {
  const polls = change(plan.cpu?.mainLoop?.polls ?? []);
  return withCpu(plan, { ...plan.cpu, mainLoop: { ...plan.cpu?.mainLoop, polls } });
}

/** The plan with another length of a round of its main loop. */
export function withRound(plan: Plan, roundCycles: number): Plan {
  return withCpu(plan, { ...plan.cpu, mainLoop: { ...plan.cpu?.mainLoop, roundCycles } });
}
