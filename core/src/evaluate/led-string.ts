import { clockOf, clockPath, type ClockPath } from '../clock/path.ts';
import type { Arrivals, CpuModel, CpuTask, MaskedSection } from '../machine/model.ts';
import type { CpuRun } from '../machine/record.ts';
import { simulate } from '../machine/simulate.ts';
import type { Cpu, Part } from '../part/types.ts';
import type { Plan } from '../plan/plan.ts';
import { printNumber, printSeconds } from '../quantity/print.ts';
import { kindOf } from '../signal/kinds/index.ts';
import { BITS_OF_LED, FRAMES_HZ } from '../signal/kinds/led-string.ts';
import type { Setting } from '../timer/setting.ts';
import { planCpu } from './cpu-model.ts';
import { settingsOf } from './evaluate.ts';

/** A string as its data sheet describes it. Times in s. */
export type LedString = {
  leds: number;
  bitS: number;
  /** The line must be low for so long before the string shows a frame. */
  resetS: number;
  /** A pause between two LEDs that is longer may already count as the end of the frame. */
  gapS: number;
  /** Frames a second that are sent. */
  frameHz: number;
};

/** How the bits are sent. */
type StringWayId = 'masked' | 'gaps' | 'interrupt' | 'transfer';

/** What one way of sending costs, and what it does to the other interrupts. */
export type StringWay = {
  id: StringWayId;
  name: string;
  /** Why it cannot be done; absent where it can. */
  reason?: string;
  /** Time of a frame with the reset, and the most frames a second. */
  frameS: number;
  mostHz: number;
  /** Share of the processor that sending takes. */
  share: number;
  /** Frames that were simulated, and those that a too long pause between two LEDs cut short. */
  frames: number;
  broken: number;
  /** The other interrupts: events, those that were lost, and the worst wait in s. */
  others: { name: string; events: number; lost: number; worstWaitS: number }[];
};

/** Frames that are simulated at most, and sections and bits in all of them together. */
const FRAMES = 40;
const MOST_SECTIONS = 40_000;
const MOST_BITS = 400_000;

const NAMES: Record<StringWayId, string> = {
  masked: 'a loop, interrupts off for the frame',
  gaps: 'a loop, interrupts between two LEDs',
  interrupt: 'a timer, its compare value by interrupt',
  transfer: 'a timer, its compare value by memory transfer',
};

/** The same events on a processor with another clock: what takes cycles still takes as many, what takes time takes others. */
function scaledArrivals(arrivals: Arrivals, by: number): Arrivals {
  const times = (cycles: number): number => Math.round(cycles * by);
  switch (arrivals.kind) {
    case 'periodic': {
      const every = times(arrivals.n / arrivals.d);
      return {
        kind: 'periodic',
        n: Math.max(1, every),
        d: 1,
        first: times(arrivals.first),
        jitter: times(arrivals.jitter),
      };
    }
    case 'sporadic':
      return { kind: 'sporadic', min: Math.max(1, times(arrivals.min)), spread: times(arrivals.spread) };
    case 'times':
      return { kind: 'times', at: arrivals.at.map(times) };
    case 'reloaded':
      return {
        ...arrivals,
        first: times(arrivals.first),
        count: arrivals.count * by,
        hold: arrivals.hold * by,
      };
  }
}

/** A model at so many times the processor's clock. */
function scaledModel(model: CpuModel, by: number): CpuModel {
  if (by === 1) return model;
  return {
    ...model,
    tasks: model.tasks.map((task) => ({ ...task, arrivals: scaledArrivals(task.arrivals, by) })),
    masked: model.masked.map((section) => ({
      ...section,
      every: Math.max(1, Math.round(section.every * by)),
      first: Math.round(section.first * by),
    })),
  };
}

/** Frames in which some pause between two LEDs was longer than the string takes, in cycles. */
function brokenFrames({ spans }: CpuRun, who: number, frame: number, gap: number): number {
  let broken = 0;
  let sent = 0;
  let cut = false;
  let before = -1;
  spans.who.forEach((one, i) => {
    if (one !== who) return;
    const [from, to] = [spans.from[i] ?? 0, spans.to[i] ?? 0];
    if (sent > 0 && from - before > gap) cut = true;
    sent += to - from;
    before = to;
    if (sent < frame) return;
    if (cut) broken += 1;
    sent = 0;
    cut = false;
  });
  return broken;
}

/** Frames in which a bit was handed over after its time, or not at all. */
function lateFrames({ services, losses }: CpuRun, who: number, bit: number, every: number): number {
  const late = new Set<number>();
  const frameOf = (cycle: number | undefined): number => Math.floor((cycle ?? 0) / every);
  services.task.forEach((task, i) => {
    const arrival = services.arrival[i] ?? 0;
    if (task === who && (services.written[i] ?? 0) - arrival > bit) late.add(frameOf(arrival));
  });
  losses.task.forEach((task, i) => {
    if (task === who) late.add(frameOf(losses.at[i]));
  });
  return late.size;
}

function feedTask({ feedCycles }: Cpu, bit: number, bits: number, every: number, frames: number): CpuTask {
  const at: number[] = [];
  for (let frame = 1; frame <= frames; frame += 1) {
    for (let k = 0; k < bits; k += 1) at.push(Math.ceil(frame * every + k * bit));
  }
  return {
    id: 'led-string',
    name: 'LED string',
    level: 0,
    vector: -1,
    arrivals: { kind: 'times', at },
    cycles: { min: feedCycles, max: feedCycles },
    writeAt: feedCycles,
    clears: 'entry',
  };
}

function othersOf(run: CpuRun, model: CpuModel, cpuHz: number): StringWay['others'] {
  return model.tasks.flatMap((task, at) => {
    const tally = run.tally[at];
    if (!tally || task.id === 'led-string') return [];
    const { events, lost, worstWait } = tally;
    return [{ name: task.name, events, lost, worstWaitS: worstWait / cpuHz }];
  });
}

/**
 * The ways to send a frame to a string of addressable LEDs, side by side, each simulated together with the plan's other
 * interrupts. `by` is another processor clock, as a multiple of the plan's.
 */
export function ledStringWays(
  plan: Pick<Plan, 'signals' | 'cpu' | 'pinNames'>,
  part: Part,
  path: ClockPath,
  settings: ReadonlyMap<string, Setting>,
  string: LedString,
  by = 1,
): StringWay[] {
  const base = scaledModel(planCpu(plan, part, path, settings).model, by);
  const cpuHz = clockOf(path, part.cpu.clock).valueOf() * by;
  const bits = string.leds * BITS_OF_LED;
  const dataS = bits * string.bitS;
  const frameS = dataS + string.resetS;
  const frameHz = Math.min(string.frameHz, 1 / frameS);
  const every = Math.round(cpuHz / frameHz);
  const bit = string.bitS * cpuHz;
  const frames = Math.max(1, Math.min(FRAMES, Math.floor(MOST_SECTIONS / string.leds)));
  const cycles = (frames + 1) * every;
  const led = Math.round(BITS_OF_LED * bit);

  function simulated(id: StringWayId, model: CpuModel, section: MaskedSection | undefined): StringWay {
    const own: CpuModel = section ? { ...model, masked: [...model.masked, section] } : model;
    const run = simulate(own, { cycles, seed: 1 });
    const who = -own.masked.length;
    const feeding = own.tasks.findIndex((task) => task.id === 'led-string');
    const fed = feeding < 0 ? undefined : run.tally[feeding];
    const broken = section
      ? brokenFrames(run, who, string.leds * led, string.gapS * cpuHz)
      : lateFrames(run, feeding, bit, every);
    const share = section ? dataS * frameHz : fed ? fed.busy / cycles : 0;
    return {
      id,
      name: NAMES[id],
      frameS,
      mostHz: 1 / frameS,
      share,
      frames,
      broken,
      others: othersOf(run, own, cpuHz),
    };
  }
  const impossible = (id: StringWayId, reason: string): StringWay => ({
    id,
    name: NAMES[id],
    reason,
    frameS,
    mostHz: 1 / frameS,
    share: 0,
    frames: 0,
    broken: 0,
    others: [],
  });
  const section = (repeats: number): MaskedSection => ({
    name: 'LED string',
    every,
    length: repeats === 1 ? string.leds * led : led,
    first: every,
    repeats,
  });
  const { entryCycles, exitCycles, feedCycles, stepsBetween, transfers } = part.cpu;
  const needs = entryCycles + feedCycles + exitCycles + (stepsBetween ? 1 : 0);
  const has = Math.floor(bit + 1e-9);
  const tooLong = `${printNumber(bits)} bits a frame are too many to simulate one by one.`;
  return [
    simulated('masked', base, section(1)),
    simulated('gaps', base, section(string.leds)),
    has <= needs
      ? impossible(
          'interrupt',
          `A bit of ${printSeconds(string.bitS)} has ${printNumber(has)} cycles, and an interrupt for each needs ${printNumber(needs)}.`,
        )
      : bits * frames > MOST_BITS
        ? impossible('interrupt', tooLong)
        : simulated(
            'interrupt',
            { ...base, tasks: [feedTask(part.cpu, bit, bits, every, frames), ...base.tasks] },
            undefined,
          ),
    transfers
      ? simulated('transfer', base, undefined)
      : impossible('transfer', `${part.name} has no memory transfer that feeds a timer.`),
  ];
}

/** What a string of LEDs is taken for where its signal does not say it: reset, pause between LEDs, frames a second. */
const USUAL = { resetS: 50e-6, gapS: 5e-6, frameHz: FRAMES_HZ };

/** The ways to send one signal of a plan; undefined where that is not a string of LEDs. */
export function stringWaysOf(
  plan: Plan,
  part: Part,
  id: string,
  by = 1,
): { ways: StringWay[]; string: LedString; cpuHz: number } | undefined {
  const signal = plan.signals.find((one) => one.id === id);
  const bits = signal && kindOf(signal).ledBits?.(signal.target);
  if (!bits) return undefined;
  const { leds, bitS, frameHz = USUAL.frameHz } = bits;
  const mostHz = 1 / (leds * BITS_OF_LED * bitS + USUAL.resetS);
  const string: LedString = {
    leds,
    bitS,
    resetS: USUAL.resetS,
    gapS: USUAL.gapS,
    frameHz: Math.min(frameHz, mostHz),
  };
  const path = clockPath(part, plan.clock);
  const others = { ...plan, signals: plan.signals.filter((one) => one !== signal) };
  const ways = ledStringWays(others, part, path, settingsOf(plan, part, path), string, by);
  return { ways, string, cpuHz: clockOf(path, part.cpu.clock).valueOf() * by };
}
