import type { ClockPath } from '../clock/path.ts';
import { modeOf, pinOf } from '../part/find.ts';
import type { Part, Pin, Timer, Writes } from '../part/types.ts';
import { driveOf, isOutput } from '../timer/drives/index.ts';
import { fieldWrites, plainWrites, type FieldWrite } from '../timer/fields.ts';
import { hasTimer, pinsOfSetting, timerIdOf } from '../timer/setting.ts';
import { bringUpSteps } from './bring-up.ts';
import { enableSteps } from './enable.ts';
import type { ProgramSignal } from './signal.ts';
import type { Step, Value } from './step.ts';

/** What is to be set up beside the signals: functions for the start-up, whether interrupts are taken at the end, and their priorities. */
export type SetUpOptions = {
  startUp?: boolean;
  allowInterrupts?: boolean;
  priorities?: readonly FieldWrite[];
};

/** What sets everything up: the clocks, on demand; steps once, steps at each start, and what enables the interrupts at its end. */
export type SetUp = {
  clocks?: readonly Step[];
  init: readonly Step[];
  start: readonly Step[];
  enable: readonly Step[];
};

/** Matches that run along with a free counter start one period after where it stands now. */
function movedStarts(timer: Timer, signals: readonly ProgramSignal[]): Map<string, Value> {
  const starts = signals.flatMap(({ setting }): [string, Value][] => {
    if (!hasTimer(setting) || setting.timer !== timer.id) return [];
    const { top } = modeOf(timer, setting.mode);
    if (top.kind !== 'moved') return [];
    const now: Value = timer.counter === undefined ? 0 : { register: timer.counter };
    return Object.keys(top.writes).map((register) => [
      register,
      { left: now, op: '+', right: setting.top + 1 },
    ]);
  });
  return new Map(starts);
}

/** Where the counter begins: at 0, where its signals want it, or at what it is loaded with where it counts up from that. */
function firstCount(part: Part, timer: Timer, signals: readonly ProgramSignal[]): number {
  const settings = signals.map((signal) => signal.setting).filter((one) => timerIdOf(one) === timer.id);
  for (const one of settings) {
    if ('begin' in one && one.begin) return one.begin;
  }
  const [setting] = settings;
  const start = setting && hasTimer(setting) ? modeOf(timer, setting.mode).start : undefined;
  if (!setting || !start) return 0;
  const [first] = fieldWrites(start, driveOf(setting).numbers(part, setting));
  return first?.value ?? 0;
}

function timerSteps(
  part: Part,
  timer: Timer,
  writes: readonly FieldWrite[],
  signals: readonly ProgramSignal[],
): Step[] {
  const moved = movedStarts(timer, signals);
  const steps = timer.sequence.flatMap(({ register, without, until }): Step[] => {
    const own = writes.filter((write) => write.register === register);
    if (register === timer.counter)
      return [{ do: 'load', register, value: firstCount(part, timer, signals) }];
    const start = moved.get(register);
    if (start !== undefined) return [{ do: 'load', register, value: start }];
    if (own.length === 0) return [];
    // Bits that come with a later step are zero in this one.
    const kept = own.map((write) => (without?.includes(write.field ?? '') ? { ...write, value: 0 } : write));
    return [
      { do: 'store', register, writes: kept, ...(without ? { note: 'not running yet' } : {}) },
      ...(until === undefined ? [] : [{ do: 'wait', until } as const]),
    ];
  });
  return [{ do: 'say', text: timer.name }, ...steps, { do: 'gap' }];
}

/** Stores that enable clocks, read back where the part needs it before what they feed may be used. */
function withReadBack(part: Part, writes: readonly FieldWrite[]): Step[] {
  if (writes.length === 0) return [];
  const read = part.code.readsBack ? [...new Set(writes.map(({ register }) => register))] : [];
  return [{ do: 'change', writes }, ...read.map((register) => ({ do: 'read', register }) as const)];
}

/** The writes that lead signals to and from their pins: those of outputs come once the timer is set, others before. */
function pinWrites(part: Part, signals: readonly ProgramSignal[], outputs: boolean): FieldWrite[] {
  const own = signals.filter(({ setting }) => isOutput(setting) === outputs);
  return plainWrites(own.map(({ setting }) => driveOf(setting).pinWrites(part, setting)));
}

/** Power for the timers and pins, then the pins as they are to be before their timers drive them. */
function pinsBefore(part: Part, signals: readonly ProgramSignal[]): Step[] {
  const timers = new Set(timersOf(part, signals));
  const power = withReadBack(part, plainWrites([...timers].map((timer) => timer.power)));
  const conditions = [...new Set([...timers].flatMap((timer) => timer.ready ?? []))];
  const waits = conditions.map((until): Step => ({ do: 'wait', until }));
  const orders = [...timers].flatMap((timer) => timer.commands ?? []);
  const commands = uniqueOrders(orders).map((order): Step => ({ do: 'order', order }));
  const pins = pinsOf(part, signals);
  const idle = withReadBack(part, plainWrites(pins.map((pin) => pin.idle)));
  const awake = [...new Set(pins.flatMap((pin) => pin.ready ?? []))].map((until): Step => ({
    do: 'wait',
    until,
  }));
  const inputs = pinWrites(part, signals, false);
  const prepared: Step[] = [
    ...idle,
    ...awake,
    ...(inputs.length > 0 ? [{ do: 'change', writes: inputs } as const] : []),
  ];
  const said = (text: string, ops: readonly Step[]): Step[] =>
    ops.length > 0 ? [{ do: 'say', text }, ...ops] : [];
  return [
    ...(power.length > 0
      ? said('Clocks for the timers.', [...power, ...commands, ...waits, { do: 'gap' }])
      : []),
    ...said('The pins, before their timers drive them.', prepared),
  ];
}

/** Orders once each: several timers may want the same. */
function uniqueOrders(orders: readonly Writes[]): Writes[] {
  return orders.filter(
    (order, at) => at === orders.findIndex((other) => JSON.stringify(other) === JSON.stringify(order)),
  );
}

/** Timers that the signals use, in the part's order. */
function timersOf(part: Part, signals: readonly ProgramSignal[]): Timer[] {
  return part.timers.filter((timer) => signals.some(({ setting }) => timerIdOf(setting) === timer.id));
}

function pinsOf(part: Part, signals: readonly ProgramSignal[]): Pin[] {
  const ids = new Set(signals.flatMap(({ setting }) => pinsOfSetting(setting)));
  return [...ids].map((id) => pinOf(part, id));
}

/** The steps that set everything up. */
export function setUpOf(
  part: Part,
  path: ClockPath,
  signals: readonly ProgramSignal[],
  writes: readonly FieldWrite[],
  options: SetUpOptions,
): SetUp {
  const driven = pinsOf(
    part,
    signals.filter(({ setting }) => isOutput(setting)),
  );
  const outputs = [pinWrites(part, signals, true), plainWrites(driven.map((pin) => pin.enable))].flatMap(
    (own): Step[] => (own.length > 0 ? [{ do: 'change', writes: own }] : []),
  );
  const settings = signals.map(({ setting }) => setting);
  const clocks = options.startUp === true ? bringUpSteps(part, path, settings) : undefined;
  return {
    ...(clocks ? { clocks } : {}),
    init: pinsBefore(part, signals),
    start: [
      ...timersOf(part, signals).flatMap((timer) => timerSteps(part, timer, writes, signals)),
      ...(outputs.length > 0
        ? [{ do: 'say', text: 'The timers run: now they get their pins.' } as const, ...outputs]
        : []),
    ],
    enable: enableSteps(part, signals, options.priorities ?? [], options.allowInterrupts === true),
  };
}
