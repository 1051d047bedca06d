import { failed, succeeded, type Result } from '../result/result.ts';
import { avrCycles, branches, SKIPS } from './avr-cycles.ts';

/** One instruction of a listing: where it stands, how many bytes it has, and where it leads. */
type Instruction = {
  at: number;
  bytes: number;
  mnemonic: string;
  operands: string;
  /** What the linker binds it to: a function, or a place in the section. */
  symbol?: string;
  target?: number;
};

/** A function of a listing. */
type Listed = { name: string; instructions: Instruction[] };

/** The least and the most cycles of a function, and what it calls that the listing does not have. */
export type ListedCycles = { min: number; max: number; calls: string[] };

const HEAD = /^[0-9a-f]+ <([^>]+)>:$/;
const LINE = /^ *([0-9a-f]+):\t((?:[0-9a-f]{2} )+) *\t(\S+)(?:\t([^;]*))?/;
const RELOCATION = /: R_AVR_(?:CALL|13_PCREL|7_PCREL)\t(\S+)/;

/** A place of the section itself, as a relocation names it: ".text+0x32". */
const WITHIN = /^\.text(?:\+0x([0-9a-f]+))?$/;

/** Reads a disassembly with relocations as the binary utilities print it. */
function functionsIn(listing: string): Map<string, Listed> {
  const functions = new Map<string, Listed>();
  let current: Listed | undefined;
  for (const line of listing.split('\n')) {
    const head = HEAD.exec(line.trim());
    if (head) {
      current = { name: head[1] ?? '', instructions: [] };
      functions.set(current.name, current);
      continue;
    }
    const bound = RELOCATION.exec(line);
    const last = current?.instructions[current.instructions.length - 1];
    if (bound && last) {
      const within = WITHIN.exec(bound[1] ?? '');
      if (within) last.target = parseInt(within[1] ?? '0', 16);
      else last.symbol = bound[1] ?? '';
      continue;
    }
    const read = LINE.exec(line);
    if (!read || !current) continue;
    const [, at = '', bytes = '', mnemonic = '', operands = ''] = read;
    const count = bytes.trim().split(' ').length;
    current.instructions.push({ at: parseInt(at, 16), bytes: count, mnemonic, operands: operands.trim() });
  }
  return functions;
}

/** Where a jump leads: to what the linker binds it to, else ".+8" counts from the next instruction. */
function targetOf({ at, bytes, operands, symbol, target }: Instruction): number | undefined {
  if (target !== undefined || symbol !== undefined) return target;
  const by = /\.([+-]\d+)/.exec(operands);
  return by ? at + bytes + Number(by[1]) : undefined;
}

/** A way on from an instruction: where to, and the cycles that the instruction takes on it. */
type Way = { to: number | 'end'; cycles: number };

/** The function that an operand names in its comment: "0xa2 <beat_tick>". */
function calledIn(operands: string): string {
  const from = operands.indexOf('<');
  const to = operands.indexOf('>', from);
  return from < 0 || to < 0 ? '' : operands.slice(from + 1, to);
}

class Unreadable extends Error {}

function waysOn(own: Instruction, next: Instruction | undefined, wide: boolean): Way[] {
  const { mnemonic, at, bytes } = own;
  const after = at + bytes;
  if (SKIPS.has(mnemonic)) {
    const skipped = next?.bytes ?? 2;
    return [
      { to: after, cycles: 1 },
      { to: after + skipped, cycles: 1 + skipped / 2 },
    ];
  }
  if (branches(mnemonic)) {
    const target = targetOf(own);
    if (target === undefined) throw new Unreadable(`${mnemonic} at ${at.toString(16)} leads nowhere.`);
    return [
      { to: after, cycles: 1 },
      { to: target, cycles: 2 },
    ];
  }
  const cycles = avrCycles(mnemonic, wide);
  if (cycles === undefined) throw new Unreadable(`The instruction ${mnemonic} is not known.`);
  if (mnemonic === 'reti') return [{ to: 'end', cycles: 0 }];
  if (mnemonic === 'ret') return [{ to: 'end', cycles }];
  if (mnemonic !== 'rjmp' && mnemonic !== 'jmp') return [{ to: after, cycles }];
  const target = targetOf(own);
  if (target === undefined) throw new Unreadable(`${mnemonic} at ${at.toString(16)} leaves the function.`);
  return [{ to: target, cycles }];
}

/**
 * Counts the cycles of a handler in a disassembly of the AVR family: the shortest and the longest way from its first
 * instruction to the return from the interrupt, which itself counts as the way out. Loops have no bound and are refused. What
 * is called but not in the listing (the user's functions) counts as a call and a return.
 */
export function cyclesInListing(listing: string, name: string, wide = false): Result<ListedCycles> {
  const functions = functionsIn(listing);
  const calls = new Set<string>();
  const known = new Map<string, { min: number; max: number }>();

  function lengthOf(symbol: string, callers: readonly string[]): { min: number; max: number } {
    const before = known.get(symbol);
    if (before) return before;
    const own = functions.get(symbol);
    if (!own) throw new Unreadable(`There is no ${symbol} in the listing.`);
    if (callers.includes(symbol)) throw new Unreadable(`${symbol} calls itself.`);
    const places = new Map(own.instructions.map((one, i) => [one.at, i]));
    const found = new Map<number, { min: number; max: number }>();
    const visit = (at: number, above: ReadonlySet<number>): { min: number; max: number } => {
      const seen = found.get(at);
      if (seen) return seen;
      if (above.has(at)) throw new Unreadable(`${symbol} has a loop, which has no bound.`);
      const place = places.get(at);
      const instruction = place === undefined ? undefined : own.instructions[place];
      if (place === undefined || !instruction) throw new Unreadable(`${symbol} goes on behind its end.`);
      const inner = new Set([...above, at]);
      const called = callOf(instruction, [...callers, symbol]);
      const ways = waysOn(instruction, own.instructions[place + 1], wide).map(({ to, cycles }) => {
        const rest = to === 'end' ? { min: 0, max: 0 } : visit(to, inner);
        return { min: cycles + called.min + rest.min, max: cycles + called.max + rest.max };
      });
      const length = {
        min: Math.min(...ways.map(({ min }) => min)),
        max: Math.max(...ways.map(({ max }) => max)),
      };
      found.set(at, length);
      return length;
    };
    const length = visit(own.instructions[0]?.at ?? 0, new Set());
    known.set(symbol, length);
    return length;
  }

  function callOf(
    { mnemonic, symbol, operands, target }: Instruction,
    callers: readonly string[],
  ): { min: number; max: number } {
    if (mnemonic !== 'call' && mnemonic !== 'rcall') return { min: 0, max: 0 };
    const placed = [...functions.values()].find(({ instructions: [first] }) => first?.at === target);
    const callee = symbol ?? placed?.name ?? calledIn(operands);
    if (functions.has(callee)) return lengthOf(callee, callers);
    calls.add(callee);
    const back = avrCycles('ret', wide) ?? 0;
    return { min: back, max: back };
  }

  try {
    const length = lengthOf(name, []);
    return succeeded({ ...length, calls: [...calls] });
  } catch (error) {
    if (error instanceof Unreadable) return failed(error.message);
    throw error;
  }
}
