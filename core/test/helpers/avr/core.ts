/** Bits of the status register. */
export const [C, Z, N, V, S, H, T, I] = [1, 2, 4, 8, 16, 32, 64, 128] as const;

/** A processor as its instructions see it; the registers are the first 32 bytes of its memory. */
export type Core = {
  readonly memory: Uint8Array;
  readonly flash: Uint16Array;
  pc: number;
  status: number;
  load: (address: number) => number;
  store: (address: number, value: number) => void;
  push: (value: number) => void;
  pop: () => number;
  pushPc: () => void;
  popPc: () => void;
  flag: (bit: number, on: boolean) => void;
  /** Z, N and S of a result, V as told. */
  results: (value: number, overflow: boolean) => void;
  /** Words of the instruction at the program counter, for skips. */
  readonly words: number;
};
