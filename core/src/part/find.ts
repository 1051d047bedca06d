import type {
  Channel,
  Complement,
  Cpu,
  DeadBand,
  Interrupt,
  Mode,
  Part,
  Pin,
  PriorityFields,
  Register,
  Timer,
} from './types.ts';

/** Thrown when a name is not part of the part; the message lists what there is. */
export class NotOnPart extends Error {}

const indexes = new WeakMap<readonly unknown[], Map<string, unknown>>();

/** A list by name, made once: parts never change, and some have hundreds of registers that are looked up all the time. */
function indexOf<T>(list: readonly T[], key: (item: T) => string): Map<string, T> {
  const before = indexes.get(list) as Map<string, T> | undefined;
  if (before) return before;
  const index = new Map<string, T>();
  for (const item of list) if (!index.has(key(item))) index.set(key(item), item);
  indexes.set(list, index);
  return index;
}

function named<T>(
  list: readonly T[],
  key: (item: T) => string,
  name: string,
  what: string,
  where: string,
): T {
  const found = indexOf(list, key).get(name);
  if (found) return found;
  throw new NotOnPart(`${where} has no ${what} “${name}”; it has ${list.map(key).join(', ')}.`);
}

/** The timer of that id. @throws NotOnPart */
export function timerOf(part: Part, id: string): Timer {
  return named(part.timers, (timer) => timer.id, id, 'timer', part.name);
}

/** The mode of that id on a timer. @throws NotOnPart */
export function modeOf(timer: Timer, id: string): Mode {
  return named(timer.modes, (mode) => mode.id, id, 'mode', timer.name);
}

/** The channel of that id on a timer. @throws NotOnPart */
export function channelOf(timer: Timer, id: string): Channel {
  return named(timer.channels, (channel) => channel.id, id, 'channel', timer.name);
}

/** What brings the opposite of a channel's output on a pin to another pin; undefined where the two would go the same way, or nothing does. */
export function complementOf(channel: Channel, pin: string, opposite: string): Complement | undefined {
  const all = channel.complement ?? [];
  const isOpposite = all.some((one) => !one.beside && one.pin === pin);
  return all.find((one) => one.pin === opposite && (one.beside ? one.beside.includes(pin) : !isOpposite));
}

/** The dead times between a channel's output and its opposite; undefined where the hardware keeps none. */
export function deadBandsOf(timer: Timer, channel: Channel): readonly DeadBand[] | undefined {
  return channel.deadTime ?? timer.deadTime;
}

/** The field, or the register, that holds the priority of an interrupt. */
export function priorityPlace({ numbered, vectors }: PriorityFields, { vector, number }: Interrupt): string {
  const word = Math.floor(number / 4);
  return vectors?.[vector] ?? numbered.replace('%n', String(number)).replace('%w', String(word));
}

/** Whether several interrupts come through one handler, which asks for their flags one after the other. */
export function sharesHandlers({ priorities }: Cpu): boolean {
  return priorities.scheme === 'single' || priorities.shared === true;
}

/** The pin of that id. @throws NotOnPart */
export function pinOf(part: Part, id: string): Pin {
  return named(part.pins, (pin) => pin.id, id, 'pin', part.name);
}

/** The register of that name. @throws NotOnPart */
export function registerOf(part: Part, name: string): Register {
  return named(part.registers, (register) => register.name, name, 'register', part.name);
}

/** Every pin whose edges some timer can capture, in the order of the part's pins. */
export function capturePins(part: Part): string[] {
  const heard = new Set(
    part.timers.flatMap(({ captures = [] }) =>
      captures.flatMap(({ inputs }) => inputs.map((input) => input.pin)),
    ),
  );
  return part.pins.map((pin) => pin.id).filter((id) => heard.has(id));
}

/** Every pin that some channel of some timer can drive, in the order of the part's pins. */
export function timerPins(part: Part): string[] {
  const driven = new Set(
    part.timers.flatMap((timer) =>
      timer.channels.flatMap((channel) => channel.outputs.map((output) => output.pin)),
    ),
  );
  return part.pins.map((pin) => pin.id).filter((id) => driven.has(id));
}

/** The counter that a timer is: variants of it are the same counter. */
export function rootOf({ id, variantOf }: Timer): string {
  return variantOf ?? id;
}

/** The timer of that id, if there is one. */
export function findTimer(part: Part, id: string): Timer | undefined {
  return part.timers.find((timer) => timer.id === id);
}

/** All interrupts that a part's timers have. */
export function interruptsIn(part: Part): Interrupt[] {
  return part.timers.flatMap(({ interrupts, channels, captures = [] }) => [
    ...Object.values(interrupts).filter((one) => one !== undefined),
    ...channels.flatMap(({ interrupt }) => interrupt ?? []),
    ...captures.map(({ interrupt }) => interrupt),
  ]);
}
