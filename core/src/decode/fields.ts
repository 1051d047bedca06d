import type { Encoded, Part, Writes } from '../part/types.ts';
import { registerOf } from '../part/find.ts';
import { fieldBits } from '../timer/fields.ts';

/** What stands in a field, or in a whole register. */
export function fieldValue(part: Part, values: ReadonlyMap<string, number>, key: string): number {
  const [name = '', field = null] = key.split('.');
  const register = registerOf(part, name);
  const { shift, mask } = fieldBits(register, field);
  const value = values.get(name) ?? register.reset;
  return Math.floor(value / 2 ** shift) % 2 ** Math.round(Math.log2(mask / 2 ** shift + 1));
}

/** A field that holds something else than wanted. */
export type Mismatch = { key: string; wanted: number; value: number };

/** The fixed fields of writes that hold something else; registers whose zeros do nothing show nothing afterwards. */
export function mismatches(part: Part, values: ReadonlyMap<string, number>, writes: Writes): Mismatch[] {
  return Object.entries(writes).flatMap(([key, wanted]) => {
    if (typeof wanted !== 'number' || registerOf(part, key.split('.')[0] ?? '').strobe) return [];
    const value = fieldValue(part, values, key);
    return value === wanted ? [] : [{ key, wanted, value }];
  });
}

/**
 * The number that was encoded into fields, turned around: bits put together where it lives in several places, a
 * fraction where some of them count finer; undefined where no field takes it. `mostBits` bounds what can be put together.
 */
export function decoded(
  part: Part,
  values: ReadonlyMap<string, number>,
  writes: Writes,
  of: Encoded['of'],
): number | undefined {
  const fields = Object.entries(writes).flatMap(([key, value]) =>
    typeof value !== 'number' && value.of === of ? [{ value, passes: fieldValue(part, values, key) }] : [],
  );
  if (fields.length === 0) return undefined;
  const finest = Math.max(...fields.map(({ value }) => value.scale ?? 1));
  const [first] = fields;
  const bias = first?.value.bias ?? 0;
  const scale = first?.value.scale ?? 1;
  if (fields.length === 1) return (passesOf(fields[0]) - bias) / scale;
  if (finest > 1) {
    return fields.reduce((sum, { value, passes }) => sum + passes / (value.scale ?? 1), 0) - bias / finest;
  }
  // Two fields of one shift hold the same bits twice, as dead times of both pins; if they differ there is no one value.
  const parts = new Map(fields.map(({ value, passes }) => [value.shift ?? 0, passes]));
  if (fields.some(({ value, passes }) => parts.get(value.shift ?? 0) !== passes)) return undefined;
  const whole = [...parts].reduce((sum, [shift, passes]) => sum + passes * 2 ** shift, 0);
  return (whole - bias) / scale;
}

function passesOf(field: { value: Encoded; passes: number } | undefined): number {
  return (field?.passes ?? 0) * 2 ** (field?.value.shift ?? 0);
}
