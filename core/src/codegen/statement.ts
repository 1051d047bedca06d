import { conditionOf } from '../part/condition.ts';
import { registerOf } from '../part/find.ts';
import type { Encoded, Part, Writes } from '../part/types.ts';
import { EXCLUSIONS } from '../part/exclusion.ts';
import { addressOf, isDefinedHere, registerName } from '../part/register-names.ts';
import { fieldDefinitions, fieldMask, fieldTerm } from './field-names.ts';
import { fieldBits, plainWrites, registerWrite, type FieldWrite } from '../timer/fields.ts';

/** Whether a part's registers go by the names of its headers; else by address and mask. */
export function byName(part: Part): boolean {
  return part.code.registers === 'names';
}

/** Numbers from here on say more in hexadecimal digits. */
const LARGE = 2 ** 16;

/** A number that a register gets as a whole. */
function numberText(value: number): string {
  return value < LARGE ? `${value}u` : hexText(value);
}

/** A number as C writes a mask. */
export function hexText(value: number): string {
  return `0x${value.toString(16).toUpperCase()}u`;
}

function bit(field: string, value = 1): string {
  return `(${value} << ${field})`;
}

function fieldComment(fields: readonly { field: string | null; value: number }[]): string {
  const named = fields.filter(({ field }) => field !== null).map(({ field, value }) => `${field} ${value}`);
  return named.length > 0 ? ` /* ${named.join(', ')} */` : '';
}

/** A store of a whole register: bits that no signal decides become zero. */
function storeNamed(part: Part, register: string, writes: readonly FieldWrite[]): string {
  const { value, fields } = registerWrite(part, register, writes);
  if (fields.some(({ field }) => field === null)) return `${registerName(part, register)} = ${value};`;
  const set = fields.filter((one) => one.value !== 0).map((one) => bit(one.field ?? '', one.value));
  return `${registerName(part, register)} = ${set.length > 0 ? set.join(' | ') : '0'};`;
}

/** An expression as the type of a register: narrower ones than an int are cast. */
function narrowed(text: string, width: number): string {
  return width < 32 ? `(uint${width}_t)(${text})` : text;
}

/** Bits of a store in C: those that it sets, those that it decides, and what remains to be said of them. */
type Bits = { on: string[]; mask: string[]; comment: string };

/** The bits of a store by the names of their fields; by numbers, with the names in a comment, where one has none. */
function bitsOf(part: Part, register: string, writes: readonly FieldWrite[]): Bits {
  const { value, mask, fields } = registerWrite(part, register, writes);
  const named = fields.map(({ field, value: own }) => ({
    on: field === null || own === 0 ? undefined : fieldTerm(part, register, field, own),
    mask: field === null ? undefined : fieldMask(part, register, field),
    zero: own === 0,
  }));
  if (named.every((one) => one.mask !== undefined && (one.zero || one.on !== undefined))) {
    return {
      on: named.flatMap((one) => one.on ?? []),
      // What becomes all ones need not be zero before.
      mask: named.flatMap((one) => (one.mask === undefined || one.mask === one.on ? [] : one.mask)),
      comment: '',
    };
  }
  return { on: value === 0 ? [] : [numberText(value)], mask: [hexText(mask)], comment: fieldComment(fields) };
}

/** A register with some bits changed: those that become zero taken away, those that become one put in, and nothing that changes none. */
function changedBits(name: string, { on, mask }: Bits, all: boolean): string {
  const taken = mask.length === 1 ? `${mask.join('')}` : `(${mask.join(' | ')})`;
  if (on.length === 0) return `${name} & ~${taken}`;
  return all ? `${name} | ${on.join(' | ')}` : `(${name} & ~${taken}) | ${on.join(' | ')}`;
}

/** A store that leaves the bits alone which no signal decides. */
function storeMasked(part: Part, register: string, writes: readonly FieldWrite[]): string {
  const { value, mask, width } = registerWrite(part, register, writes);
  const bits = bitsOf(part, register, writes);
  const name = registerName(part, register);
  if (registerOf(part, register).strobe || mask === 2 ** width - 1)
    return `${name} = ${bits.on.join(' | ') || '0u'};${bits.comment}`;
  return `${name} = ${narrowed(changedBits(name, bits, value === mask), width)};${bits.comment}`;
}

/** The wait after a store to a register that the hardware takes over later. */
export function takenOver(part: Part, register: string): string[] {
  const { taken } = registerOf(part, register);
  return taken === undefined ? [] : waitFor(part, taken);
}

/** The store of one step of a timer's sequence. `comment` stands at its end. */
export function store(
  part: Part,
  register: string,
  writes: readonly FieldWrite[],
  comment?: string,
): string[] {
  const line = byName(part) ? storeNamed(part, register, writes) : storeMasked(part, register, writes);
  return [`${line}${comment === undefined ? '' : ` /* ${comment} */`}`, ...takenOver(part, register)];
}

/** A store of a whole register at once: an order to it rather than bits of it. */
export function orderLines(part: Part, order: Writes): string[] {
  const writes = plainWrites([order]);
  const registers = [...new Set(writes.map((write) => write.register))];
  return registers.flatMap((name) => {
    const own = writes.filter((write) => write.register === name);
    return [
      `${registerName(part, name)} = ${bitsOf(part, name, own).on.join(' | ') || '0u'};`,
      ...takenOver(part, name),
    ];
  });
}

function changeNamed(part: Part, register: string, writes: readonly FieldWrite[]): string[] {
  const { width } = registerOf(part, register);
  const named = (wanted: number): string =>
    writes
      .filter(({ value }) => value === wanted)
      .map(({ field }) => bit(field ?? ''))
      .join(' | ');
  const [on, off] = [named(1), named(0)];
  return [
    ...(off ? [`${register} &= (uint${width}_t)~(${off});`] : []),
    ...(on ? [`${register} |= ${on};`] : []),
  ];
}

function sameWrite(one: FieldWrite, other: FieldWrite): boolean {
  return one.field === other.field && one.value === other.value;
}

/** Stores that change some bits of registers others use too, such as those of pins. Registers in their first order. */
export function changes(part: Part, writes: readonly FieldWrite[]): string[] {
  const registers = [...new Set(writes.map((write) => write.register))];
  return registers.flatMap((register) => {
    const all = writes.filter((write) => write.register === register);
    const own = all.filter((one, at) => at === all.findIndex((other) => sameWrite(one, other)));
    const lines = byName(part) ? changeNamed(part, register, own) : [storeMasked(part, register, own)];
    return [...lines, ...takenOver(part, register)];
  });
}

function expression({ scale, bias, shift, keep }: Encoded, name: string): string {
  const scaled =
    scale === undefined || scale === 1 ? name : scale === -1 ? `0u - ${name}` : `${name} * ${scale}u`;
  const moved = bias ? `(${scaled} ${bias < 0 ? '-' : '+'} ${Math.abs(bias)}u)` : scaled;
  const shifted = shift ? `(${moved} >> ${shift})` : moved;
  return keep === undefined ? shifted : `(${shifted} & ${hexText(2 ** keep - 1)})`;
}

/** The store that puts a variable, a compare value or a top, into a register or a field of one. */
function variableStore(
  part: Part,
  key: string,
  value: number | Encoded,
  name: 'compare' | 'top',
): { register: string; text: string } {
  const [register = '', field] = key.split('.');
  const source = typeof value === 'number' ? String(value) : expression(value, name);
  const place = registerName(part, register);
  const { width } = registerOf(part, register);
  if (field === undefined) {
    const plain = source === name || typeof value === 'number';
    return { register, text: `${place} = ${plain ? source : narrowed(source, width)};` };
  }
  const { shift, mask } = fieldBits(registerOf(part, register), field);
  // Widened first: a small type would become a signed int before it is shifted.
  const wide = typeof value === 'number' ? source : `(uint${Math.max(16, width)}_t)${source}`;
  const all = byName(part) ? hexText(mask) : (fieldMask(part, register, field) ?? hexText(mask));
  const named = byName(part) ? undefined : fieldTerm(part, register, field, wide);
  const changed = `(${place} & ~${all}) | ${named ?? `(${wide} << ${shift})`}`;
  return { register, text: `${place} = ${narrowed(changed, width)};` };
}

/** The stores that put a variable, a compare value or a top, where the part wants it, and the waits until it is there. */
export function variableStores(part: Part, writes: Writes, name: 'compare' | 'top'): string[] {
  return Object.entries(writes).flatMap(([key, value]) => {
    const { register, text } = variableStore(part, key, value, name);
    return [text, ...takenOver(part, register)];
  });
}

/** The same stores without the waits, for code that stores again only when the hardware has long taken them. */
export function unawaitedStores(part: Part, writes: Writes, name: 'compare' | 'top'): string[] {
  return Object.entries(writes).map(([key, value]) => variableStore(part, key, value, name).text);
}

/** Definitions of the registers that a text uses and no header has, and of the fields that it names. */
export function definitions(part: Part, text: string): string[] {
  const registers = part.registers
    .filter(({ name }) => isDefinedHere(part, name) && new RegExp(`\\b${name}\\b`).test(text))
    .map(
      (register) =>
        `#define ${register.name} (*(volatile uint${register.width}_t *)${addressOf(part, register)})`,
    );
  const fields = fieldDefinitions(part, text);
  return [...registers, ...(registers.length > 0 && fields.length > 0 ? [''] : []), ...fields];
}

/** Whether the code can keep interrupts out of a few statements cheaply. */
export function canExclude(part: Part): boolean {
  return part.code.excludes !== undefined;
}

/** Statements that no interrupt comes between, where the part makes that cheap; else as they are. */
export function keptTogether(part: Part, lines: readonly string[]): string[] {
  const { excludes } = part.code;
  if (excludes === undefined) return [...lines];
  const { before, after } = EXCLUSIONS[excludes];
  return [...before, ...lines, ...after];
}

/** A loop that waits for a condition of the part's data. */
export function waitFor(part: Part, condition: string): string[] {
  const { register, field, is } = conditionOf(condition);
  const { shift, mask } = fieldBits(registerOf(part, register), field);
  const named = byName(part) ? bit(field) : fieldMask(part, register, field);
  const test = `${registerName(part, register)} & ${named ?? hexText(mask)}`;
  const comment = named === undefined ? ` /* ${field}${typeof is === 'number' ? ` ${is}` : ''} */` : '';
  const wanted = typeof is === 'number' && !byName(part) ? fieldTerm(part, register, field, is) : undefined;
  const waits =
    is === 'clear'
      ? test
      : is === 'set'
        ? `!(${test})`
        : `(${test}) != ${wanted ?? hexText(is * 2 ** shift)}`;
  return [`while (${waits}) { }${comment}`];
}
