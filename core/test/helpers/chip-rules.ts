import { driveOf, isOutput } from '../../src/timer/drives/index.ts';
import { conditionOf } from '../../src/part/condition.ts';
import { interruptsIn, pinOf, registerOf, timerOf } from '../../src/part/find.ts';
import type { Part, Timer, Writes } from '../../src/part/types.ts';
import { fieldWrites, fieldBits, type RegisterWrite } from '../../src/timer/fields.ts';
import { hasTimer, pinsOfSetting, type Setting } from '../../src/timer/setting.ts';
import type { Step } from './chip.ts';

type Access = Extract<Step, { register: string }> & { at: number };

function accesses(steps: readonly Step[]): Access[] {
  return steps.flatMap((step, at) => ('register' in step ? [{ ...step, at }] : []));
}

/** The last access of some kind. */
function lastOf(all: readonly Access[], is: (one: Access) => boolean): Access | undefined {
  return all.filter(is).at(-1);
}

function markAt(steps: readonly Step[], name: string): number {
  return steps.findIndex((step) => step.do === 'mark' && step.name === name);
}

function nameOf(place: string): string {
  return (place.replace('!', '').split('.')[0] ?? '').trim();
}

/** Whether a value of a register meets a condition. */
function met(part: Part, condition: string, value: number): boolean {
  const { register, field, is } = conditionOf(condition);
  const { mask, shift } = fieldBits(registerOf(part, register), field);
  const held = ((value & mask) >>> 0) / 2 ** shift;
  return typeof is === 'number' ? held === is : (held !== 0) === (is === 'set');
}

/** Whether a value that goes into a register holds some fields. */
function holds(part: Part, writes: Writes, name: string, value: number): boolean {
  return fieldWrites(writes)
    .filter(({ register }) => register === name)
    .every(({ field, value: wanted }) => {
      const { shift, mask } = fieldBits(registerOf(part, name), field);
      return ((value & mask) >>> 0) / 2 ** shift === wanted;
    });
}

/** Waits that the hardware needs after stores and that are not there. */
export function waitFaults(part: Part, steps: readonly Step[]): string[] {
  return takenFaults(part, accesses(steps));
}

/** After each store that the hardware takes over later, the code waits until it has. */
function takenFaults(part: Part, all: readonly Access[]): string[] {
  return all.flatMap((access, at) => {
    const { taken } = registerOf(part, access.register);
    if (access.do !== 'write' || taken === undefined) return [];
    for (const next of all.slice(at + 1)) {
      if (next.do !== 'read' || next.register !== nameOf(taken)) break;
      if (met(part, taken, next.value)) return [];
    }
    return [`${access.register} is written and ${taken} not awaited`];
  });
}

function timerFaults(part: Part, timer: Timer, all: readonly Access[], start: number, run: number): string[] {
  const own = new Set(timer.sequence.map(({ register }) => register));
  const first = all.find(({ register, at }) => at > start && own.has(register))?.at ?? run;
  const powered = Object.keys(timer.power ?? {}).filter((key) => {
    const [name = ''] = key.split('.');
    const writes = { [key]: timer.power?.[key] ?? 0 };
    return !all.some(
      (one) =>
        one.do === 'write' && one.register === name && one.at < first && holds(part, writes, name, one.value),
    );
  });
  const awake = (timer.ready ?? []).filter(
    (condition) =>
      !all.some(
        (one) =>
          one.do === 'read' &&
          one.register === nameOf(condition) &&
          one.at < first &&
          met(part, condition, one.value),
      ),
  );
  const early = timer.sequence.flatMap(({ register, without }, at) => {
    if (!without || timer.sequence.findIndex((step) => step.register === register) !== at) return [];
    const write = all.find((one) => one.do === 'write' && one.register === register && one.at > start);
    const zero = Object.fromEntries(without.map((field) => [`${register}.${field}`, 0]));
    return write && !holds(part, zero, register, write.value) ? [`${timer.id} runs while it is set`] : [];
  });
  return [
    ...powered.map((key) => `${timer.id} is set before ${key}`),
    ...awake.map((key) => `${timer.id} is set before ${key} was awaited`),
    ...early,
  ];
}

/** Outputs get their pins after their timers are set. */
function pinFaults(
  part: Part,
  setting: Setting,
  all: readonly Access[],
  start: number,
  run: number,
): string[] {
  if (!isOutput(setting)) return [];
  const own = new Set(timerOf(part, setting.timer).sequence.map(({ register }) => register));
  const last = lastOf(
    all,
    ({ do: what, register, at }) => what === 'write' && own.has(register) && at > start && at < run,
  );
  const select = { ...driveOf(setting).pinWrites(part, setting), ...pinOf(part, setting.pin).enable };
  const prepared = new Set(Object.keys(pinOf(part, setting.pin).idle));
  return Object.keys(select).flatMap((key) => {
    if (prepared.has(key)) return [];
    const [name = ''] = key.split('.');
    const writes = { [key]: select[key] ?? 0 };
    const made = all.find(
      (one) =>
        one.do === 'write' && one.register === name && holds(part, writes, name, one.value) && one.at > start,
    );
    if (!made) return [`${setting.pin} never gets ${key}`];
    return last && made.at < last.at ? [`${setting.pin} gets ${key} before its timer is set`] : [];
  });
}

/** Flags are cleared before their interrupts are enabled. */
function interruptFaults(part: Part, setting: Setting, all: readonly Access[], start: number): string[] {
  return driveOf(setting)
    .handlers(part, setting)
    .flatMap(({ interrupt: { flag, clear, enable } }) => {
      if (clear === 'entry' || clear === 'none' || clear === 'read') return [];
      const cleared = all.find(
        (one) => one.do === 'write' && one.register === nameOf(flag) && one.at > start,
      );
      const enabled = Object.keys(enable).map((key) => {
        const [name = ''] = key.split('.');
        const writes = { [key]: enable[key] ?? 0 };
        return lastOf(
          all,
          (one) => one.do === 'write' && one.register === name && holds(part, writes, name, one.value),
        );
      });
      const last = Math.max(...enabled.map((one) => one?.at ?? Infinity));
      return cleared && cleared.at < last ? [] : [`${flag} is not cleared before its interrupt is enabled`];
    });
}

/** A register that takes orders is not read, unless its flags are told there. */
function readFaults(part: Part, all: readonly Access[]): string[] {
  const told = new Set(interruptsIn(part).map(({ flag, status = flag }) => nameOf(status)));
  return all
    .filter(
      ({ do: what, register }) => what === 'read' && registerOf(part, register).strobe && !told.has(register),
    )
    .map(({ register }) => `${register} is read`);
}

/** The table of registers is what the start leaves behind. */
function tableFaults(
  part: Part,
  table: readonly RegisterWrite[],
  all: readonly Access[],
  run: number,
): string[] {
  const before = all.filter(({ at, do: what }) => what === 'write' && at < run);
  return table.flatMap(({ name, value, mask }) => {
    const writes = before.filter(({ register }) => register === name);
    const last = writes.at(-1);
    if (!last) return [`${name} is in the table and never written`];
    if (registerOf(part, name).strobe) {
      const ones = writes.reduce((sum, one) => (sum | one.value) >>> 0, 0);
      return (value & ~ones) === 0 ? [] : [`${name} never gets ${(value & ~ones) >>> 0}`];
    }
    const made = (last.value & mask) >>> 0;
    const wanted = (value & mask) >>> 0;
    return made === wanted ? [] : [`${name} becomes ${made}, the table says ${wanted}`];
  });
}

/** After the stop the pins are the program's own, and low. */
function stopFaults(part: Part, setting: Setting, all: readonly Access[], stop: number): string[] {
  if (driveOf(setting).cause === 'input') return [];
  return pinsOfSetting(setting).flatMap((id) => {
    const { software } = pinOf(part, id);
    if (!software) return [];
    return Object.entries({ ...software.output, ...software.low }).flatMap(([key, value]) => {
      const [name = ''] = key.split('.');
      const last = lastOf(all, (one) => one.do === 'write' && one.register === name);
      const strobe = registerOf(part, name).strobe;
      const own = all.filter(
        (one) => one.do === 'write' && one.register === name && (!strobe || one.at > stop),
      );
      const kept = strobe
        ? own.some((one) => holds(part, { [key]: value }, name, one.value))
        : last && holds(part, { [key]: value }, name, last.value);
      return kept ? [] : [`after the stop ${id} has not ${key} = ${JSON.stringify(value)}`];
    });
  });
}

/** What a program did that the hardware would not take, or that is not what the plan says. Marks: start, run, stop. */
export function faultsOf(
  part: Part,
  settings: readonly Setting[],
  table: readonly RegisterWrite[],
  steps: readonly Step[],
): string[] {
  const all = accesses(steps);
  const [start, run, stop] = ['start', 'run', 'stop'].map((name) => markAt(steps, name));
  if (start === undefined || run === undefined || stop === undefined) throw new RangeError('no marks');
  const starting = all.filter(({ at }) => at < run);
  const ids = new Set(settings.flatMap((setting) => (hasTimer(setting) ? [setting.timer] : [])));
  const timers = part.timers.filter(({ id }) => ids.has(id));
  return [
    ...takenFaults(part, all),
    ...readFaults(part, all),
    ...timers.flatMap((timer) => timerFaults(part, timer, starting, start, run)),
    ...settings.flatMap((setting) => pinFaults(part, setting, starting, start, run)),
    ...settings.flatMap((setting) => interruptFaults(part, setting, starting, start)),
    ...tableFaults(part, table, all, run),
    ...settings.flatMap((setting) => stopFaults(part, setting, all, stop)),
  ];
}
