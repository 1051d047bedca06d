import { checkBringUp, checkClocks } from './clock-references.ts';
import { priorityPlace } from './find.ts';
import {
  checkCondition,
  checkDivision,
  checkKnown,
  checkPlace,
  checkPlain,
  checkRange,
  checkWrites,
  fault,
  type Look,
  type PartFault,
} from './part-checks.ts';
import type { DeadBand, Interrupt, Mode, Part, Queue, Timer } from './types.ts';

function checkRegisters(look: Look, part: Part): void {
  part.registers.forEach((register, at) => {
    const path = `registers[${at}]`;
    if (look.registers.has(register.name)) fault(look, path, `there is a second register ${register.name}.`);
    look.registers.set(register.name, register);
    for (const [name, [max, min]] of Object.entries(register.fields)) {
      const fits = max >= min && max < register.width;
      if (!fits)
        fault(
          look,
          `${path}.fields.${name}`,
          `bits ${max} to ${min} are no field of ${register.width} bits.`,
        );
    }
  });
}

/** What is waited for after a store may be in a register that comes later in the list. */
function checkTaken(look: Look, part: Part): void {
  part.registers.forEach(({ taken }, at) => {
    if (taken !== undefined) checkCondition(look, `registers[${at}].taken`, taken);
  });
}

function checkDeadTime(look: Look, path: string, bands: readonly DeadBand[] = []): void {
  bands.forEach((band, at) => {
    checkWrites(look, `${path}.deadTime[${at}]`, band.writes);
    checkRange(look, `${path}.deadTime[${at}]`, band);
  });
}

/** The tops of a mode lie within the counter. */
function checkTops(look: Look, path: string, { top }: Mode, width: number): void {
  const { min, max } =
    top.kind === 'fixed'
      ? { min: top.value, max: top.value }
      : top.kind === 'power'
        ? { min: 2 ** top.minBits - 1, max: 2 ** top.maxBits - 1 }
        : top;
  checkRange(look, path, { min, max });
  if (max > 2 ** width - 1) fault(look, path, `${max} does not fit into a counter of ${width} bits.`);
}

function checkQueue(look: Look, path: string, { writes, data, room, empty, gap }: Queue): void {
  checkPlain(look, `${path}.writes`, writes);
  checkPlace(look, `${path}.data`, data);
  checkPlace(look, `${path}.gap`, gap);
  for (const condition of [room, empty]) checkCondition(look, path, condition);
}

function checkInterrupt(look: Look, path: string, interrupt: Interrupt | undefined): void {
  if (!interrupt) return;
  checkPlain(look, `${path}.enable`, interrupt.enable);
  checkPlace(look, `${path}.flag`, interrupt.flag);
  if (interrupt.disable) checkPlain(look, `${path}.disable`, interrupt.disable);
  if (interrupt.status !== undefined) checkPlace(look, `${path}.status`, interrupt.status);
  if (interrupt.polled) checkPlace(look, `${path}.polled`, interrupt.polled);
  if (interrupt.pollWith) checkPlain(look, `${path}.pollWith`, interrupt.pollWith);
  if (interrupt.route !== undefined) checkPlace(look, `${path}.route`, interrupt.route);
  if (interrupt.rearm) checkPlain(look, `${path}.rearm`, interrupt.rearm);
  const { postscaler } = interrupt;
  const divisions =
    postscaler?.kind === 'list' ? postscaler.options.map((one) => one.writes) : [postscaler?.writes ?? {}];
  divisions.forEach((writes) => checkWrites(look, `${path}.postscaler`, writes));
  if (postscaler) checkDivision(look, `${path}.postscaler`, postscaler);
  if (look.priorities) checkPlace(look, `${path} (priority)`, priorityPlace(look.priorities, interrupt));
}

function checkTick(look: Look, path: string, timer: Timer, tick: string | undefined): void {
  const { interrupts, channels } = timer;
  const known = [
    ...Object.keys(interrupts),
    ...channels.flatMap(({ id, interrupt }) => (interrupt ? [id] : [])),
  ];
  if (tick !== undefined) checkKnown(look, `${path}.tick`, 'interrupt', tick, new Set(known));
}

function checkTimer(
  look: Look,
  timer: Timer,
  path: string,
  clocks: ReadonlySet<string>,
  pins: ReadonlySet<string>,
): void {
  checkKnown(look, `${path}.clock`, 'clock', timer.clock, clocks);
  const channels = new Set(timer.channels.map((channel) => channel.id));
  const { prescaler } = timer;
  const divisions =
    prescaler.kind === 'list'
      ? prescaler.options.flatMap((one) => [one.writes, ...(one.same ?? [])])
      : [prescaler.writes];
  divisions.forEach((writes) => checkWrites(look, `${path}.prescaler`, writes));
  checkDivision(look, `${path}.prescaler`, prescaler);
  if (prescaler.kind === 'range' && prescaler.whole)
    checkPlain(look, `${path}.prescaler.whole`, prescaler.whole);
  if (timer.power) checkPlain(look, `${path}.power`, timer.power);
  timer.commands?.forEach((order) => checkPlain(look, `${path}.commands`, order));
  timer.halt?.forEach((order) => checkPlain(look, `${path}.halt`, order));
  timer.neutral?.forEach((key) => checkPlace(look, `${path}.neutral`, key));
  timer.ready?.forEach((key) => checkCondition(look, `${path}.ready`, key));
  if (timer.counter) checkPlace(look, `${path}.counter`, timer.counter);
  timer.modes.forEach((mode, at) => {
    const here = `${path}.modes[${at}]`;
    checkWrites(look, `${here}.writes`, mode.writes);
    checkTops(look, `${here}.top`, mode, timer.width);
    mode.same?.forEach((writes) => checkWrites(look, `${here}.same`, writes));
    mode.neutral?.forEach((key) => checkPlace(look, `${here}.neutral`, key));
    if (mode.top.kind !== 'fixed') checkWrites(look, `${here}.top.writes`, mode.top.writes);
    if (mode.top.kind === 'register' && mode.top.running)
      checkWrites(look, `${here}.top.running`, mode.top.running);
    if (mode.start) checkWrites(look, `${here}.start`, mode.start);
    if (mode.top.kind === 'channel')
      checkKnown(look, `${here}.top.channel`, 'channel', mode.top.channel, channels);
    checkTick(look, here, timer, mode.tick);
    for (const [id, writes] of Object.entries(mode.pwm?.turned ?? {})) {
      checkKnown(look, `${here}.pwm.turned`, 'channel', id, channels);
      checkPlain(look, `${here}.pwm.turned.${id}`, writes);
    }
    for (const drive of ['pwm', 'toggle'] as const) {
      mode[drive]?.channels.forEach((id) =>
        checkKnown(look, `${here}.${drive}.channels`, 'channel', id, channels),
      );
    }
  });
  timer.channels.forEach((channel, at) => {
    const here = `${path}.channels[${at}]`;
    checkWrites(look, `${here}.compare`, channel.compare);
    channel.forms?.forEach(({ when, compare }, index) => {
      checkPlain(look, `${here}.forms[${index}].when`, when);
      checkWrites(look, `${here}.forms[${index}].compare`, compare);
    });
    if (channel.running) checkWrites(look, `${here}.running`, channel.running);
    if (channel.commit) checkPlain(look, `${here}.commit`, channel.commit);
    channel.rest?.forEach((order) => checkPlain(look, `${here}.rest`, order));
    if (channel.queue) checkQueue(look, `${here}.queue`, channel.queue);
    checkInterrupt(look, `${here}.interrupt`, channel.interrupt);
    channel.outputs.forEach((output, index) => {
      checkKnown(look, `${here}.outputs[${index}].pin`, 'pin', output.pin, pins);
      checkPlain(look, `${here}.outputs[${index}].writes`, output.writes);
      if (output.low) checkPlain(look, `${here}.outputs[${index}].low`, output.low);
      output.takes?.forEach((pin) => checkKnown(look, `${here}.outputs[${index}].takes`, 'pin', pin, pins));
      output.same?.forEach((writes) => checkPlain(look, `${here}.outputs[${index}].same`, writes));
    });
    const own = new Set(channel.outputs.map(({ pin }) => pin));
    channel.complement?.forEach(({ pin, beside, writes }, index) => {
      checkKnown(look, `${here}.complement[${index}].pin`, 'pin', pin, pins);
      beside?.forEach((one) => checkKnown(look, `${here}.complement[${index}].beside`, 'pin', one, own));
      checkPlain(look, `${here}.complement[${index}].writes`, writes);
    });
    checkDeadTime(look, here, channel.deadTime);
  });
  checkDeadTime(look, path, timer.deadTime);
  timer.captures?.forEach((capture, at) => {
    const here = `${path}.captures[${at}]`;
    checkKnown(look, `${here}.mode`, 'mode', capture.mode, new Set(timer.modes.map((mode) => mode.id)));
    capture.value.forEach((register) => checkPlace(look, `${here}.value`, register));
    checkInterrupt(look, `${here}.interrupt`, capture.interrupt);
    capture.inputs.forEach(({ pin, writes }, index) => {
      checkKnown(look, `${here}.inputs[${index}].pin`, 'pin', pin, pins);
      checkPlain(look, `${here}.inputs[${index}].writes`, writes);
    });
  });
  checkInterrupt(look, `${path}.interrupts.overflow`, timer.interrupts.overflow);
  checkInterrupt(look, `${path}.interrupts.capture`, timer.interrupts.capture);
  const order = new Set(timer.sequence.map((step) => step.register));
  timer.sequence.forEach((step, at) => {
    checkPlace(look, `${path}.sequence[${at}]`, step.register);
    step.without?.forEach((field) =>
      checkPlace(look, `${path}.sequence[${at}].without`, `${step.register}.${field}`),
    );
    if (step.until !== undefined) checkCondition(look, `${path}.sequence[${at}].until`, step.until);
  });
  const decided = [...divisions, ...timer.modes.map((mode) => mode.writes)].flatMap((writes) =>
    Object.keys(writes),
  );
  for (const key of new Set(decided.map((one) => one.split('.')[0] ?? ''))) {
    if (!order.has(key))
      fault(look, `${path}.sequence`, `${key} is written by a mode or the prescaler and is missing here.`);
  }
}

/**
 * Everything within a part's data that refers to something which is not there: registers, fields, clocks, channels and
 * pins, and values that do not fit their fields. The shape itself is taken as right. Empty for a part that is whole.
 */
export function partFaults(part: Part): PartFault[] {
  const { fields: priorities } = part.cpu.priorities;
  const look: Look = { registers: new Map(), faults: [], ...(priorities ? { priorities } : {}) };
  checkRegisters(look, part);
  checkTaken(look, part);
  const clocks = checkClocks(look, part);
  checkBringUp(look, part, clocks);
  const pins = new Set(part.pins.map((pin) => pin.id));
  part.pins.forEach((pin, at) => {
    checkPlain(look, `pins[${at}].idle`, pin.idle);
    pin.ready?.forEach((key) => checkCondition(look, `pins[${at}].ready`, key));
    checkPlain(look, `pins[${at}].enable`, pin.enable);
    for (const [key, writes] of Object.entries(pin.software ?? {}))
      checkPlain(look, `pins[${at}].software.${key}`, writes);
  });
  part.timers.forEach((timer, at) => checkTimer(look, timer, `timers[${at}]`, clocks, pins));
  const timers = new Set(part.timers.map((timer) => timer.id));
  part.timers.forEach(({ variantOf, sharesPrescalerWith = [] }, at) =>
    [...(variantOf === undefined ? [] : [variantOf]), ...sharesPrescalerWith].forEach((id) =>
      checkKnown(look, `timers[${at}]`, 'timer', id, timers),
    ),
  );
  checkKnown(look, 'cpu.clock', 'clock', part.cpu.clock, clocks);
  checkKnown(look, 'standardClock.source', 'clock', part.defaultClock.source, clocks);
  return look.faults;
}
