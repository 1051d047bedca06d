import { arrivalOf, drawnFor, nextOverflow } from './arrivals.ts';
import type { Effect, Firmware } from './firmware.ts';
import type { CpuModel, CpuTask } from './model.ts';
import type { Recorder } from './record.ts';

/** A handler that runs or was interrupted: which part of it, and what is left. */
type Frame = {
  task: number;
  arrival: number;
  start: number;
  /** When it had its first effect; -1 before that. */
  written: number;
  /** Its effects, the next of them, the cycles up to that, and the cycles after it. */
  effects: readonly Effect[];
  next: number;
  toWrite: number;
  rest: number;
};

/**
 * What the processor does: the main loop, a masked section of it, the instruction under way when an interrupt is seen
 * (`finish`), the single instruction after a handler (`between`), the way in, a handler's part, or the way out.
 */
type Phase = 'main' | 'masked' | 'finish' | 'between' | 'entry' | 'body' | 'exit';

/** An effect without consequences: the write of a handler whose steps are not played. */
function nothing(): void {}

/** Whether a handler still has an effect to come. */
function hasEffect({ next, effects }: Frame): boolean {
  return next < effects.length;
}

/** Order in which pending tasks are taken: by level, then by vector, then by their place in the list. */
function before(tasks: readonly CpuTask[], one: number, other: number): number {
  const [a, b] = [tasks[one], tasks[other]];
  return a && b ? a.level - b.level || a.vector - b.vector || one - other : 0;
}

/**
 * One core with its pending flags, the handlers it is in, and what it is busy with. In each cycle events come first, then
 * what is under way ends, then a pending interrupt is taken. A handler can be interrupted only by a more urgent level, and
 * neither on its way in nor on its way out.
 */
export function processor(
  { core, tasks, masked }: CpuModel,
  firmware: Firmware,
  seed: number,
  seen: Recorder,
) {
  const sources = tasks.map((_, at) => firmware.source(at));
  const next = Float64Array.from(tasks, (task, at) => sources[at]?.next() ?? arrivalOf(task, at, seed, 0, 0));
  const count = tasks.map(() => 1);
  const pending = new Float64Array(tasks.length).fill(-1);
  const byUrgency = Int32Array.from(tasks.keys()).sort((one, other) => before(tasks, one, other));
  const levels = Int32Array.from(tasks, ({ level }) => level);
  const served = tasks.map(() => 0);
  const due = masked.map(({ first }) => first);
  const begun = masked.map(({ first }) => first);
  const repeated = masked.map(() => 0);
  const stack: Frame[] = [];
  let current: Frame | undefined;
  let phase: Phase = 'main';
  let since = 0;
  let ends = Infinity;
  let section = -1;
  let taken = -1;
  let takenAt = -1;
  let stuck: number | undefined;
  let done = 0;
  let soonest = nextEvent();

  const taskAt = (at: number): CpuTask => tasks[at] as CpuTask;
  const top = (): Frame | undefined => current;
  const push = (frame: Frame): void => {
    stack.push(frame);
    current = frame;
  };
  const pop = (): Frame | undefined => {
    const frame = stack.pop();
    current = stack.length > 0 ? stack[stack.length - 1] : undefined;
    return frame;
  };
  const levelNow = (): number => {
    const frame = top();
    if (!frame) return Infinity;
    return core.masks ? -Infinity : taskAt(frame.task).level;
  };

  /** The pending task that is next among those more urgent than a level; -1 where there is none. */
  function mostUrgent(below: number): number {
    for (let i = 0; i < byUrgency.length; i += 1) {
      const at = byUrgency[i] ?? 0;
      if ((levels[at] ?? 0) >= below) return -1;
      if ((pending[at] ?? -1) >= 0) return at;
    }
    return -1;
  }

  function nextEvent(): number {
    let first = Infinity;
    for (let at = 0; at < next.length; at += 1) first = Math.min(first, next[at] ?? Infinity);
    return first;
  }

  /** An event: it waits, or is lost where the one before is still waiting. */
  function came(t: number, at: number): void {
    const lost = (pending[at] ?? -1) >= 0;
    seen.came(at, t, lost);
    if (lost) done += 1;
    if (!lost) pending[at] = t;
    const k = count[at] ?? 0;
    count[at] = k + 1;
    const source = sources[at];
    source?.took();
    next[at] = Math.max(source?.next() ?? arrivalOf(taskAt(at), at, seed, k, t), t + 1);
  }

  /** Writes down what ran from the last change of phase until now. */
  function close(t: number): void {
    const frame = top();
    if (phase === 'masked') {
      seen.ran(-1 - section, since, t);
      seen.mainRan(since, t, false);
    } else if (phase === 'entry') seen.ran(taken, since, t);
    else if (frame) seen.ran(frame.task, since, t);
    else seen.mainRan(since, t, phase === 'between');
    since = t;
  }

  function enter(to: Phase, t: number, length: number): void {
    close(t);
    phase = to;
    ends = t + length;
  }

  /** Takes cycles off the handler under way. */
  function advance(by: number): void {
    const frame = top();
    if (!frame) return;
    const first = Math.min(frame.toWrite, by);
    frame.toWrite -= first;
    frame.rest -= by - first;
  }

  const left = (): number => {
    const frame = top();
    return frame ? frame.toWrite + frame.rest : Infinity;
  };

  /** Goes on with the handler on top, or with the main loop. */
  function resume(t: number): void {
    const frame = top();
    close(t);
    phase = frame ? 'body' : 'main';
    ends = frame ? t + (hasEffect(frame) ? frame.toWrite : frame.rest) : Infinity;
  }

  /** Goes on between two instructions: a more urgent interrupt that waits is taken, unless the handler is at its end. */
  function goOn(t: number): void {
    const frame = top();
    while (frame && hasEffect(frame) && frame.toWrite === 0) written(t, frame);
    const finished = frame && !hasEffect(frame) && frame.rest === 0;
    resume(t);
    if (!finished) takePending(t);
  }

  function accept(t: number, task: number, length: number): void {
    close(t);
    taken = task;
    takenAt = pending[task] ?? t;
    if (taskAt(task).clears === 'entry') pending[task] = -1;
    phase = 'entry';
    ends = t + length;
  }

  function startPart(t: number, at: number, arrival: number): void {
    const task = taskAt(at);
    const k = served[at] ?? 0;
    served[at] = k + 1;
    if (task.clears === 'start') pending[at] = -1;
    const { min, max } = task.cycles;
    const played = firmware.play(at);
    const whole = played?.cycles ?? min + drawnFor(seed, at, 'cycles', k, max - min);
    const effects =
      played && played.effects.length > 0 ? played.effects : [{ at: task.writeAt, happen: nothing }];
    const toWrite = Math.min(effects[0]?.at ?? 0, whole);
    push({ task: at, arrival, start: t, written: -1, effects, next: 0, toWrite, rest: whole - toWrite });
  }

  /** The next effect of a handler happens; what is left goes on to the one after it. */
  function written(t: number, frame: Frame): void {
    const effect = frame.effects[frame.next];
    frame.next += 1;
    const after = frame.effects[frame.next];
    const apart = after && effect ? Math.min(Math.max(0, after.at - effect.at), frame.rest) : 0;
    frame.toWrite = apart;
    frame.rest -= apart;
    if (frame.written < 0) reloaded(t, frame);
    effect?.happen(t, frame.arrival);
    let moved = false;
    for (let at = 0; at < sources.length; at += 1) {
      const source = sources[at];
      if (!source) continue;
      next[at] = Math.max(source.next(), t + 1);
      moved = true;
    }
    if (moved) soonest = nextEvent();
  }

  /** The first write of a handler; that of a counter which is reloaded decides when it overflows again. */
  function reloaded(t: number, frame: Frame): void {
    frame.written = t;
    const { arrivals } = taskAt(frame.task);
    if (arrivals.kind !== 'reloaded') return;
    next[frame.task] = nextOverflow(arrivals, frame.arrival, t);
    soonest = nextEvent();
  }

  /** The pending task of the same handler whose flag is asked after that of another one; -1 where there is none. */
  function sibling(after: number): number {
    const { vector, level } = taskAt(after);
    for (let at = after + 1; at < tasks.length; at += 1) {
      const task = taskAt(at);
      if (task.vector === vector && task.level === level && (pending[at] ?? -1) >= 0) return at;
    }
    return -1;
  }

  function endPart(t: number, frame: Frame): void {
    seen.served(frame.task, frame.arrival, frame.start, frame.written, t);
    done += 1;
    const { clears } = taskAt(frame.task);
    if (clears === 'end') pending[frame.task] = -1;
    if (clears === 'never') stuck = frame.task;
    const more = sibling(frame.task);
    if (more >= 0) {
      close(t);
      pop();
      const arrival = pending[more] ?? t;
      if (taskAt(more).clears === 'entry') pending[more] = -1;
      startPart(t, more, arrival);
      goOn(t);
      return;
    }
    if (core.tail === undefined) {
      enter('exit', t, core.exit);
      return;
    }
    close(t);
    const below = stack.length > 1 ? stack[stack.length - 2] : undefined;
    const chained = mostUrgent(below ? taskAt(below.task).level : Infinity);
    if (chained < 0) {
      enter('exit', t, core.exit);
      return;
    }
    pop();
    accept(t, chained, core.tail);
  }

  function exited(t: number): void {
    close(t);
    const frame = pop();
    if (core.between && frame) {
      const length = 1 + drawnFor(seed, frame.task, 'between', served[frame.task] ?? 0, core.late);
      const run = Math.min(length, left());
      phase = 'between';
      ends = t + run;
      advance(run);
      return;
    }
    goOn(t);
  }

  /** Ends the phase that is over. */
  function over(t: number): void {
    const frame = top();
    if (phase === 'entry') {
      close(t);
      startPart(t, taken, takenAt);
      resume(t);
    } else if (phase === 'body' && frame) {
      close(t);
      if (hasEffect(frame)) {
        frame.toWrite = 0;
        written(t, frame);
        ends = t + (hasEffect(frame) ? frame.toWrite : frame.rest);
      } else {
        frame.rest = 0;
        endPart(t, frame);
      }
    } else if (phase === 'exit') exited(t);
    else if (phase === 'masked' || phase === 'finish' || phase === 'between') {
      close(t);
      goOn(t);
    }
  }

  /** Takes what is pending and more urgent, without waiting for an instruction. */
  function takePending(t: number): void {
    const task = mostUrgent(levelNow());
    if (task < 0) return;
    if (phase === 'body') holdBack(t);
    accept(t, task, core.entry);
  }

  /** Notes how far the handler under way has come. */
  function holdBack(t: number): void {
    advance(t - since);
  }

  /** Sees what is pending while the program runs: the instruction under way comes first. */
  function see(t: number): void {
    if (phase !== 'main' && phase !== 'body') return;
    const task = mostUrgent(levelNow());
    if (task < 0) return;
    if (phase === 'body') holdBack(t);
    const late = drawnFor(seed, task, 'late', served[task] ?? 0, core.late);
    const frame = top();
    const run = Math.min(late, frame ? (hasEffect(frame) ? frame.toWrite : frame.rest) : late);
    if (run === 0) {
      accept(t, task, core.entry);
      return;
    }
    enter('finish', t, run);
    advance(run);
  }

  function startSection(t: number): void {
    if (phase !== 'main') return;
    let at = 0;
    while (at < due.length && (due[at] ?? 0) > t) at += 1;
    const one = at < masked.length ? masked[at] : undefined;
    if (!one) return;
    enter('masked', t, one.length);
    done += 1;
    section = at;
    const ran = (repeated[at] ?? 0) + 1;
    repeated[at] = ran < (one.repeats ?? 1) ? ran : 0;
    if (ran === 1) begun[at] = due[at] ?? t;
    due[at] = repeated[at] === 0 ? Math.max((begun[at] ?? t) + one.every, t) : t;
  }

  /** All events of a cycle. */
  function comeAt(t: number): void {
    for (let at = 0; at < tasks.length; at += 1) if (next[at] === t) came(t, at);
    soonest = nextEvent();
  }

  function endAllAt(t: number): void {
    while (ends === t) over(t);
  }

  return {
    /** The next cycle in which something happens. */
    nextCycle(): number {
      let t = Math.min(ends, soonest);
      if (phase !== 'main') return t;
      for (let at = 0; at < due.length; at += 1) t = Math.min(t, Math.max(due[at] ?? Infinity, since));
      return t;
    },
    /** Lets happen what happens in that cycle. */
    runCycle(t: number): void {
      if (t === soonest) comeAt(t);
      endAllAt(t);
      see(t);
      endAllAt(t);
      startSection(t);
    },
    /** Writes down what is under way at the end. */
    close,
    /** How many events were served or lost and sections run, and a task whose handler runs for ever. */
    count: () => done,
    stuck: () => stuck,
  };
}
