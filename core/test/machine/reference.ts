import { arrivalOf, drawnFor, nextOverflow } from '../../src/machine/arrivals.ts';
import type { CpuModel, CpuTask } from '../../src/machine/model.ts';

/** What one event met: its task, when it came, when its part of the handler began, when that wrote, when it ended. */
export type Served = { task: number; arrival: number; start: number; written: number; end: number };

type Job = {
  task: number;
  arrival: number;
  start: number;
  done: number;
  toWrite: number;
  length: number;
  written: number;
};

/** What the processor is busy with besides handlers' parts and the main loop, for so many more cycles. */
type Busy = { with: 'masked' | 'instruction' | 'step' | 'in' | 'out'; left: number; task: number };

/** Walks through every single cycle: slow, and plain enough to be read against the words of the documentation. */
export function reference({ core, tasks, masked }: CpuModel, cycles: number, seed: number) {
  const served: Served[] = [];
  const lost = tasks.map(() => 0);
  const mainCycles = { count: 0 };
  const flag: (number | undefined)[] = tasks.map(() => undefined);
  const cameAt = tasks.map((task, at) => arrivalOf(task, at, seed, 0, 0));
  const came = tasks.map(() => 1);
  const begun = tasks.map(() => 0);
  const due = masked.map(({ first }) => first);
  const start = masked.map(() => 0);
  const done = masked.map(() => 0);
  const jobs: Job[] = [];
  let busy: Busy | undefined;

  const of = (at: number): CpuTask => tasks[at] as CpuTask;
  const current = (): Job | undefined => jobs[jobs.length - 1];

  function waiting(below: number): number | undefined {
    const able = tasks.flatMap((task, at) => (flag[at] !== undefined && task.level < below ? [at] : []));
    able.sort((a, b) => of(a).level - of(b).level || of(a).vector - of(b).vector || a - b);
    return able[0];
  }
  function enter(task: number, length: number): void {
    busy = { with: 'in', left: length, task };
    inArrival = flag[task] as number;
    if (of(task).clears === 'entry') flag[task] = undefined;
  }
  let inArrival = 0;
  function begin(t: number, at: number, arrival: number): void {
    const { cycles: own, writeAt, clears } = of(at);
    if (clears === 'start') flag[at] = undefined;
    const length = own.min + drawnFor(seed, at, 'cycles', begun[at] as number, own.max - own.min);
    begun[at] = (begun[at] as number) + 1;
    jobs.push({
      task: at,
      arrival,
      start: t,
      done: 0,
      toWrite: Math.min(writeAt, length),
      length,
      written: -1,
    });
  }
  function write(t: number, job: Job): void {
    job.written = t;
    const { arrivals } = of(job.task);
    if (arrivals.kind === 'reloaded') cameAt[job.task] = nextOverflow(arrivals, job.arrival, t);
  }
  /** Does everything that takes no time; whether something was done. */
  function settle(t: number, fresh: boolean): boolean {
    if (busy) {
      if (busy.left > 0) return false;
      const over = busy;
      busy = undefined;
      if (over.with === 'in') begin(t, over.task, inArrival);
      else {
        if (over.with === 'out') {
          const out = jobs.pop() as Job;
          if (core.between) {
            const job = current();
            const step = 1 + drawnFor(seed, out.task, 'between', begun[out.task] as number, core.late);
            const left = job ? job.length - job.done : Infinity;
            busy = { with: 'step', left: Math.min(step, left), task: -1 };
            return true;
          }
        }
        const job = current();
        if (job && job.written < 0 && job.done >= job.toWrite) write(t, job);
        if (job && job.written >= 0 && job.done >= job.length) return true;
        const next = waiting(job ? of(job.task).level : Infinity);
        if (next !== undefined) enter(next, core.entry);
      }
      return true;
    }
    const job = current();
    if (job && job.written < 0 && job.done >= job.toWrite) {
      write(t, job);
      return true;
    }
    if (job && job.done >= job.length) {
      served.push({ task: job.task, arrival: job.arrival, start: job.start, written: job.written, end: t });
      if (of(job.task).clears === 'end') flag[job.task] = undefined;
      const more = tasks.findIndex(
        (task, at) =>
          at > job.task &&
          task.vector === of(job.task).vector &&
          task.level === of(job.task).level &&
          flag[at] !== undefined,
      );
      if (more >= 0) {
        jobs.pop();
        const arrival = flag[more] as number;
        if (of(more).clears === 'entry') flag[more] = undefined;
        begin(t, more, arrival);
        busy = { with: 'instruction', left: 0, task: -1 };
        return true;
      }
      const below = jobs[jobs.length - 2];
      const chained = core.tail === undefined ? undefined : waiting(below ? of(below.task).level : Infinity);
      if (chained !== undefined) {
        jobs.pop();
        enter(chained, core.tail as number);
      } else busy = { with: 'out', left: core.exit, task: -1 };
      return true;
    }
    if (fresh) return false;
    const next = waiting(job ? of(job.task).level : Infinity);
    if (next !== undefined) {
      const late = drawnFor(seed, next, 'late', begun[next] as number, core.late);
      const left = job ? (job.written < 0 ? job.toWrite : job.length) - job.done : Infinity;
      const instruction = Math.min(late, left);
      if (instruction > 0) busy = { with: 'instruction', left: instruction, task: -1 };
      else enter(next, core.entry);
      return true;
    }
    if (job) return false;
    const section = due.findIndex((cycle) => cycle <= t);
    if (section < 0) return false;
    busy = { with: 'masked', left: masked[section]?.length as number, task: -1 };
    const runs = masked[section]?.repeats ?? 1;
    if (done[section] === 0) start[section] = due[section] as number;
    done[section] = (done[section] as number) + 1;
    if (done[section] === runs) {
      done[section] = 0;
      due[section] = Math.max((start[section] as number) + (masked[section]?.every as number), t);
    } else due[section] = t;
    return true;
  }

  for (let t = 0; t < cycles; t += 1) {
    tasks.forEach((task, at) => {
      if (cameAt[at] !== t) return;
      if (flag[at] === undefined) flag[at] = t;
      else lost[at] = (lost[at] as number) + 1;
      cameAt[at] = Math.max(arrivalOf(task, at, seed, came[at] as number, t), t + 1);
      came[at] = (came[at] as number) + 1;
    });
    while (settle(t, false));
    const job = current();
    if (busy) busy.left -= 1;
    if (!busy || busy.with === 'instruction' || busy.with === 'step') {
      if (job) job.done += 1;
      else mainCycles.count += 1;
    } else if (busy.with === 'masked') mainCycles.count += 1;
  }
  return { served, lost, mainCycles: mainCycles.count };
}
