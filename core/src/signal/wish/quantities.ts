import { exact, type Exact } from '../../quantity/exact.ts';
import { parseQuantity } from '../../quantity/parse.ts';
import type { Dimension } from '../../quantity/quantity.ts';
import type { SaidAmount as Said } from './grammar.ts';
import { numberNamed, partNamed, timesNamed, unitNamed, type Unit } from './units.ts';

/** A number with its unit, read: its value in base units, or what is wrong with it. */
export type SaidQuantity = {
  unit?: Unit;
  value: Exact;
  spoken: number;
  fault?: string;
};

/** A number as it is written; a division by zero counts as none, and is reported when the unit is read. */
function plainNumber(text: string): Exact {
  return exact(/\/0+$/.test(text) ? '0' : text.replace(',', '.'));
}

/** The number of an amount as such: "1,5", "three", "half", "three quarters", "twice". */
function numeral({ number, more, part, negative }: Said): string {
  const image = number?.image.replace(/[\u202f\u00a0_]/g, '') ?? '1';
  const named = numberNamed(image) ?? timesNamed(image);
  const whole = named === undefined ? image : String(named);
  if (more && !/\/0+$/.test(more.image)) {
    const mixed = plainNumber(whole).add(exact(more.image)).toFraction();
    return negative ? `-${mixed}` : mixed;
  }
  const share = part && partNamed(part.image);
  const text = share === undefined ? whole : exact(share).mul(plainNumber(whole)).toFraction();
  return negative ? `-${text}` : text;
}

const DIMENSIONS: ReadonlyMap<string, Dimension> = new Map<string, Dimension>([
  ['frequency', 'frequency'],
  ['time', 'time'],
  ['duty', 'duty'],
  ['tolerance', 'tolerance'],
  ['steps', 'steps'],
  ['volts', 'volts'],
  ['ohms', 'ohms'],
  ['farads', 'farads'],
]);

/** How some units that `parseQuantity` does not know are given to it, and by what their numbers are multiplied. */
const OTHERS: ReadonlyMap<string, { as: string; times: number }> = new Map([['h', { as: 's', times: 3600 }]]);

/** An amount read in its unit; `unit` stands for a missing one. A tolerance in percent is read as such where `within` is set. */
export function quantityOf(said: Said, within: boolean, unit?: Unit): SaidQuantity {
  const own = said.unit ? unitNamed(said.unit.image) : unit;
  const text = numeral(said);
  const plain = plainNumber(text);
  const dimension = own && DIMENSIONS.get(within && own.of === 'duty' ? 'tolerance' : own.of);
  if (!own || !dimension) {
    return { value: plain, spoken: plain.valueOf(), ...(own ? { unit: own } : {}) };
  }
  const other = OTHERS.get(own.as);
  const read = parseQuantity(`${text} ${other?.as ?? own.as}`, dimension);
  return read.ok
    ? { unit: own, value: read.value.value.mul(other?.times ?? 1), spoken: read.value.spoken }
    : { unit: own, value: plain, spoken: plain.valueOf(), fault: read.fault.sentence };
}
