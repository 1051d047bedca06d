/** An instruction at its address in bytes, as a disassembler writes it: "sbrs", ["r24", "7"]. */
export type Instruction = { at: number; op: string; args: string[] };

/** The instructions of a function in a disassembly. */
export function instructionsOf(listing: string, name: string): Instruction[] {
  const from = listing.indexOf(`<${name}>:`);
  const text = listing.slice(from, listing.indexOf('\n\n', from));
  return [...text.matchAll(/^\s+([0-9a-f]+):\t(?:[0-9a-f]{2} )+\s*\t(\w+)(?:\t([^;\n]*))?/gm)].map(
    ([, at = '', op = '', args = '']) => ({
      at: parseInt(at, 16),
      op,
      args: args
        .split(',')
        .map((one) => one.trim())
        .filter(Boolean),
    }),
  );
}

/** Levels that a store puts on the port, and when: the cycle at whose end it happened. */
export type Store = { cycle: number; high: boolean };

/** Bytes that an instruction takes. */
const LONG = new Set(['sts', 'lds', 'call', 'jmp']);

/**
 * Runs a loop that sends bytes, from its first fetch to the last store, with cycles as in the instruction set manual: 1, but 2 for ld,
 * sts, rjmp and branches that are taken; a skip takes a cycle more for each word. Knows only what such a loop is made of.
 */
export function playSend(code: readonly Instruction[], bytes: readonly number[]): Store[] {
  const stores: Store[] = [];
  const first = code.findIndex(({ op, args }) => op === 'ld' && /^[XYZ]\+$/.test(args[1] ?? ''));
  const highRegister = code.slice(first).find(({ op }) => op === 'out' || op === 'sts')?.args[1];
  const after = (at: number): number => (LONG.has(code[at]?.op ?? '') ? 2 : 1);
  const target = ({ at, args }: Instruction): number => {
    const to = at + 2 + Number((args[0] ?? '').replace('.', ''));
    return code.findIndex((one) => one.at === to);
  };
  let [at, cycle, next, byte, count] = [first, 0, 0, 0, bytes.length];
  let [zero, carry] = [false, 0];
  for (let steps = 0; steps < 100_000; steps += 1) {
    const one = code[at];
    if (!one) return stores;
    const { op, args } = one;
    at += 1;
    if (op === 'ld') {
      cycle += 2;
      byte = bytes[next] ?? 0;
      next += 1;
    } else if (op === 'out' || op === 'sts') {
      cycle += op === 'out' ? 1 : 2;
      stores.push({ cycle, high: args[1] === highRegister });
    } else if (op === 'sbrs') {
      const set = ((byte >> Number(args[1])) & 1) === 1;
      cycle += 1 + (set ? after(at) : 0);
      at += set ? 1 : 0;
    } else if (op === 'subi') {
      cycle += 1;
      carry = (count & 0xff) < Number(args[1]) ? 1 : 0;
      const low = ((count & 0xff) - Number(args[1])) & 0xff;
      count = (count & 0xff00) | low;
      zero = low === 0;
    } else if (op === 'sbci') {
      cycle += 1;
      const high = ((count >> 8) - Number(args[1]) - carry) & 0xff;
      count = (high << 8) | (count & 0xff);
      zero = zero && high === 0;
    } else if (op === 'rjmp') {
      cycle += 2;
      at = target(one);
    } else if (op === 'breq') {
      cycle += zero ? 2 : 1;
      if (zero) return stores;
    } else if (op === 'nop') cycle += 1;
    else throw new Error(`a loop that sends bits has no ${op}`);
  }
  throw new Error('the loop does not end');
}

/** The moments at which the level changes, beginning low, counted from the first of them. */
export function edgesOf(stores: readonly Store[]): number[] {
  const edges = stores.filter(({ high }, at) => high !== (stores[at - 1]?.high ?? false));
  const [first] = edges;
  return edges.map(({ cycle }) => cycle - (first?.cycle ?? 0));
}
