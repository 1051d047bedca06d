import { type EdgeSource, MOST_TIMES, type Plan } from '@herzschlag/core';

/** The rising edges of a captured lane from the plan's start on, in s: as many as a task of a plan may list. */
export function risingEdges(source: EdgeSource): number[] {
  const { fromS = 0, toS = 0 } = source.known ?? {};
  const times: number[] = [];
  let at = source.next(Math.max(0, fromS) - 1e-12);
  while (at !== undefined && at <= toS && times.length < MOST_TIMES) {
    if (source.level(at) === 1) times.push(at);
    at = source.next(at);
  }
  return times;
}

/** The plan with an interrupt that comes at these times, for instance those at which a captured wire rose. */
export function withInterruptsAt(plan: Plan, name: string, timesS: readonly number[]): Plan {
  const tasks = plan.cpu?.tasks ?? [];
  let number = tasks.length + 1;
  while (tasks.some(({ id }) => id === `task-${number}`)) number += 1;
  const task = {
    id: `task-${number}`,
    name: `Edges of ${name}`.slice(0, 60),
    arrives: { timesS: [...timesS] },
    cycles: 100,
  };
  return { ...plan, cpu: { ...plan.cpu, tasks: [...tasks, task] } };
}
