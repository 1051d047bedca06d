import { rootOf } from './find.ts';
import type { Channel, Interrupt, Output, Part, Pin, Register, Timer, Writes } from './types.ts';
import type { PartFault } from './part-checks.ts';

/** Notes what contradicts itself: a path, and a sentence without it. */
type Note = (path: string, text: string) => void;

const registerIn = (key: string): string => key.split('.')[0] ?? '';

const sameKeys = (one: Writes, other: Writes): boolean =>
  JSON.stringify(Object.keys(one).sort()) === JSON.stringify(Object.keys(other).sort());

const sameWrites = (one: Writes, other: Writes): boolean =>
  sameKeys(one, other) &&
  Object.keys(one).every((key) => JSON.stringify(one[key]) === JSON.stringify(other[key]));

/** Timers whose sequence writes a register, by what they are uses of. */
function rootsOf(part: Part, register: string): Set<string> {
  return new Set(
    part.timers.filter(({ sequence }) => sequence.some((step) => step.register === register)).map(rootOf),
  );
}

/** Two registers at one address are one register, unless two uses of the same timer call it differently. */
function checkAddresses(part: Part, note: Note): void {
  const seen = new Map<number, Register>();
  part.registers.forEach((register, at) => {
    const other = seen.get(register.address);
    seen.set(register.address, register);
    if (!other) return;
    const [own, theirs] = [rootsOf(part, register.name), rootsOf(part, other.name)];
    const oneTimer = own.size === 1 && theirs.size === 1 && [...own][0] === [...theirs][0];
    if (!oneTimer)
      note(
        `registers[${at}].address`,
        `${register.name} has the same address as ${other.name}, 0x${register.address.toString(16)}.`,
      );
  });
}

function checkFields(part: Part, note: Note): void {
  part.registers.forEach(({ name, fields }, at) => {
    const ordered = Object.entries(fields).sort(([, [, one]], [, [, other]]) => one - other);
    ordered.forEach(([field, [, low]], index) => {
      const before = ordered[index - 1];
      if (before && before[1][0] >= low)
        note(
          `registers[${at}].fields.${field}`,
          `it overlaps ${name}.${before[0]}, so that writing one changes the other.`,
        );
    });
  });
}

/** Every register that a setting writes is in the sequence, and one left without a field comes again with it. */
function checkSequence({ sequence, modes, channels }: Timer, path: string, note: Note): void {
  const order = new Set(sequence.map(({ register }) => register));
  const missing = (where: string, writes: Writes, what: string): void => {
    for (const name of new Set(Object.keys(writes).map(registerIn))) {
      if (!order.has(name))
        note(`${path}.sequence`, `${name} is written by ${what} (${where}) and is missing here.`);
    }
  };
  modes.forEach(({ top }, at) => {
    if (top.kind !== 'fixed') missing(`modes[${at}].top`, top.writes, 'a top');
  });
  channels.forEach(({ compare, name }, at) =>
    missing(`channels[${at}].compare`, compare, `the compare value of ${name}`),
  );
  sequence.forEach(({ register, without = [] }, at) => {
    const again = sequence.slice(at + 1).some((step) => step.register === register && !step.without);
    if (without.length > 0 && !again)
      note(
        `${path}.sequence[${at}]`,
        `${register} is written without ${without.join(' and ')} and does not come again with it, so that the timer never starts.`,
      );
  });
}

/** What tells an output from others: how it is driven and by which bits. */
const outputKey = ({ drive, polarity, writes }: Output): string =>
  JSON.stringify([drive, polarity, Object.entries(writes).sort()]);

/** A channel has a compare register of its own, and its outputs have bits of their own. */
function checkChannels({ channels, modes, counter }: Timer, path: string, note: Note): void {
  const compares = new Map<string, string>();
  const switched = new Map<string, string>();
  channels.forEach(({ name, compare, outputs }, at) => {
    const here = `${path}.channels[${at}]`;
    const place = Object.keys(compare).sort().join();
    const other = compares.get(place);
    if (other !== undefined) note(`${here}.compare`, `${name} and ${other} have the same compare register.`);
    compares.set(place, name);
    modes.forEach((mode, index) => {
      if (mode.top.kind === 'register' && Object.keys(mode.top.writes).some((key) => key in compare))
        note(
          `${path}.modes[${index}].top`,
          `its register is the compare register of ${name}; such a top is of the kind “channel”.`,
        );
    });
    if (counter !== undefined && counter in compare)
      note(`${here}.compare`, `${counter} is the register of the running count.`);
    const there = new Set<string>();
    outputs.forEach((output, index) => {
      const { pin, drive, polarity, writes } = output;
      const own = `${here}.outputs[${index}]`;
      if (Object.keys(writes).length === 0) note(`${own}.writes`, `nothing connects ${pin} with ${name}.`);
      const sense = `${pin} ${drive} ${polarity}`;
      if (there.has(sense)) note(own, `${pin} is there twice in the same sense.`);
      there.add(sense);
      const by = switched.get(outputKey(output));
      if (by !== undefined && by !== name)
        note(`${own}.writes`, `the output ${pin} is switched by the same bits as an output of ${by}.`);
    });
    for (const output of outputs) switched.set(outputKey(output), name);
  });
}

function interruptsOf({
  interrupts,
  channels,
  captures = [],
}: Timer): { place: string; interrupt: Interrupt }[] {
  const own = Object.entries(interrupts).flatMap(([id, interrupt]) =>
    interrupt ? [{ place: `interrupts.${id}`, interrupt }] : [],
  );
  const matches = channels.flatMap(({ interrupt }, at) =>
    interrupt ? [{ place: `channels[${at}].interrupt`, interrupt }] : [],
  );
  return [
    ...own,
    ...matches,
    ...captures.map(({ interrupt }, at) => ({ place: `captures[${at}].interrupt`, interrupt })),
  ];
}

/** An interrupt is enabled by something, and that is not its flag. */
function checkInterrupts(timer: Timer, path: string, note: Note): void {
  for (const { place, interrupt } of interruptsOf(timer)) {
    const { enable, flag } = interrupt;
    if (Object.keys(enable).length === 0) note(`${path}.${place}.enable`, 'nothing enables the interrupt.');
    if (flag in enable) note(`${path}.${place}.flag`, `${flag} is the bit that enables the interrupt, too.`);
  }
  const matches = timer.channels.filter(
    (channel): channel is Channel & { interrupt: Interrupt } => !!channel.interrupt,
  );
  matches.forEach(({ name, interrupt }, at) => {
    const other = matches.slice(0, at).find((one) => one.interrupt.flag === interrupt.flag);
    if (other)
      note(
        `${path}.channels`,
        `the matches of ${name} and ${other.name} have the same flag, ${interrupt.flag}.`,
      );
  });
}

/** A pin is made an output by something, begins low, and can be told high from low. */
function checkPins(pins: readonly Pin[], note: Note): void {
  const made = new Map<string, string>();
  const high = new Map<string, string>();
  const twice = (
    seen: Map<string, string>,
    writes: Writes,
    pin: string,
    path: string,
    what: string,
  ): void => {
    if (Object.keys(writes).length === 0) return;
    const key = JSON.stringify(Object.entries(writes).sort());
    const other = seen.get(key);
    if (other !== undefined) note(path, `${pin} and ${other} are ${what} by the same bits.`);
    seen.set(key, pin);
  };
  pins.forEach(({ id, idle, enable, software }, at) => {
    const path = `pins[${at}]`;
    if (Object.keys(enable).length === 0 && Object.keys(software?.output ?? {}).length === 0)
      note(`${path}.enable`, `nothing makes ${id} an output.`);
    twice(made, enable, id, `${path}.enable`, 'made outputs');
    if (!software) return;
    twice(high, software.high, id, `${path}.software.high`, 'put high');
    if (sameWrites(software.high, software.low))
      note(`${path}.software`, `high and low of ${id} are the same writes.`);
    for (const [key, value] of Object.entries(software.low)) {
      if (key in idle && idle[key] !== value)
        note(
          `${path}.idle`,
          `${id} is not low before its timer runs: ${key} is ${JSON.stringify(idle[key])}, low is ${JSON.stringify(value)}.`,
        );
    }
  });
}

/** The value of a register or a field after reset. */
function resetOf(part: Part, key: string): number {
  const [name = '', field] = key.split('.');
  const register = part.registers.find((one) => one.name === name);
  if (!register) return 0;
  const bits = field === undefined ? undefined : register.fields[field];
  return bits ? Math.floor(register.reset / 2 ** bits[1]) % 2 ** (bits[0] - bits[1] + 1) : register.reset;
}

/**
 * A timer in a mode does something that it does not do after reset. Where a counter runs on from reset and only its match is
 * moved there is nothing to start.
 */
function checkStarts(part: Part, timer: Timer, path: string, note: Note): void {
  const { prescaler, power = {}, commands = [] } = timer;
  const options =
    prescaler.kind === 'list' ? prescaler.options.map(({ writes }) => writes) : [prescaler.writes];
  const around: Writes = Object.assign({}, power, ...commands) as Writes;
  timer.modes.forEach((mode, at) => {
    if (mode.top.kind === 'moved') return;
    const idle = options.find((division) =>
      Object.entries({ ...around, ...mode.writes, ...mode.start, ...division }).every(
        ([key, value]) => typeof value !== 'number' || value === resetOf(part, key),
      ),
    );
    if (idle)
      note(
        `${path}.modes[${at}].writes`,
        `every control field is as after reset with one of the divisions, so that nothing starts the timer.`,
      );
  });
}

function checkDivisions(part: Part, note: Note): void {
  const list = (path: string, options: readonly { divide: number; writes: Writes }[]): void =>
    options.forEach(({ divide, writes }, at) => {
      const other = options
        .slice(0, at)
        .find((one) => Object.keys(writes).length > 0 && sameWrites(one.writes, writes));
      if (other) note(`${path}[${at}]`, `dividing by ${other.divide} and by ${divide} is the same bits.`);
      const again = options.slice(0, at).some((one) => one.divide === divide);
      if (again) note(`${path}[${at}]`, `dividing by ${divide} is there twice.`);
    });
  part.clocks.forEach((node, at) => {
    if ((node.kind === 'divider' || node.kind === 'multiplier') && node.by.kind === 'list')
      list(`clocks[${at}].by.options`, node.by.options);
  });
  part.timers.forEach(({ prescaler }, at) => {
    if (prescaler.kind === 'list') list(`timers[${at}].prescaler.options`, prescaler.options);
  });
}

/**
 * What contradicts itself in a part's data although every reference is there: places that are two things at once, values that
 * nothing writes, bits that select two things. A whole part has none. What is merely wrong, such as another address, cannot be
 * seen here.
 */
export function contradictions(part: Part): PartFault[] {
  const faults: PartFault[] = [];
  const note: Note = (path, text) => {
    faults.push({ path, sentence: `${path}: ${text}` });
  };
  checkAddresses(part, note);
  checkFields(part, note);
  checkDivisions(part, note);
  checkPins(part.pins, note);
  part.timers.forEach((timer, at) => {
    const path = `timers[${at}]`;
    checkSequence(timer, path, note);
    checkChannels(timer, path, note);
    checkInterrupts(timer, path, note);
    checkStarts(part, timer, path, note);
  });
  return faults;
}
