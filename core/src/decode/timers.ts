import { clockOf, type ClockPath } from '../clock/path.ts';
import type { Exact } from '../quantity/exact.ts';
import type { Channel, Interrupt, Mode, Part, Timer, Writes } from '../part/types.ts';
import { isTopChannel, SettingError, topRange, type Setting } from '../timer/setting.ts';
import { driveById, fieldsOf, outcomeUnder } from '../timer/drives/index.ts';
import type { Effect } from '../timer/outcome.ts';
import { tickOf } from '../timer/tick.ts';
import { deciding, refusal } from './deciding.ts';
import { decoded, fieldValue, mismatches, type Mismatch } from './fields.ts';
import { otherClocks, unknownBits } from './known-fields.ts';
import { oppositeIn, outputIn } from './outputs.ts';
import {
  forgottenIn,
  moveOf,
  restarted,
  restartOf,
  runsFree,
  withReload,
  type Restart,
} from './handler-rates.ts';
import type { Registers } from './statements.ts';

/** What the registers make of one timer. */
export type DecodedTimer = {
  timer: string;
  mode?: string;
  running: boolean;
  prescaler?: number;
  top?: number;
  effects: Effect[];
  /** What stands in the way, each as a sentence. */
  notes: string[];
};

/** Fields that start a counter: those its sequence leaves out at first. */
function runFields(timer: Timer): Set<string> {
  return new Set(
    timer.sequence.flatMap(({ register, without }) => (without ?? []).map((field) => `${register}.${field}`)),
  );
}

function differs({ key, wanted, value }: Mismatch, what: string): string {
  return `${key} is ${value}; ${what} has ${wanted}.`;
}

/**
 * The mode whose fields fit best; first on ties. A field that starts the counter may still keep it stopped; any other value of it, such as
 * another clock, decides.
 */
function modeIn(
  part: Part,
  timer: Timer,
  values: ReadonlyMap<string, number>,
): { mode: Mode; off: Mismatch[]; neutral: Mismatch[]; stopped: boolean } | undefined {
  const start = runFields(timer);
  const stops = ({ key, value, wanted }: Mismatch): boolean =>
    start.has(key) && (value === 0 || wanted === 0);
  const rated = timer.modes.map((mode) => {
    // Fields that only turn an output over are a matter of that output.
    const turned = Object.values(mode.pwm?.turned ?? {}).flatMap((writes) => Object.keys(writes));
    const { off, neutral } = deciding(part, timer, values, mode, turned);
    return {
      mode,
      off: off.filter((one) => !stops(one)),
      neutral,
      stopped: off.some(stops),
    };
  });
  return rated.reduce<(typeof rated)[number] | undefined>(
    (one, other) => (one === undefined || other.off.length < one.off.length ? other : one),
    undefined,
  );
}

/** Whether a division is the one in force, by its writes or by others that divide alike. */
function isChosen(
  part: Part,
  values: ReadonlyMap<string, number>,
  { writes, same = [] }: { writes: Writes; same?: readonly Writes[] },
): boolean {
  return [writes, ...same.map((one) => ({ ...writes, ...one }))].some(
    (one) => mismatches(part, values, one).length === 0,
  );
}

function prescalerIn(part: Part, timer: Timer, values: ReadonlyMap<string, number>): number | undefined {
  const { prescaler } = timer;
  if (prescaler.kind === 'list') {
    return prescaler.options.find((option) => isChosen(part, values, option))?.divide;
  }
  const divide = decoded(part, values, prescaler.writes, 'divide');
  if (divide === undefined || !prescaler.whole) return divide;
  const dropped = mismatches(part, values, prescaler.whole).length === 0;
  return dropped ? Math.floor(divide) : divide;
}

function topIn(
  part: Part,
  { top }: Mode,
  timer: Timer,
  values: ReadonlyMap<string, number>,
): number | undefined {
  if (top.kind === 'fixed') return top.value;
  if (top.kind === 'power') {
    const bits = decoded(part, values, top.writes, 'bits');
    return bits === undefined ? undefined : 2 ** bits - 1;
  }
  if (top.kind === 'reload') {
    const reload = decoded(part, values, top.writes, 'reload');
    return reload === undefined ? undefined : 2 ** timer.width - 1 - reload;
  }
  return decoded(part, values, top.writes, 'top');
}

/** The compare value of a channel; one whose match lies before the overflow is distinguished from the top. */
function compareIn(
  part: Part,
  channel: Channel,
  top: number,
  values: ReadonlyMap<string, number>,
): number | undefined {
  const form = channel.forms?.find(({ when }) => mismatches(part, values, when).length === 0);
  const { compare } = form ?? channel;
  const match = decoded(part, values, compare, 'match');
  return match === undefined ? decoded(part, values, compare, 'compare') : top + match;
}

/** The count at which the counter begins, if it is not 0. */
function beginIn(
  timer: Timer,
  mode: Mode,
  drive: string,
  values: ReadonlyMap<string, number>,
): number | undefined {
  if (!timer.preset || timer.counter === undefined || mode.count !== 'up' || mode.start) return undefined;
  if (!fieldsOf(driveById(drive))['begin']) return undefined;
  return values.get(timer.counter) || undefined;
}

function outputEffects(
  part: Part,
  path: ClockPath,
  reading: DecodedTimer,
  timer: Timer,
  mode: Mode,
  values: ReadonlyMap<string, number>,
): void {
  const { prescaler, top } = reading;
  if (prescaler === undefined || top === undefined) return;
  for (const channel of timer.channels) {
    const found = outputIn(part, timer, mode, channel, values);
    if (!found) continue;
    const { output, off, neutral, lead } = found;
    const [refused] = off;
    if (refused) {
      reading.notes.push(`${channel.name}: ${refusal(refused, mode.name)}`);
      continue;
    }
    const { complement, fault } = oppositeIn(part, timer, channel, found, values);
    if (fault !== undefined) {
      reading.notes.push(`${channel.name}: ${fault}`);
      continue;
    }
    const compare = isTopChannel(mode, channel.id) ? top : (compareIn(part, channel, top, values) ?? top);
    const begin = beginIn(timer, mode, output.drive, values);
    const setting: Setting = {
      drive: output.drive,
      timer: timer.id,
      mode: mode.id,
      channel: channel.id,
      pin: output.pin,
      ...(output.polarity === 'inverted' ? { polarity: output.polarity } : {}),
      prescaler,
      top,
      compare,
      ...(begin === undefined ? {} : { begin }),
      ...(complement ? { complement } : {}),
    };
    for (const one of neutral) reading.notes.push(differs(one, `${channel.name} in this mode`));
    reading.notes.push(...onlyInterrupts(part, timer, mode, channel, values));
    if (lead.length > 0) {
      const [first] = lead;
      reading.notes.push(
        `${output.pin} does not show it yet: ${first?.key} is ${first?.value}, not ${first?.wanted}.`,
      );
    }
    addEffect(part, path, reading, setting);
  }
}

/** A postscaler that is on beside an output: it divides the interrupt alone. */
function onlyInterrupts(
  part: Part,
  timer: Timer,
  mode: Mode,
  { name }: Channel,
  values: ReadonlyMap<string, number>,
): string[] {
  const postscaler = tickOf(timer, mode)?.postscaler;
  if (postscaler?.kind !== 'range') return [];
  const by = decoded(part, values, postscaler.writes, 'postscale') ?? 1;
  if (by <= 1) return [];
  return [`The postscaler of ${timer.name} divides its interrupt by ${by}, not the output of ${name}.`];
}

function addEffect(
  part: Part,
  path: ClockPath,
  reading: DecodedTimer,
  setting: Setting,
  rate?: (Restart & { run: number }) | Exact,
): void {
  try {
    const outcome = outcomeUnder(part, path, setting);
    const frequency =
      rate === undefined
        ? outcome.frequency
        : 'run' in rate
          ? restarted(outcome.frequency, rate.run, rate)
          : rate;
    reading.effects.push({ setting, outcome: { ...outcome, frequency } });
  } catch (error) {
    if (!(error instanceof SettingError)) throw error;
    reading.notes.push(error.message);
  }
}

/** Whether an interrupt's own enable bits are set; those of a controller outside the timer are another matter. */
function enabled(part: Part, values: ReadonlyMap<string, number>, { enable }: Interrupt): boolean {
  const [first] = Object.keys(enable);
  const register = first?.split('.')[0];
  const own = Object.entries(enable).filter(([key]) => key.split('.')[0] === register);
  return own.length > 0 && own.every(([key, wanted]) => fieldValue(part, values, key) === wanted);
}

function tickEffects(
  part: Part,
  path: ClockPath,
  reading: DecodedTimer,
  timer: Timer,
  mode: Mode,
  registers: Registers,
): void {
  const { prescaler, top } = reading;
  const tick = tickOf(timer, mode);
  if (!tick || prescaler === undefined || top === undefined || !enabled(part, registers.values, tick)) return;
  const { postscaler } = tick;
  const option =
    postscaler?.kind === 'range' ? decoded(part, registers.values, postscaler.writes, 'postscale') : 1;
  const setting: Setting = {
    drive: 'interrupt',
    timer: timer.id,
    mode: mode.id,
    prescaler,
    top,
    ...(postscaler && option !== undefined && option > 1 ? { postscale: option } : {}),
    divider: 1,
  };
  for (const one of mismatches(part, registers.values, tick.enable)) {
    reading.notes.push(`The interrupt does not get through yet: ${one.key} is ${one.value}.`);
  }
  if (!registers.interruptsAllowed && part.code.allow !== '') {
    reading.notes.push(
      `The interrupt is enabled, but nothing lets interrupts happen: ${part.code.allow} is missing.`,
    );
  }
  const restart = restartOf(timer, mode, tick, top, registers);
  if (restart) reading.notes.push(restart.note);
  if (runsFree(mode, tick, registers, { top, width: timer.width })) {
    const frequency = clockOf(path, timer.clock)
      .div(prescaler)
      .div(2 ** timer.width);
    addEffect(part, path, reading, setting, frequency);
    return;
  }
  addEffect(part, path, reading, setting, restart && { run: top + mode.base, ...restart });
}

/** The interrupts of channels' matches: each comes once a run too, a part of a run later than that of the counter. */
function matchEffects(
  part: Part,
  path: ClockPath,
  reading: DecodedTimer,
  timer: Timer,
  mode: Mode,
  registers: Registers,
): void {
  const { values } = registers;
  const { prescaler, top } = reading;
  if (prescaler === undefined || top === undefined) return;
  for (const channel of timer.channels) {
    const { id, name, interrupt, compare } = channel;
    if (!interrupt || id === mode.tick || !enabled(part, values, interrupt)) continue;
    if (mode.count !== 'up') {
      reading.notes.push(
        `The interrupt of ${name}’s match is enabled; its rate in ${mode.name} is not known.`,
      );
      continue;
    }
    const move = moveOf(channel, registers);
    const match = decoded(part, values, compare, 'compare') ?? 0;
    if (match > top) {
      reading.notes.push(
        `${name} interrupts at ${match}, which the counter never reaches: its top is ${top}.`,
      );
      continue;
    }
    reading.notes.push(move?.note ?? `The interrupt is that of ${name}’s match, once a run.`);
    const counter = { timer: timer.id, mode: mode.id, prescaler, top };
    const run = top + mode.base;
    addEffect(part, path, reading, { drive: 'interrupt', ...counter, divider: 1 }, move && { run, ...move });
  }
}

function readTimer(part: Part, path: ClockPath, timer: Timer, registers: Registers): DecodedTimer {
  const { values } = registers;
  const found = modeIn(part, timer, values);
  const prescaler = prescalerIn(part, timer, values);
  const reading: DecodedTimer = { timer: timer.id, running: false, effects: [], notes: [] };
  if (prescaler !== undefined) reading.prescaler = prescaler;
  if (!found) return reading;
  const { mode, off, neutral, stopped } = found;
  const [refused] = off;
  const strange = unknownBits(part, timer, values);
  if (refused)
    reading.notes.push(`${timer.name}: ${refusal(refused, `any mode; ${mode.name} has ${refused.wanted}`)}`);
  if (strange.length > 0)
    reading.notes.push(
      `${timer.name} is not read: ${strange.join(', ')}, of which the part’s data knows nothing.`,
    );
  const others = otherClocks(part, path, timer, values);
  for (const one of others) reading.notes.push(`${timer.name} is not read: ${one}.`);
  if (refused || strange.length > 0 || others.length > 0) return reading;
  reading.mode = mode.id;
  const top = topIn(part, mode, timer, withReload(mode, tickOf(timer, mode), registers));
  if (top !== undefined) reading.top = top;
  reading.running = !stopped && prescaler !== undefined;
  if (prescaler === undefined) reading.notes.push(`${timer.name} stands still: no clock is selected.`);
  else if (stopped) reading.notes.push(`${timer.name} stands still: its run bit is not set.`);
  for (const one of neutral) reading.notes.push(differs(one, mode.name));
  const range = topRange(mode);
  if (top !== undefined && (top < range.min || top > range.max)) {
    reading.notes.push(`The top of ${timer.name} is ${top}; it goes from ${range.min} to ${range.max}.`);
  }
  reading.notes.push(...forgottenIn(mode, tickOf(timer, mode), registers));
  const before = reading.notes.length;
  outputEffects(part, path, reading, timer, mode, values);
  tickEffects(part, path, reading, timer, mode, registers);
  matchEffects(part, path, reading, timer, mode, registers);
  if (reading.effects.length === 0 && reading.notes.length === before)
    reading.notes.push(`No output of ${timer.name} is connected, and no interrupt is enabled.`);
  return reading;
}

/** Registers that belong to a timer: those of its sequence, its tops and its channels. */
function registersOf(timer: Timer): Set<string> {
  const writes = [
    ...timer.modes.map((mode) => mode.writes),
    ...timer.modes.flatMap(({ top }) => (top.kind === 'fixed' ? [] : [top.writes])),
    ...timer.channels.flatMap(({ compare, forms = [] }) => [compare, ...forms.map((one) => one.compare)]),
    ...(timer.prescaler.kind === 'list'
      ? timer.prescaler.options.map((one) => one.writes)
      : [timer.prescaler.writes]),
  ];
  return new Set(writes.flatMap((one) => Object.keys(one).map((key) => key.split('.')[0] ?? '')));
}

/** What registers make of each timer that any of them belongs to. A use of a timer that does not run is left out. */
export function decodeTimers(part: Part, path: ClockPath, registers: Registers): DecodedTimer[] {
  const touched = part.timers.filter((timer) =>
    [...registersOf(timer)].some((register) => registers.values.has(register)),
  );
  const readings = touched.map((timer) => ({ timer, reading: readTimer(part, path, timer, registers) }));
  return readings
    .filter(({ timer, reading }) => timer.variantOf === undefined || reading.effects.length > 0)
    .map(({ reading }) => reading);
}
