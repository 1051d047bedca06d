import { I, N, S, V, Z, type Core } from './core.ts';
import { decoded, type Executed } from './decode.ts';

/** What the processor reads and writes beside its registers and its memory. */
export type Io = {
  read: (address: number, cycle: number) => number;
  write: (address: number, value: number, cycle: number) => void;
};

const FLASH_WORDS = 0x4000;
const MEMORY = 0x900;
const IO_END = 0x100;
const SP = 0x5d;
const SREG = 0x5f;

/** An AVR processor of two bytes of program counter: registers, status, stack, and instructions in the cycles of the manual. */
export class AvrCpu implements Core {
  readonly memory = new Uint8Array(MEMORY);
  readonly flash = new Uint16Array(FLASH_WORDS);
  pc = 0;
  cycle = 0;
  status = 0;
  private readonly code: (Executed | undefined)[] = [];

  constructor(
    program: Uint8Array,
    private readonly io: Io,
  ) {
    for (let at = 0; at < program.length; at += 2)
      this.flash[at / 2] = (program[at] ?? 0) | ((program[at + 1] ?? 0) << 8);
  }

  get sp(): number {
    return (this.memory[SP] ?? 0) | ((this.memory[SP + 1] ?? 0) << 8);
  }

  set sp(value: number) {
    this.memory[SP] = value & 0xff;
    this.memory[SP + 1] = value >> 8;
  }

  load(address: number): number {
    if (address === SREG) return this.status;
    if (address < 0x20 || address >= IO_END || address === SP || address === SP + 1)
      return this.memory[address] ?? 0;
    return this.io.read(address, this.cycle);
  }

  store(address: number, value: number): void {
    if (address === SREG) this.status = value;
    else if (address < 0x20 || address >= IO_END || address === SP || address === SP + 1)
      this.memory[address] = value;
    else this.io.write(address, value, this.cycle);
  }

  push(value: number): void {
    this.memory[this.sp] = value;
    this.sp -= 1;
  }

  pop(): number {
    this.sp += 1;
    return this.memory[this.sp] ?? 0;
  }

  pushPc(): void {
    this.push(this.pc & 0xff);
    this.push(this.pc >> 8);
  }

  popPc(): void {
    const high = this.pop();
    this.pc = (high << 8) | this.pop();
  }

  flag(bit: number, on: boolean): void {
    this.status = on ? this.status | bit : this.status & ~bit;
  }

  /** Z, N and S of a result, V as told. */
  results(value: number, overflow: boolean): void {
    this.flag(Z, value === 0);
    this.flag(N, (value & 0x80) !== 0);
    this.flag(V, overflow);
    this.flag(S, ((value & 0x80) !== 0) !== overflow);
  }

  /** Whether it stands in a jump to itself. */
  get idle(): boolean {
    return this.flash[this.pc] === 0xcfff;
  }

  /** Runs one instruction; what it changes outside happens in its last cycle. */
  step(): void {
    const at = this.pc;
    const instruction = (this.code[at] ??= decoded(this.flash[at] ?? 0, this.flash[at + 1] ?? 0));
    this.pc = at + instruction.words;
    this.cycle += instruction.cycles;
    const more = instruction.run(this);
    if (more !== undefined) this.cycle += more;
  }

  /** Words of the instruction at the program counter, for skips. */
  get words(): number {
    const { pc } = this;
    return (this.code[pc] ??= decoded(this.flash[pc] ?? 0, this.flash[pc + 1] ?? 0)).words;
  }

  /** Takes an interrupt: four cycles, and the jump of its vector by itself. */
  interrupt(vector: number): void {
    this.pushPc();
    this.flag(I, false);
    this.pc = vector;
    this.cycle += 4;
  }
}
