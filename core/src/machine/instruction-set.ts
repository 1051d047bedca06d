/** One instruction of a listing: where it stands, how many bytes it has, and where it leads. */
export type Instruction = {
  at: number;
  bytes: number;
  mnemonic: string;
  operands: string;
  /** What the linker binds it to: a function, or a place in the section. */
  symbol?: string;
  target?: number;
};

/** Cycles between a least and a most. */
export type Between = { min: number; max: number };

/** A way on from an instruction: where to, and the cycles that the instruction takes on it. */
export type Way = Between & { to: number | 'end' };

/** What cannot be counted, in a sentence. */
export class Unreadable extends Error {}

/** How the instructions of a family of processors go on, and how long they take. */
export type InstructionSet = {
  /** The line of a listing that says what the linker binds a call or jump to. */
  relocation: RegExp;
  /**
   * The ways on from an instruction. `outermost` is the handler itself: its return from the interrupt counts as the way
   * out and not here. @throws Unreadable
   */
  ways: (own: Instruction, next: Instruction | undefined, outermost: boolean) => Way[];
  isCall: (own: Instruction) => boolean;
  /** The return of a function that is not in the listing. */
  back: Between;
};

/** A way that always takes the same. */
export function way(to: Way['to'], cycles: number): Way {
  return { to, min: cycles, max: cycles };
}
