import { failed, succeeded, type Result } from '../result/result.ts';
import { Unreadable, type Between, type Instruction, type InstructionSet } from './instruction-set.ts';

/** A function of a listing. */
type Listed = { name: string; instructions: Instruction[] };

/**
 * The least and the most cycles of a function, what it calls that the listing does not have, and the functions in which it
 * waits for a peripheral.
 */
export type ListedCycles = Between & { calls: string[]; waits: string[] };

const HEAD = /^[0-9a-f]+ <([^>]+)>:$/;
const LINE = /^ *([0-9a-f]+):\t((?:[0-9a-f]{2,4} )+) *\t(\S+)(?:\t([^;@]*))?/;

/** A place of the section itself, as a relocation names it: ".text+0x32". */
const WITHIN = /^\.text(?:\+0x([0-9a-f]+))?$/;

/** Reads a disassembly with relocations as the binary utilities print it. */
function functionsIn(listing: string, relocation: RegExp): Map<string, Listed> {
  const functions = new Map<string, Listed>();
  let current: Listed | undefined;
  for (const line of listing.split('\n')) {
    const head = HEAD.exec(line.trim());
    if (head) {
      current = { name: head[1] ?? '', instructions: [] };
      functions.set(current.name, current);
      continue;
    }
    const bound = relocation.exec(line);
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
    const count = bytes.replace(/ /g, '').length / 2;
    current.instructions.push({ at: parseInt(at, 16), bytes: count, mnemonic, operands: operands.trim() });
  }
  return functions;
}

/** The function that an operand names in its comment: "0xa2 <beat_tick>". */
function calledIn(operands: string): string {
  const from = operands.indexOf('<');
  const to = operands.indexOf('>', from);
  return from < 0 || to < 0 ? '' : operands.slice(from + 1, to);
}

/**
 * Counts the cycles of a handler in a disassembly: the shortest and the longest way from its first
 * instruction to the return from the interrupt, which itself counts as the way out. What
 * is called but not in the listing (the user's functions) counts as a call and a return. A loop, in which the
 * generated code waits for a peripheral, counts as passed once and is named; one that never ends is refused.
 */
export function cyclesInListing(listing: string, name: string, set: InstructionSet): Result<ListedCycles> {
  const functions = functionsIn(listing, set.relocation);
  const calls = new Set<string>();
  const waits = new Set<string>();
  const known = new Map<string, Between>();

  function lengthOf(symbol: string, callers: readonly string[]): Between {
    const before = known.get(symbol);
    if (before) return before;
    const own = functions.get(symbol);
    if (!own) throw new Unreadable(`There is no ${symbol} in the listing.`);
    if (callers.includes(symbol)) throw new Unreadable(`${symbol} calls itself.`);
    const places = new Map(own.instructions.map((one, i) => [one.at, i]));
    const found = new Map<number, Between>();
    const visit = (at: number, above: ReadonlySet<number>): Between | undefined => {
      const seen = found.get(at);
      if (seen) return seen;
      if (above.has(at)) {
        waits.add(symbol);
        return undefined;
      }
      const place = places.get(at);
      const instruction = place === undefined ? undefined : own.instructions[place];
      if (place === undefined || !instruction) {
        // A jump to another function instead of a call and a return.
        const other = [...functions.values()].find(({ instructions: [first] }) => first?.at === at);
        if (other) return lengthOf(other.name, [...callers, symbol]);
        throw new Unreadable(`${symbol} goes on behind its end.`);
      }
      const inner = new Set([...above, at]);
      const called = callOf(instruction, [...callers, symbol]);
      const outermost = callers.length === 0;
      const ways = set
        .ways(instruction, own.instructions[place + 1], outermost)
        .flatMap(({ to, min, max }): Between[] => {
          const rest = to === 'end' ? { min: 0, max: 0 } : visit(to, inner);
          return rest ? [{ min: min + called.min + rest.min, max: max + called.max + rest.max }] : [];
        });
      if (ways.length === 0) return undefined;
      const length = {
        min: Math.min(...ways.map(({ min }) => min)),
        max: Math.max(...ways.map(({ max }) => max)),
      };
      found.set(at, length);
      return length;
    };
    const length = visit(own.instructions[0]?.at ?? 0, new Set());
    if (!length) throw new Unreadable(`${symbol} has a loop that never ends.`);
    known.set(symbol, length);
    return length;
  }

  function callOf(own: Instruction, callers: readonly string[]): Between {
    const { symbol, operands, target } = own;
    if (!set.isCall(own)) return { min: 0, max: 0 };
    const placed = [...functions.values()].find(({ instructions: [first] }) => first?.at === target);
    const callee = symbol ?? placed?.name ?? calledIn(operands);
    if (functions.has(callee)) return lengthOf(callee, callers);
    calls.add(callee);
    return set.back;
  }

  try {
    const length = lengthOf(name, []);
    return succeeded({ ...length, calls: [...calls], waits: [...waits] });
  } catch (error) {
    if (error instanceof Unreadable) return failed(error.message);
    throw error;
  }
}
