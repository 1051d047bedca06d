import type { Arrivals, CpuModel, CpuTask, MaskedSection } from '../machine/model.ts';
import { clockOf, type ClockPath } from '../clock/path.ts';
import { sharesHandlers } from '../part/find.ts';
import type { CycleRange, Interrupt, Part } from '../part/types.ts';
import type { Cycles, PlanTask } from '../plan/cpu-load.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { exact, type Exact } from '../quantity/exact.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import type { Action, InterruptEvents } from '../timer/drives/actions.ts';
import { driveOf, outcomeUnder, runsOf } from '../timer/drives/index.ts';
import { sendsBits } from '../timer/sending.ts';
import type { Setting } from '../timer/setting.ts';
import { handlerCycles } from '../program/cycles.ts';
import { programOf, type Program } from '../program/program.ts';
import { counterOf } from './code-sequence.ts';
import { levelOf, signalLevel } from './priorities.ts';
import { planProgram } from './program.ts';

/** What one interrupt does for a signal, and which of its lengths in the plan is the handler's. */
type SignalUse = { signal: string; actions: readonly Action[]; length: HandlerLength };

/** Of two interrupts that make the edges of a signal, the one at the match may have a length of its own. */
type HandlerLength = 'cycles' | 'match';

/** Where a task of the model comes from: interrupts of signals, or a task of the plan. */
export type TaskOrigin = {
  uses: SignalUse[];
  task?: PlanTask;
  interrupt?: Interrupt;
  /** Whether its length is the part's usual one, and not measured. */
  estimated: boolean;
};

/** A loop of the program that makes a signal: its period, and where in it the pin rises and falls, in cycles of the processor. */
export type CpuLoop = { signal: string; period: number; rise: number; fall: number };

/** A plan's interrupts as a model, with the origin of each of its tasks, its delay loops, and the processor's clock in Hz. */
export type PlanCpu = { model: CpuModel; origins: TaskOrigin[]; loops: CpuLoop[]; cpuHz: number };

/** A signal and the setting it is made by. */
type Holder = { signal: PlanSignal; setting: Setting };

/** An interrupt of a signal, and when it comes. */
type Source = {
  interrupt: Interrupt;
  arrivals: Arrivals;
  holder: Holder;
  actions: readonly Action[];
  length: HandlerLength;
};

/** Number of the vector of interrupts whose place in the table is not said. */
const LAST_VECTOR = 100_000;

/** A length in cycles of the processor, exact where both parts are small enough. */
function periodic(every: Exact, first: Exact, jitter = 0): Arrivals {
  const [n, d] = [Number(every.n), Number(every.d)];
  const small = Number.isSafeInteger(n) && Number.isSafeInteger(d) && d < 2 ** 24;
  const whole = Math.max(1, Math.round(every.valueOf()));
  return {
    kind: 'periodic',
    ...(small && every.valueOf() >= 1 ? { n, d } : { n: whole, d: 1 }),
    first: Math.ceil(first.valueOf() - 1e-9),
    jitter,
  };
}

function arrivalsOf({ firstTicks, everyTicks, reload }: InterruptEvents, cyclesPerTick: Exact): Arrivals {
  const cycles = (ticks: number): Exact => cyclesPerTick.mul(ticks);
  if (!reload) return periodic(cycles(everyTicks), cycles(firstTicks));
  return {
    kind: 'reloaded',
    first: Math.ceil(cycles(firstTicks).valueOf()),
    count: cycles(reload.countTicks).valueOf(),
    counts: reload.counts,
    full: reload.full,
    adds: true,
    clears: reload.clears,
    hold: cycles(reload.holdTicks).valueOf(),
  };
}

/** The interrupts of one signal: those that make its edges, take its captures, or count its sequence. */
function sourcesOf(part: Part, path: ClockPath, holder: Holder): Source[] {
  const { signal, setting } = holder;
  const cpuHz = clockOf(path, part.cpu.clock);
  const drive = driveOf(setting);
  const outcome = outcomeUnder(part, path, setting);
  const { input } = requirementOf(signal);
  const uses = drive.handlers(part, setting);
  const events = drive.events?.(part, setting) ?? [];
  const perTick = cpuHz.div(outcome.tickHz);
  if (input) {
    const min = Math.max(1, Math.floor(cpuHz.div(input.fastest).valueOf() + 1e-9));
    return uses.map(({ interrupt, actions }) => {
      const event = events.find((one) => one.interrupt.flag === interrupt.flag);
      const arrivals = event ? arrivalsOf(event, perTick) : { kind: 'sporadic' as const, min, spread: 0 };
      return { interrupt, actions, holder, length: event ? 'match' : 'cycles', arrivals };
    });
  }
  const made = events.map((event, at): Source => {
    const use = uses.find(({ interrupt }) => interrupt.flag === event.interrupt.flag);
    return {
      interrupt: event.interrupt,
      actions: use?.actions ?? [],
      holder,
      length: at === 0 ? 'cycles' : 'match',
      arrivals: arrivalsOf(event, perTick),
    };
  });
  const counted = signal.sequence ? counterOf(part, path, setting) : undefined;
  if (!counted || 'reason' in counted) return made;
  const period = cpuHz.div(outcome.frequency.mul(runsOf(setting.drive)));
  const tick: Source = {
    interrupt: counted.tick,
    length: 'cycles',
    actions: [],
    holder,
    arrivals: periodic(period, period),
  };
  return [...made, tick];
}

/** What a handler takes: what the user says, or what its operations take at most. */
function lengthOf(
  sources: readonly Source[],
  program: ReadonlyMap<string, CycleRange>,
): { cycles: CycleRange; estimated: boolean } {
  const known = sources
    .flatMap(({ holder: { signal }, length }) => signal.handler?.[length] ?? signal.handler?.cycles ?? [])
    .map(bounds);
  const [{ interrupt } = { interrupt: undefined }] = sources;
  const counted = interrupt && program.get(`${interrupt.vector} ${interrupt.flag}`);
  const all = known.length === sources.length || !counted ? known : [counted];
  const sum = (key: 'min' | 'max'): number => all.reduce((total, one) => total + one[key], 0);
  return { cycles: { min: sum('min'), max: sum('max') }, estimated: known.length < sources.length };
}

function bounds(cycles: Cycles): CycleRange {
  return typeof cycles === 'number' ? { min: cycles, max: cycles } : cycles;
}

function clearsOf({ clear }: Interrupt): CpuTask['clears'] {
  return clear === 'entry' || clear === 'entry-or-one' || clear === 'none' ? 'entry' : 'start';
}

function signalTask(
  part: Part,
  sources: readonly Source[],
  program: ReadonlyMap<string, CycleRange>,
): { task: CpuTask; origin: TaskOrigin } | undefined {
  const [first] = sources;
  if (!first) return undefined;
  const { interrupt, arrivals } = first;
  const { cycles, estimated } = lengthOf(sources, program);
  const priorities = sources.map(({ holder }) => signalLevel(part.cpu, holder.signal.handler?.priority));
  return {
    task: {
      id: `${interrupt.vector}.${interrupt.flag}`,
      name: [...new Set(sources.map(({ holder }) => holder.signal.name))].join(', '),
      level: Math.min(...priorities),
      vector: sharesHandlers(part.cpu) ? 0 : interrupt.number,
      arrivals,
      cycles,
      writeAt: Math.min(part.cpu.reloadCycles, cycles.min),
      clears: clearsOf(interrupt),
    },
    origin: {
      uses: sources.map(({ holder, actions, length }) => ({ signal: holder.signal.id, actions, length })),
      interrupt,
      estimated,
    },
  };
}

/** When the events of a task of the plan come, in cycles of a processor at so many Hz. */
function taskArrivals({ arrives }: PlanTask, cpuHz: Exact): Arrivals {
  const cycles = (seconds: number): Exact => cpuHz.mul(exact(seconds));
  const whole = (seconds: number): number => Math.max(0, Math.floor(cycles(seconds).valueOf() + 1e-9));
  if ('timesS' in arrives) {
    const at = [...arrives.timesS].sort((one, other) => one - other).map(whole);
    return { kind: 'times', at: at.filter((cycle, i) => i === 0 || cycle > (at[i - 1] ?? 0)) };
  }
  if ('leastS' in arrives) {
    return { kind: 'sporadic', min: Math.max(1, whole(arrives.leastS)), spread: whole(arrives.spreadS ?? 0) };
  }
  return periodic(cycles(arrives.everyS), cycles(arrives.firstS ?? 0), whole(arrives.jitterS ?? 0));
}

function planTask(
  part: Part,
  task: PlanTask,
  cpuHz: Exact,
  at: number,
): { task: CpuTask; origin: TaskOrigin } {
  const usual = part.timers.flatMap(({ interrupts }) => Object.values(interrupts))[0];
  return {
    task: {
      id: `task.${task.id}`,
      name: task.name,
      level: levelOf(part.cpu, task.priority),
      vector: sharesHandlers(part.cpu) ? 0 : (task.vector ?? LAST_VECTOR + at),
      arrivals: taskArrivals(task, cpuHz),
      cycles: bounds(task.cycles),
      writeAt: 0,
      clears: task.clears ?? (usual ? clearsOf(usual) : 'start'),
    },
    origin: { uses: [], task, estimated: false },
  };
}

function loopOf(part: Part, path: ClockPath, signal: string, setting: Setting | undefined): CpuLoop[] {
  if (!setting || !driveOf(setting).loop) return [];
  const { edges, periodTicks } = outcomeUnder(part, path, setting).cycle;
  return 'rise' in edges ? [{ signal, period: periodTicks, rise: edges.rise, fall: edges.fall }] : [];
}

/** The section in which a signal's bits are sent, interrupts waiting. */
function frameOf(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  setting: Setting | undefined,
  cpuHz: Exact,
): MaskedSection[] {
  const requirement = requirementOf(signal);
  const { burst } = requirement;
  if (!setting || !burst) return [];
  const { frequency } = outcomeUnder(part, path, setting);
  if (!sendsBits(part, setting, requirement, frequency, cpuHz)) return [];
  // A timer is waited for before the first bit and after the last one.
  const periods = burst.periods + (driveOf(setting).bits ? 0 : 2);
  const length = Math.ceil(cpuHz.mul(periods).div(frequency).valueOf() - 1e-9);
  const every = Math.max(length + 1, Math.round(cpuHz.valueOf() / burst.everyHz));
  return [{ name: `${signal.name}: a frame`, every, length, first: every }];
}

/**
 * The interrupts of a plan as the simulation and the bounds take them: one task for each flag that signals need, and the
 * plan's own tasks. Timers are taken to start together.
 */
export function planCpu(
  plan: Pick<Plan, 'signals' | 'cpu' | 'pinNames'>,
  part: Part,
  path: ClockPath,
  settings: ReadonlyMap<string, Setting>,
  program: Program = programOf(part, planProgram(plan, part, path, settings).signals),
): PlanCpu {
  const cpuHz = clockOf(path, part.cpu.clock);
  const lengths = new Map(
    program.handlers.flatMap((handler) => {
      const all = handlerCycles(part, handler, program.routines, 'slowest');
      return handler.flags.map(
        ({ interrupt: { vector, flag } }, at) =>
          [`${vector} ${flag}`, all[at] ?? { min: 0, max: 0 }] as const,
      );
    }),
  );
  const flags = new Map<string, Source[]>();
  for (const signal of plan.signals) {
    const setting = settings.get(signal.id);
    if (!setting) continue;
    for (const source of sourcesOf(part, path, { signal, setting })) {
      const key = `${source.interrupt.vector} ${source.interrupt.flag}`;
      flags.set(key, [...(flags.get(key) ?? []), source]);
    }
  }
  const named = new Map<{ task: CpuTask; origin: TaskOrigin }, string>();
  const made = [
    ...[...flags.values()].flatMap((sources) => signalTask(part, sources, lengths) ?? []),
    ...(plan.cpu?.tasks ?? []).map((task, at) => planTask(part, task, cpuHz, at)),
  ];
  // The controller has one priority for all flags of an interrupt.
  for (const { task, origin } of made) {
    if (!origin.interrupt) continue;
    const same = made.filter((one) => one.origin.interrupt?.vector === origin.interrupt?.vector);
    task.level = Math.min(...same.map((one) => one.task.level));
  }
  for (const one of made) {
    const alike = made.filter(({ task }) => task.name === one.task.name);
    if (alike.length < 2) continue;
    const { vector, flag } = one.origin.interrupt ?? { vector: 'task', flag: '' };
    const sharing = alike.filter(({ origin }) => origin.interrupt?.vector === vector).length > 1;
    const bit = flag.split('.').pop() ?? flag;
    named.set(one, `${one.task.name} (${sharing ? `${vector} ${bit}` : vector})`);
  }
  for (const [one, name] of named) one.task.name = name;
  made.sort((one, other) => one.task.level - other.task.level || one.task.vector - other.task.vector);
  const { entryCycles, exitCycles, tailCycles, lateCycles, stepsBetween, priorities } = part.cpu;
  const model: CpuModel = {
    core: {
      entry: entryCycles,
      exit: exitCycles,
      ...(tailCycles === undefined ? {} : { tail: tailCycles }),
      late: lateCycles,
      between: stepsBetween === true && priorities.scheme !== 'levels',
      ...(priorities.masks ? { masks: true as const } : {}),
    },
    tasks: made.map(({ task }) => task),
    masked: [
      ...plan.signals.flatMap((signal) => frameOf(part, path, signal, settings.get(signal.id), cpuHz)),
      ...(plan.cpu?.mainLoop?.masked ?? []).map(({ name, everyS, cycles }) => {
        const every = Math.max(1, Math.round(cpuHz.mul(exact(everyS)).valueOf()));
        return { name, every, length: cycles, first: every };
      }),
    ],
  };
  const loops = plan.signals.flatMap((signal) => loopOf(part, path, signal.id, settings.get(signal.id)));
  return { model, origins: made.map(({ origin }) => origin), loops, cpuHz: cpuHz.valueOf() };
}
