import { registerOf } from '../part/find.ts';
import type { Encoded, Part, Writes } from '../part/types.ts';
import { fieldWrites, placeOf, registerWrite, type FieldWrite } from '../timer/fields.ts';

/** Whether a part's registers go by the names of its headers; else by address and mask. */
export function byName(part: Part): boolean {
  return part.code.registers === 'names';
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
  if (fields.some(({ field }) => field === null)) return `${register} = ${value};`;
  const set = fields.filter((one) => one.value !== 0).map((one) => bit(one.field ?? '', one.value));
  return `${register} = ${set.length > 0 ? set.join(' | ') : '0'};`;
}

/** An expression as the type of a register: narrower ones than an int are cast. */
function narrowed(text: string, width: number): string {
  return width < 32 ? `(uint${width}_t)(${text})` : text;
}

/** A store that leaves the bits alone which no signal decides. */
function storeMasked(part: Part, register: string, writes: readonly FieldWrite[]): string {
  const { value, mask, width, fields } = registerWrite(part, register, writes);
  const comment = fieldComment(fields);
  if (registerOf(part, register).strobe) return `${register} = ${hexText(value)};${comment}`;
  if (mask === 2 ** width - 1) return `${register} = ${hexText(value)};${comment}`;
  const changed = `(${register} & ~${hexText(mask)}) | ${hexText(value)}`;
  return `${register} = ${narrowed(changed, width)};${comment}`;
}

/** The store of one step of a timer's sequence. */
export function store(part: Part, register: string, writes: readonly FieldWrite[]): string {
  return byName(part) ? storeNamed(part, register, writes) : storeMasked(part, register, writes);
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
    return byName(part) ? changeNamed(part, register, own) : [storeMasked(part, register, own)];
  });
}

function expression({ scale, bias, shift, keep }: Encoded): string {
  const scaled = scale === undefined || scale === 1 ? 'compare' : `compare * ${scale}u`;
  const moved = bias ? `(${scaled} ${bias < 0 ? '-' : '+'} ${Math.abs(bias)}u)` : scaled;
  const shifted = shift ? `(${moved} >> ${shift})` : moved;
  return keep === undefined ? shifted : `(${shifted} & ${hexText(2 ** keep - 1)})`;
}

/** The stores that put a variable named `compare` where a channel's compare value goes. */
export function compareStores(part: Part, writes: Writes): string[] {
  return Object.entries(writes).map(([key, value]) => {
    const [register = '', field] = key.split('.');
    const source = typeof value === 'number' ? String(value) : expression(value);
    if (field === undefined) {
      const plain = source === 'compare' || typeof value === 'number';
      return `${register} = ${plain ? source : narrowed(source, registerOf(part, register).width)};`;
    }
    const { shift, mask } = placeOf(registerOf(part, register), field);
    const { width } = registerOf(part, register);
    // Widened first: a small type would become a signed int before it is shifted.
    const wide = typeof value === 'number' ? source : `(uint${Math.max(16, width)}_t)${source}`;
    return `${register} = ${narrowed(`(${register} & ~${hexText(mask)}) | (${wide} << ${shift})`, width)};`;
  });
}

/** Definitions of the registers that a text uses, for parts without headers. */
export function definitions(part: Part, text: string): string[] {
  if (byName(part)) return [];
  return part.registers
    .filter(({ name }) => new RegExp(`\\b${name}\\b`).test(text))
    .map(({ name, address, width }) => `#define ${name} (*(volatile uint${width}_t *)${hexText(address)})`);
}

/** The field writes of several sets of writes that no setting decides. */
export function plainWrites(sets: readonly (Writes | undefined)[]): FieldWrite[] {
  return sets.flatMap((writes) => (writes ? fieldWrites(writes) : []));
}

/** A loop that waits until a bit of a register is set. */
export function waitFor(part: Part, place: string): string {
  const [register = '', field = ''] = place.split('.');
  const { mask } = placeOf(registerOf(part, register), field);
  const test = byName(part) ? bit(field) : hexText(mask);
  const comment = byName(part) ? '' : ` /* ${field} */`;
  return `while (!(${register} & ${test})) { }${comment}`;
}
