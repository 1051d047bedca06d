import type { Instruction, InstructionSet } from '../../src/machine/instruction-set.ts';

const LINE = /^ *([0-9a-f]+):\t((?:[0-9a-f]{2,4} )+) *\t(\S+)(?:\t([^;@]*))?/;

/** The instructions of a function in a disassembly. */
export function instructionsIn(listing: string, name: string): Instruction[] {
  const from = listing.indexOf(`<${name}>:`);
  const text = listing.slice(from, listing.indexOf('\n\n', from));
  return text.split('\n').flatMap((line) => {
    const [, at = '', bytes = '', mnemonic = '', operands = ''] = LINE.exec(line) ?? [];
    if (at === '' || mnemonic.startsWith('.')) return [];
    const count = bytes.replace(/ /g, '').length / 2;
    return [{ at: parseInt(at, 16), bytes: count, mnemonic, operands: operands.trim() }];
  });
}

/** The most cycles of a loop in some code, over all ways round that pass no instruction twice. */
export function longestLoop(code: readonly Instruction[], set: InstructionSet): number {
  const places = new Map(code.map(({ at }, i) => [at, i]));
  const walk = (at: number, home: number, seen: ReadonlySet<number>): number => {
    const place = places.get(at);
    const own = place === undefined ? undefined : code[place];
    if (place === undefined || !own) return -Infinity;
    const above = new Set([...seen, at]);
    const lengths = set.ways(own, code[place + 1], true).map(({ to, max }) => {
      if (to === 'end') return -Infinity;
      if (to === home) return max;
      return above.has(to) ? -Infinity : max + walk(to, home, above);
    });
    return Math.max(...lengths);
  };
  return Math.max(...code.map(({ at }) => walk(at, at, new Set())));
}
