import type { ClockPath } from '../clock/path.ts';
import { registerOf } from '../part/find.ts';
import type { Interrupt, Part, StartStep, Timer, Writes } from '../part/types.ts';
import { fieldValue } from './fields.ts';

/** What some writes of a part's data say of its fields. */
function keysOf(...writes: readonly Writes[]): string[] {
  return writes.flatMap((one) => Object.keys(one));
}

const known = new WeakMap<Part, Set<string>>();

/** All fields, and all registers as a whole, of which a part's data says what they do to a waveform, or that they do nothing. */
function knownFields(part: Part): Set<string> {
  const before = known.get(part);
  if (before) return before;
  const interrupts = ({ enable, flag, postscaler }: Interrupt): string[] => [
    ...keysOf(enable),
    flag,
    ...(postscaler ? divisionKeys(postscaler) : []),
  ];
  const keys = part.timers.flatMap((timer) => [
    ...(timer.neutral ?? []),
    ...divisionKeys(timer.prescaler),
    ...keysOf(timer.power ?? {}, ...(timer.commands ?? [])),
    ...timer.modes.flatMap((mode) => keysOf(mode.writes, mode.top.kind === 'fixed' ? {} : mode.top.writes)),
    ...timer.channels.flatMap(
      ({ compare, forms = [], outputs, complement = [], deadTime = [], interrupt }) => [
        ...keysOf(compare, ...outputs.map(({ writes }) => writes), ...complement.map(({ writes }) => writes)),
        ...keysOf(...forms.flatMap(({ when, compare: other }) => [when, other])),
        ...keysOf(...deadTime.map(({ writes }) => writes)),
        ...(interrupt ? interrupts(interrupt) : []),
      ],
    ),
    ...Object.values(timer.interrupts).flatMap((one) => (one ? interrupts(one) : [])),
    ...keysOf(...(timer.deadTime ?? []).map(({ writes }) => writes)),
    ...keysOf(...(timer.captures ?? []).flatMap(({ inputs }) => inputs.map(({ writes }) => writes))),
  ]);
  const made = new Set(keys);
  known.set(part, made);
  return made;
}

function divisionKeys(prescaler: Timer['prescaler']): string[] {
  return prescaler.kind === 'list'
    ? prescaler.options.flatMap(({ writes }) => keysOf(writes))
    : keysOf(prescaler.writes);
}

/** What the steps set that select a clock, in the end, but for fields that the timers decide. */
function selected(part: Part, steps: readonly StartStep[]): Map<string, number> {
  const sets = steps.flatMap((step) => ('set' in step ? Object.entries(step.set) : []));
  const fields = knownFields(part);
  return new Map(
    sets.flatMap(([key, value]) => (typeof value === 'number' && !fields.has(key) ? [[key, value]] : [])),
  );
}

/**
 * Fields of a timer's control registers that select another clock than the plan has, each in words. One that is as after reset may be set by
 * other code.
 */
export function otherClocks(
  part: Part,
  path: ClockPath,
  timer: Timer,
  values: ReadonlyMap<string, number>,
): string[] {
  const own = new Set(timer.sequence.map(({ register }) => register));
  return path.starts.flatMap(({ name, steps }) =>
    [...selected(part, steps)].flatMap(([key, wanted]) => {
      const register = key.split('.')[0] ?? '';
      const held = fieldValue(part, values, key);
      const usual = fieldValue(part, new Map(), key);
      if (!own.has(register) || held === usual || held === wanted) return [];
      return [`${key} is ${held}; for the ${name} that the plan has it is ${wanted}`];
    }),
  );
}

/** Bits that are set in a timer's control registers and of which the part's data knows nothing, by name or by number. */
export function unknownBits(part: Part, timer: Timer, values: ReadonlyMap<string, number>): string[] {
  const clocks = part.clocks.flatMap((node) =>
    node.kind === 'choice'
      ? Object.values(node.start ?? {}).flatMap((steps) => [...selected(part, steps).keys()])
      : [],
  );
  const fields = new Set([...knownFields(part), ...clocks]);
  return [...new Set(timer.sequence.map(({ register }) => register))].flatMap((name) => {
    const value = values.get(name);
    const register = registerOf(part, name);
    if (value === undefined || fields.has(name) || register.strobe || name === timer.counter) return [];
    const named = Object.entries(register.fields);
    const strange = named.flatMap(([field]) => {
      const key = `${name}.${field}`;
      const held = fieldValue(part, values, key);
      const usual = fieldValue(part, new Map(), key);
      return fields.has(key) || held === usual ? [] : [`${key} is ${held}`];
    });
    const covered = (bit: number): boolean => named.some(([, [high, low]]) => bit <= high && bit >= low);
    const bits = Array.from({ length: register.width }, (_, bit) => bit).filter((bit) => {
      const [one, usual] = [value, register.reset].map((word) => Math.floor(word / 2 ** bit) % 2);
      return !covered(bit) && one !== usual;
    });
    return [...strange, ...bits.map((bit) => `bit ${bit} of ${name} is ${Math.floor(value / 2 ** bit) % 2}`)];
  });
}
