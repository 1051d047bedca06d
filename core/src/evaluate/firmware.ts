import { clockOf, type ClockPath } from '../clock/path.ts';
import type { EventSource, Firmware } from '../machine/firmware.ts';
import { StepPlayer, type Hardware } from '../machine/played-steps.ts';
import { PlayedTimer } from '../machine/played-timer.ts';
import { channelOf, modeOf } from '../part/find.ts';
import type { Interrupt, Part, Writes } from '../part/types.ts';
import { stepCycles } from '../program/cycles.ts';
import type { Program } from '../program/program.ts';
import type { ProgramSignal } from '../program/signal.ts';
import { grainOf } from '../timer/count.ts';
import { driveOf, outcomeUnder, runsOf } from '../timer/drives/index.ts';
import { fieldWrites } from '../timer/fields.ts';
import { reloadLatency, runTicks } from '../timer/run.ts';
import { hasTimer, resolveCounter, type TimerSetting } from '../timer/setting.ts';
import { softwarePin, tickOf } from '../timer/tick.ts';
import { delayTo } from './phases.ts';

/** The edges that handlers make of one pin, in cycles, and how long after its event the earliest and the latest of them came. */
export type PlayedPin = { cycles: number[]; levels: (0 | 1)[]; least: number; most: number };

/** A program as a simulation plays it, once, and where the edges of its pins are kept, by pin. */
export type PlayedProgram = { firmware: Firmware; pins: ReadonlyMap<string, PlayedPin> };

/** A timer that interrupts, and what its registers hand to it. */
type Played = {
  timer: PlayedTimer;
  /** Which register or field takes a compare value or a top, and how it becomes ticks. */
  places: Map<string, (value: number, cycle: number) => void>;
  sources: Map<string, EventSource>;
};

/** When an interrupt is to come, by its vector and flag, in cycles from the start; undefined where its timer begins with all others. */
type MomentOf = (key: string) => number | undefined;

function keyOf({ vector, flag }: Pick<Interrupt, 'vector' | 'flag'>): string {
  return `${vector} ${flag}`;
}

/** The changes of pins that the program makes itself, by the bit that makes them: "PORTB.PORTB5 1". */
function pinChanges(
  part: Part,
  signals: readonly ProgramSignal[],
): Map<string, { pin: string; level: 0 | 1 }> {
  const own = signals.flatMap(({ setting }) =>
    driveOf(setting).cause === 'interrupts' && setting.pin !== undefined ? [setting.pin] : [],
  );
  return new Map(
    [...new Set(own)].flatMap((pin) => {
      const { software } = softwarePin(part, pin);
      return ([1, 0] as const).flatMap((level) =>
        fieldWrites(level === 1 ? software.high : software.low).map(
          ({ register, field, value }) => [`${register}.${field} ${value}`, { pin, level }] as const,
        ),
      );
    }),
  );
}

/** A signal whose timer's interrupts come on their own, with a counter that follows what handlers write. */
function playedTimer(
  part: Part,
  path: ClockPath,
  { setting, sequence }: ProgramSignal & { setting: TimerSetting },
  known: Played | undefined,
  momentOf: MomentOf,
): Played | undefined {
  const outcome = outcomeUnder(part, path, setting);
  const cycles = clockOf(path, part.cpu.clock).div(outcome.tickHz);
  const [n, d] = [Number(cycles.n), Number(cycles.d)];
  const drive = driveOf(setting);
  const events = drive.events?.(part, setting) ?? [];
  if (events.some(({ reload }) => reload)) return undefined;
  const { timer, mode, division } = resolveCounter(part, setting);
  const perRun = runsOf(setting.drive);
  const run = outcome.cycle.periodTicks / perRun;
  const [first] = events;
  const tick = tickOf(timer, mode);
  if (!tick || (!first && !sequence?.tick)) return undefined;
  const every = first?.everyTicks ?? run;
  const firstTicks = first?.firstTicks ?? run;
  const moment = momentOf(keyOf(tick));
  const played: Played = known ?? {
    timer: new PlayedTimer(
      {
        first:
          moment === undefined
            ? 0
            : delayTo(moment, cycles.mul(firstTicks).valueOf(), cycles.mul(every).valueOf()),
        n,
        d,
      },
      firstTicks,
      every,
    ),
    places: new Map(),
    sources: new Map(),
  };
  if (!played.sources.has(keyOf(tick))) played.sources.set(keyOf(tick), played.timer.ends());
  const ticksOf = (top: number): number =>
    runTicks(mode, division.n, division.scale, top, reloadLatency(part.cpu)) *
    ('postscale' in setting ? (setting.postscale ?? 1) : 1);
  const { top } = modeOf(timer, setting.mode);
  if (top.kind === 'register') {
    for (const key of Object.keys(top.running ?? top.writes))
      played.places.set(key, (value) => played.timer.putLength(ticksOf(value)));
  }
  const [, match] = events;
  if (match && 'channel' in setting && 'compare' in setting) {
    const channel = channelOf(timer, setting.channel);
    const matchTicks = (compare: number): number => (compare + (mode.lag ?? 0)) * division.n * grainOf(mode);
    const buffered = (mode.update.match ?? mode.update.compare) !== 'immediate';
    const own = played.timer.match(channel.id, matchTicks(setting.compare ?? 0), buffered);
    played.sources.set(keyOf(match.interrupt), own);
    for (const key of Object.keys(channel.compare))
      played.places.set(key, (value, cycle) => played.timer.put(channel.id, matchTicks(value), cycle));
  }
  return played;
}

/** The timer that another one is a variant of, else itself. */
function rootOf(part: Part, timer: string): string {
  return part.timers.find(({ id }) => id === timer)?.variantOf ?? timer;
}

/** By timer, those that interrupt and are not reloaded by their handlers. */
function playedTimers(
  part: Part,
  path: ClockPath,
  signals: readonly ProgramSignal[],
  momentOf: MomentOf,
): Map<string, Played> {
  const timers = new Map<string, Played>();
  for (const signal of signals) {
    const { setting } = signal;
    if (!hasTimer(setting)) continue;
    const root = rootOf(part, setting.timer);
    const played = playedTimer(part, path, { ...signal, setting }, timers.get(root), momentOf);
    if (played) timers.set(root, played);
  }
  return timers;
}

/** What the steps of handlers do to pins and timers. */
function hardwareOf(
  changes: ReadonlyMap<string, { pin: string; level: 0 | 1 }>,
  pins: ReadonlyMap<string, PlayedPin>,
  timers: ReadonlyMap<string, Played>,
): Hardware {
  const places = new Map([...timers.values()].flatMap((played) => [...played.places]));
  return {
    change: (writes) => {
      const [found] = writes.flatMap(
        ({ register, field, value }) => changes.get(`${register}.${field} ${value}`) ?? [],
      );
      const pin = found && pins.get(found.pin);
      if (!pin) return undefined;
      return (cycle, arrival) => {
        if (found.level === (pin.levels[pin.levels.length - 1] ?? 0)) return;
        pin.cycles.push(cycle);
        pin.levels.push(found.level);
        pin.least = Math.min(pin.least, cycle - arrival);
        pin.most = Math.max(pin.most, cycle - arrival);
      };
    },
    put: (writes: Writes, _name, value) => {
      const put = Object.keys(writes).flatMap((key) => places.get(key) ?? [])[0];
      return put && ((cycle) => put(value, cycle));
    },
    // The reload itself is the first write of a handler, which the processor follows.
    reload: () => undefined,
  };
}

/**
 * A plan's program ready to be played once: its variables as after start, its sequences begun. `tasks` are the interrupts of the model's tasks in
 * their order, `measured` where the user knows how long a handler takes. Timers are delayed for their interrupts to come at the moments that `momentOf` gives.
 */
export function playedProgram(
  part: Part,
  path: ClockPath,
  signals: readonly ProgramSignal[],
  program: Program,
  tasks: readonly { interrupt?: Interrupt; measured: boolean }[],
  momentOf: MomentOf = () => undefined,
): PlayedProgram {
  const changes = pinChanges(part, signals);
  const pins = new Map(
    [...changes.values()].map(({ pin }): [string, PlayedPin] => [
      pin,
      { cycles: [], levels: [], least: Infinity, most: 0 },
    ]),
  );
  const timers = playedTimers(part, path, signals, momentOf);
  const tables = new Map(program.tables.map((table) => [table.name, table]));
  const player = new StepPlayer(
    stepCycles(part, program.routines, 'slowest'),
    tables,
    hardwareOf(changes, pins, timers),
  );
  for (const { kept, initial } of program.variables) player.kept.set(kept, initial);
  for (const { happen } of player.handler(program.begin)().effects) happen(0, 0);
  const parts = new Map(
    program.handlers.flatMap(({ flags }) =>
      flags.map(({ interrupt, steps }) => [keyOf(interrupt), player.handler(steps)] as const),
    ),
  );
  const sources = new Map([...timers.values()].flatMap((played) => [...played.sources]));
  const own = tasks.map(({ interrupt, measured }) => {
    const key = interrupt && keyOf(interrupt);
    const play = key === undefined ? undefined : parts.get(key);
    return { play, measured, source: key === undefined ? undefined : sources.get(key) };
  });
  return {
    pins,
    firmware: {
      play: (task) => {
        const { play, measured = false } = own[task] ?? {};
        const played = play?.();
        return played && measured ? { effects: played.effects } : played;
      },
      source: (task) => own[task]?.source,
    },
  };
}
