import type { Part, Register } from './types.ts';

/** What an independent source says of a register: its address, or its distance from a block's first one, and its fields. */
export type RegisterFacts = {
  address: string | null;
  offset?: string;
  width?: number;
  /** The lowest bit of each field. */
  bits: Readonly<Record<string, number>>;
  /** Lowest bit and width, where the source tells widths too. */
  fields?: Readonly<Record<string, readonly number[]>>;
};

/** What independent sources say of a part; `unnamed` is what none of them names, as patterns, looked at by hand. */
export type SourceFacts = {
  source: string | readonly string[];
  unnamed: readonly string[];
  registers: Readonly<Record<string, RegisterFacts>>;
  /** The sources know blocks of registers, named with x for their number, but not where they lie. */
  relative_addresses?: boolean;
  /** The numbers of interrupts: of all that a header names, or of some. */
  vectors?: Readonly<Record<string, number>>;
  interrupts?: Readonly<Record<string, number>>;
};

/** How far independent sources confirm the data of a part: how many addresses and fields, and which they do not. */
export type Trust = {
  verified: boolean;
  items: number;
  confirmed: number;
  /** REGISTER where its address is not confirmed, REGISTER.FIELD where the bits of a field are not. */
  unverified: string[];
  /** Those of them that a source contradicts. */
  contradicted: string[];
};

/**
 * The fact of a register. Where the sources know only blocks, it stands under the name of the block with x for its number;
 * its address is then known as a distance from the first register of the block.
 */
export function factOf(facts: SourceFacts | undefined, part: Part, name: string): RegisterFacts | undefined {
  const known = facts?.registers[name];
  if (!facts?.relative_addresses) return known;
  const [block = ''] = name.split('_');
  const relative = known ?? facts.registers[name.replace(block, block.replace(/\d$/, 'x'))];
  if (!relative) return undefined;
  const first = blockAddress(part, block);
  const offset = Number(relative.offset);
  return first === undefined ? relative : { ...relative, address: String(first + offset) };
}

/** The lowest address of a block of registers in the part's data. */
function blockAddress(part: Part, block: string): number | undefined {
  const own = part.registers.filter(({ name }) => name.startsWith(`${block}_`));
  return own.length === 0 ? undefined : Math.min(...own.map(({ address }) => address));
}

/** Whether a source has the field at these bits; undefined where it does not name it. PORTB5 is also called PB5. */
function fieldAgrees(
  fact: RegisterFacts,
  field: string,
  [max, min]: readonly [number, number],
): boolean | undefined {
  const low = fact.bits[field] ?? fact.bits[field.replace(/^PORT/, 'P')];
  if (low === undefined) return undefined;
  const width = fact.fields?.[field]?.[1];
  return low === min && (width === undefined || width === max - min + 1);
}

function registerItems(
  facts: SourceFacts | undefined,
  part: Part,
  { name, address, width, fields }: Register,
): [string, boolean | undefined][] {
  const fact = factOf(facts, part, name);
  const place =
    fact && fact.address !== null && !facts?.relative_addresses
      ? Number(fact.address) === address && (fact.width === undefined || fact.width === width)
      : undefined;
  return [
    [name, place],
    ...Object.entries(fields).map(([field, bits]): [string, boolean | undefined] => [
      `${name}.${field}`,
      fact && fieldAgrees(fact, field, bits),
    ]),
  ];
}

/**
 * How far a part's data is confirmed: each address and each field of its registers against the facts there are. Never
 * claimed by the data itself; a part without facts is not confirmed at all.
 */
export function trustIn(part: Part, facts: SourceFacts | undefined): Trust {
  const items = part.registers.flatMap((register) => registerItems(facts, part, register));
  const open = items.filter(([, agrees]) => agrees !== true);
  return {
    verified: open.length === 0,
    items: items.length,
    confirmed: items.length - open.length,
    unverified: open.map(([name]) => name),
    contradicted: open.filter(([, agrees]) => agrees === false).map(([name]) => name),
  };
}
