import {
  Unreadable,
  way,
  type Between,
  type Instruction,
  type InstructionSet,
  type Way,
} from './instruction-set.ts';

/** Cycles of the classes of Thumb instructions on a core. */
type Timing = {
  /** A load or store of one word; where the pipeline hides part of it, the least. */
  memory: Between;
  /** A jump, a call, a call through a register, and a return through a register. */
  jump: Between;
  call: Between;
  through: Between;
  /** What a register list adds to one cycle for each register, and what the program counter in it adds. */
  popToPc: Between;
  special: Between;
  barrier: Between;
  divide: Between;
  multiplyLong: Between;
};

const range = (min: number, max = min): Between => ({ min, max });

/**
 * Cortex-M0+ (technical reference manual, instruction set summary; multiplier of one cycle) and Cortex-M4 (the same of its
 * manual: a refill of the pipeline takes 1 to 3 cycles, neighbouring loads hide one). Without wait states of the memory.
 */
const TIMINGS: Record<'cortex-m0plus' | 'cortex-m4', Timing> = {
  'cortex-m0plus': {
    memory: range(2),
    jump: range(2),
    call: range(3),
    through: range(2),
    popToPc: range(2),
    special: range(3),
    barrier: range(3),
    divide: range(0),
    multiplyLong: range(0),
  },
  'cortex-m4': {
    memory: range(1, 2),
    jump: range(2, 4),
    call: range(2, 4),
    through: range(2, 4),
    popToPc: range(1, 3),
    special: range(1, 2),
    barrier: range(1, 4),
    divide: range(2, 12),
    multiplyLong: range(1),
  },
};

/** Cores whose listings can be counted. */
export type ThumbCore = keyof typeof TIMINGS;

const ONE =
  /^(?:mov|mvn|movw|movt|add|addw|adc|sub|subw|sbc|rsb|neg|and|orr|orn|eor|bic|cmp|cmn|tst|teq|lsl|lsr|asr|ror|sxtb|sxth|uxtb|uxth|rev|rev16|revsh|nop|cps|cpsie|cpsid|ubfx|sbfx|bfi|bfc|clz|rbit|mul|mla|mls|adr|it[te]{0,3})s?$/;
const CONDITIONS = 'eq|ne|cs|hs|cc|lo|mi|pl|vs|vc|hi|ls|ge|lt|gt|le';
const BRANCH = new RegExp(`^b(?:${CONDITIONS})$`);
const CONDITIONAL = new RegExp(`^(\\w+?)(?:${CONDITIONS})$`);

/** How many registers a list has: "{r4, r5, lr}", "{r0-r3}". */
function listed(operands: string): number {
  const list = operands.slice(operands.indexOf('{') + 1, operands.lastIndexOf('}'));
  return list.split(',').reduce((count, part) => {
    const [from, to] = [...part.matchAll(/r(\d+)/g)].map((one) => Number(one[1]));
    return count + (from !== undefined && to !== undefined ? to - from + 1 : 1);
  }, 0);
}

function targetOf({ at, mnemonic, operands, target }: Instruction): number {
  const place = /(?:^|, )([0-9a-f]+) </.exec(operands)?.[1];
  const to = target ?? (place === undefined ? undefined : parseInt(place, 16));
  if (to === undefined) throw new Unreadable(`${mnemonic} at ${at.toString(16)} leads nowhere.`);
  return to;
}

function plus(one: Between, more: number): Between {
  return { min: one.min + more, max: one.max + more };
}

/** Cycles of an instruction that goes on to the next; undefined for one that is not known. */
function straight(mnemonic: string, operands: string, timing: Timing): Between | undefined {
  if (ONE.test(mnemonic)) return range(1);
  if (/^(?:ldr|str)d$/.test(mnemonic)) return range(3);
  if (/^(?:ldr|str)s?[bh]?$/.test(mnemonic)) return timing.memory;
  if (/^(?:push|pop|(?:ldm|stm)(?:ia|db)?)$/.test(mnemonic)) return range(1 + listed(operands));
  if (/^(?:mrs|msr)$/.test(mnemonic)) return timing.special;
  if (/^(?:dmb|dsb|isb)$/.test(mnemonic)) return timing.barrier;
  if (/^[su]div$/.test(mnemonic)) return timing.divide;
  return /^[su]m(?:ul|la)l$/.test(mnemonic) ? timing.multiplyLong : undefined;
}

function waysOf(mnemonic: string, own: Instruction, timing: Timing, outermost: boolean): Way[] {
  const { at, bytes, operands } = own;
  const after = at + bytes;
  const returns = (mnemonic === 'bx' && operands === 'lr') || (mnemonic === 'pop' && operands.includes('pc'));
  if (returns) {
    const list = mnemonic === 'pop' ? 1 + listed(operands) : 0;
    const out = mnemonic === 'pop' ? plus(timing.popToPc, list) : timing.through;
    return [outermost ? way('end', list) : { to: 'end', ...out }];
  }
  if (mnemonic === 'b' && own.symbol !== undefined) return [{ to: 'end', ...timing.jump }];
  if (mnemonic === 'b') return [{ to: targetOf(own), ...timing.jump }];
  if (mnemonic === 'bl') return [{ to: after, ...timing.call }];
  if (mnemonic === 'blx') return [{ to: after, ...timing.through }];
  if (BRANCH.test(mnemonic) || /^cbn?z$/.test(mnemonic)) {
    return [way(after, 1), { to: targetOf(own), ...timing.jump }];
  }
  const cycles = straight(mnemonic, operands, timing);
  if (cycles) return [{ to: after, ...cycles }];
  const bare = CONDITIONAL.exec(mnemonic)?.[1];
  if (bare === undefined) throw new Unreadable(`The instruction ${mnemonic} is not known.`);
  // Within an IT block: executed as written, or skipped in one cycle.
  return [...waysOf(bare, own, timing, outermost), way(after, 1)];
}

/** The Thumb instructions of a core. */
export function thumbSet(core: ThumbCore): InstructionSet {
  const timing = TIMINGS[core];
  return {
    relocation: /: R_ARM_THM_(?:CALL|JUMP24|JUMP11)\t(\S+)/,
    ways: (own, _next, outermost) => waysOf(own.mnemonic.replace(/\.[nw]$/, ''), own, timing, outermost),
    // A jump that the linker binds is a call whose return is that of the caller.
    isCall: ({ mnemonic, symbol }) =>
      /^blx?(?:\.w)?$/.test(mnemonic) || (/^b\.[nw]$/.test(mnemonic) && symbol !== undefined),
    back: timing.through,
  };
}
