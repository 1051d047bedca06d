import type { SetUp } from '../program/set-up.ts';
import { byRegister, fieldBits, plainWrites, registerWrite } from '../timer/fields.ts';
import { identifier } from '../program/names.ts';
import { commentText } from './comment.ts';
import { conditionOf } from '../part/condition.ts';
import { registerOf } from '../part/find.ts';
import type { Assembly, Part } from '../part/types.ts';
import type { Step } from '../program/step.ts';
import { accessOf, bankLines, bankOf, definitionLines, hexByte } from './pic-assembly.ts';

/** A step that this assembler has no instructions for. */
class NotInAssembler extends Error {}

/** Writes the steps of a function, one after the other, and knows which bank is selected. */
class Writer {
  readonly lines: string[] = [];
  readonly used = new Set<string>();
  private bank: number | undefined;
  private waits = 0;
  private readonly family: Assembly['family'];
  private readonly access: string;

  constructor(
    private readonly part: Part,
    family: Assembly['family'],
    private readonly label: string,
  ) {
    this.family = family;
    this.access = accessOf(family);
  }

  private add(...lines: string[]): void {
    this.lines.push(...lines.map((line) => `        ${line}`));
  }

  /** Selects the bank of a register. */
  private reach(register: string): void {
    const bank = bankOf(this.family, registerOf(this.part, register).address);
    this.used.add(register);
    if (bank !== this.bank) this.add(...bankLines(this.family, bank));
    this.bank = bank;
  }

  private bit(does: string, register: string, mask: number): void {
    this.add(`${does} ${register}, ${Math.log2(mask)}${this.access}`);
  }

  private whole(register: string, value: number): void {
    this.reach(register);
    if (value === 0) this.add(`clrf ${register}${this.access}`);
    else this.add(`movlw ${hexByte(value)}`, `movwf ${register}${this.access}`);
  }

  /** Sets the bits of a mask, the others of the register left as they are. */
  private masked(register: string, mask: number, value: number): void {
    if (registerOf(this.part, register).strobe || mask === 0xff) return this.whole(register, value);
    this.reach(register);
    if (Number.isInteger(Math.log2(mask))) return this.bit(value === 0 ? 'bcf' : 'bsf', register, mask);
    this.add(
      `movf ${register}, W${this.access}`,
      `andlw ${hexByte(0xff & ~mask)}`,
      ...(value === 0 ? [] : [`iorlw ${hexByte(value)}`]),
      `movwf ${register}${this.access}`,
    );
  }

  /** Goes on once a bit is one, or with an exclamation mark zero. */
  private wait(until: string): void {
    const { register: name, field, is } = conditionOf(until);
    const { mask } = fieldBits(registerOf(this.part, name), field);
    if (typeof is === 'number' || !Number.isInteger(Math.log2(mask))) throw new NotInAssembler(until);
    this.reach(name);
    this.waits += 1;
    const again = `${this.label}_wait${this.waits}`;
    this.lines.push(again);
    this.bit(is === 'clear' ? 'btfsc' : 'btfss', name, mask);
    this.add(`${this.family === 'pic18' ? 'bra' : 'goto'} ${again}`);
  }

  /** Takes a flag away by writing zero to it, or one. */
  private clear(flag: string, how: string): void {
    const [name = '', field = null] = flag.split('.');
    const { mask } = fieldBits(registerOf(this.part, name), field);
    if (how === 'write-one') return this.whole(name, mask);
    if (how !== 'write-zero') throw new NotInAssembler(flag);
    this.masked(name, mask, 0);
  }

  /** Writes a step. @throws NotInAssembler */
  step(step: Step): void {
    switch (step.do) {
      case 'say':
        this.lines.push(`        ; ${commentText(step.text)}`);
        return;
      case 'gap':
        this.lines.push('');
        return;
      case 'store':
      case 'change':
        for (const { register, writes } of byRegister(step.writes)) {
          const { mask, value } = registerWrite(this.part, register, writes);
          this.masked(register, mask, value);
        }
        return;
      case 'order':
        for (const { register, writes } of byRegister(plainWrites([step.order])))
          this.whole(register, registerWrite(this.part, register, writes).value);
        return;
      case 'load':
        if (typeof step.value !== 'number' || step.adds) throw new NotInAssembler(step.register);
        return this.whole(step.register, step.value);
      case 'read':
        this.reach(step.register);
        return this.add(`movf ${step.register}, W${this.access}`);
      case 'wait':
        return this.wait(step.until);
      case 'clear':
        return this.clear(step.interrupt.flag, step.interrupt.clear);
      default:
        throw new NotInAssembler(step.do);
    }
  }
}

/**
 * The assembler form of what sets the registers up: a function that is called once, and one that starts. What handlers keep, and whether the
 * processor takes interrupts, is the program's. Undefined where the part has no assembler for it, or a step is in C only.
 */
export function setUpAssembly(part: Part, name: string, steps: SetUp): string | undefined {
  const { assembly } = part.code;
  if (!assembly || part.registers.some(({ width }) => width !== 8)) return undefined;
  const stem = identifier(name);
  // What comes last in C lets interrupts happen, or says how.
  const enabled = steps.enable.filter((step) => step.do !== 'allow');
  const written = (label: string, says: string, own: readonly Step[]) => {
    const writer = new Writer(part, assembly.family, `_${stem}_${label}`);
    try {
      for (const step of own) writer.step(step);
      return { label: `_${stem}_${label}`, says, writer };
    } catch (error) {
      if (error instanceof NotInAssembler) return undefined;
      throw error;
    }
  };
  const clocks = steps.clocks && written('clocks', 'after reset, before all else', steps.clocks);
  const init = written('init', 'once, before start', steps.init);
  const start = written('start', 'at each start', [...steps.start, ...enabled]);
  if (!init || !start) return undefined;
  const functions = [...(clocks ? [clocks] : []), init, start];
  const inCOnly = steps.clocks && !clocks ? [`; ${stem}_clocks is in C only.`] : [];
  const used = new Set(functions.flatMap(({ writer }) => [...writer.used]));
  return [
    `; ${commentText(name)}: what the functions of the C file with these names do to the registers of ${part.name}, for programs in assembler. Use`,
    '; one or the other. The variables of handlers, and whether the processor takes interrupts, are left to the program.',
    ...inCOnly,
    `; Changes W, the status register${assembly.family === 'pic18' ? '' : ' and the bank'}.`,
    ...definitionLines(
      assembly,
      part.registers.filter((register) => used.has(register.name)),
    ),
    '',
    '        code',
    ...functions.flatMap(({ label, says, writer }) => [
      '',
      `; ${says}`,
      label,
      ...writer.lines.filter((line, at) => line !== '' || (writer.lines[at + 1] ?? '') !== ''),
      '        return',
      `        global ${label}`,
    ]),
    '        end',
    '',
  ].join('\n');
}
