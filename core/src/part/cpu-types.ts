import type { Writes } from './writes.ts';

/**
 * Cycles of the statements of a loop that sends bits: a store to a pin's register up to the address `last`, or beyond it; the
 * test of a bit, with which a store that is left out takes the same; the lower half of counting a byte, and the upper one where it takes
 * others; taking the next byte in place of this one, and reading it ahead where that is a step of its own; going back.
 */
export type BitLoop = {
  store: { cycles: number; last: number; beyond: number };
  test: number;
  count: number;
  carry?: number;
  read?: number;
  fetch: number;
  back: number;
};

/**
 * Where the priority of an interrupt is written, times `scale`, or `most` less that where the greatest number is the most urgent: in the field
 * `numbered`, in which %n stands for the interrupt's number and %w for a quarter of it, or in that of its vector. `with` is written along, for
 * priorities to be in force.
 */
export type PriorityFields = {
  numbered: string;
  vectors?: Readonly<Record<string, string>>;
  scale: number;
  most?: number;
  with?: Writes;
};

/** Cycles of the processor, at least and at most. */
export type CycleRange = { min: number; max: number };

/**
 * What a compiler that optimises makes of the operations of C, in cycles: at least where it finds the values at hand, at most where it does
 * not. `word` is the bytes that an instruction moves or computes with; what is wider takes an operation for each of its words.
 */
export type Operations = {
  word: 1 | 2 | 4;
  /** A handler saves and restores the processor's state, and each word of registers that its values need. */
  frame: CycleRange;
  save: number;
  /** A word of a variable is read, or written. */
  load: CycleRange;
  store: CycleRange;
  /** A word of a register is read, or written. */
  read: CycleRange;
  write: CycleRange;
  /** A word is added, masked or compared, or a number is brought in, at most. */
  compute: CycleRange;
  constant: number;
  /** One bit of a register up to an address is changed by an instruction of its own; absent where there is none. */
  bit?: { cycles: number; last: number };
  /** A way on is chosen. */
  branch: CycleRange;
  /** The address of a table's row, and a word of it. */
  index: CycleRange;
  table: CycleRange;
  /** A function that the compiler does not see into, with what its caller saves for it. */
  call: CycleRange;
  /** Interrupts are kept out and let in again. */
  exclude: CycleRange;
};

/**
 * The processor as its interrupts see it. Cycles from an interrupt's event to the first instruction of its handler and
 * back again, how many more the instruction under way may take, the cycles of a short handler of one pin (saving
 * registers and clearing its flag included), and of one pass of a delay loop. `priorities` says how waiting interrupts
 * are served: by a number each that may interrupt lower ones (`levels` of them), or one after the other by their number
 * (`fixed`), or all through one handler (`single`).
 */
export type Cpu = {
  clock: string;
  entryCycles: number;
  /** From the first instruction of a handler to the write that reloads a counter. */
  reloadCycles: number;
  exitCycles: number;
  lateCycles: number;
  handlerCycles: number;
  operations: Operations;
  loopCycles: number;
  /** What a loop that sends bits takes, where its cycles are fixed. */
  bitLoop?: BitLoop;
  /** By how many cycles caches and wait states may shift an edge of a delay loop; `none` where no loop takes a fixed time. */
  loopJitterCycles: number | 'none';
  /** Cycles the program needs in each period to hand a timer the width of the next bit. */
  feedCycles: number;
  /** Cycles that the generated loop takes at most to do that; absent where none is generated. */
  sendCycles?: number;
  /** What a handler costs more where it calls a function of the user's, since it saves all registers that one may change. */
  callCycles?: number;
  /** Whether memory transfers can hand a timer its next compare value, so that no interrupt has to. */
  transfers?: boolean;
  /** From the end of a handler into the next one that is pending, where the processor need not go back first. */
  tailCycles?: number;
  /** After a handler one instruction of the program runs, whatever is pending. */
  stepsBetween?: boolean;
  priorities: {
    scheme: 'levels' | 'fixed' | 'single';
    levels: number;
    /** The processor masks interrupts as it takes one, and handlers do not let others in: levels only order what waits. */
    masks?: true;
    /** All interrupts of a level come through one handler. */
    shared?: true;
    fields?: PriorityFields;
  };
};

/** An assembler: the family of instructions, by the width of their words (14 bits, 14 enhanced, 16), and the device. */
export type Assembly = { family: 'pic14' | 'pic14e' | 'pic18'; device: string };

/**
 * How interrupts are kept out for some statements: the status register of AVR, the mask register of Cortex-M, the status register of
 * other ARM cores, the interrupt level of Xtensa, the enable bit in INTCON of PIC.
 */
export type Exclusion = 'avr' | 'intcon' | 'primask' | 'cpsr' | 'xtensa';

/** The C that a part's compiler wants: headers to include, an interrupt handler's head, a statement to switch them on. */
export type Dialect = {
  /** Headers that the code includes. */
  headers: readonly string[];
  /** Whether registers and bits go by the names of these headers, are defined by address, or go by the rules of `device`. */
  registers: 'names' | 'addresses' | 'device';
  /**
   * The header of the device, and what registers are called in it, for code that uses them: of the rules the first that fits.
   * A # stands for digits, an @ for one letter, a * for the rest: "TIM#_*" as "TIM#->*". Several of one symbol come in the same order.
   * A header may give addresses instead of registers; then the code defines them by these.
   */
  device?: {
    header: string | readonly string[];
    gives?: 'addresses';
    names: readonly { registers: string; as: string }[];
  };
  /** The head of a handler, a percent sign standing for the vector: "ISR(%_vect)". */
  handler: string;
  /** How a handler is called where all interrupts come through one: "%_handler()". */
  call: string;
  /** Whether the generated code sets the dividers of the clock path; elsewhere the start-up code has done so. */
  setsClock: boolean;
  /** Whether registers of more than 8 bits are written in two steps, so that an interrupt may come between. */
  bytewise: boolean;
  /** Lets interrupts happen: "sei();". */
  allow: string;
  /** How the code keeps interrupts out of a few statements; absent where that is not cheap. */
  excludes?: Exclusion;
  /** What start-up code must do for an interrupt to reach its handler, a percent sign standing for the interrupt's number. */
  routing?: string;
  /** Whether a register that enables a clock must be read back before what it feeds is used. */
  readsBack?: boolean;
  /** Macros of libraries with their values, which code that is read may use. */
  macros?: Readonly<Record<string, number>>;
  /** Other names that libraries have for registers, by the same rules as `device`; they are read and never written. */
  aliases?: readonly { registers: string; as: string }[];
  /**
   * The assembler that the compiler takes between lines, for what must take fixed cycles: delays, and stores that an unlocked
   * register takes for a few cycles only. Without one the compiler decides.
   */
  assembler?: 'avr';
  /** The assembler for files of its own, where some code must take counted cycles that no compiler keeps. */
  assembly?: Assembly;
  /** How tables are kept out of RAM, where the compiler does not do so by itself. */
  tables?: 'pgmspace';
  /** The compiler whose listing tells how long handlers are: its family, the device or core, and whether program counters have 22 bits (AVR). */
  compiler?:
    | { family: 'avr'; device: string; wide?: boolean }
    | { family: 'thumb'; device: 'cortex-m0plus' | 'cortex-m4' };
};
