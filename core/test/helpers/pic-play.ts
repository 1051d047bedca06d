import type { Assembly } from '../../src/part/types.ts';
import type { Store } from './avr-play.ts';
import { decoded14, decoded16, type Linked } from './pic.ts';

/** Registers that a loop which sends bits uses, by family; the rest is memory. */
const CORE = {
  pic14: { status: 0x03, low: 0x04, high: undefined, indirect: 0x00 },
  pic14e: { status: 0x03, low: 0x04, high: 0x05, indirect: undefined },
  pic18: { status: 0xfd8, low: 0xfe9, high: 0xfea, indirect: 0xfee },
} as const;

/**
 * Runs a function that sends bytes and tells the stores to a bit of a port: one cycle to an instruction, two for those that jump, skip or
 * move a register to another (the families' data sheets). The level is taken at the end of the store's cycle.
 */
export function playBits(
  family: Assembly['family'],
  { words, labels }: Linked,
  label: string,
  memory: Map<number, number>,
  port: { address: number; bit: number },
): Store[] {
  const { status, low, high, indirect } = CORE[family];
  const wide = family === 'pic18';
  const size = wide ? 2 : 1;
  const stores: Store[] = [];
  const get = (address: number): number => memory.get(address) ?? 0;
  let [at, w, bank, cycle] = [labels.get(label) ?? -1, 0, 3, 0];
  const wordAt = (place: number): number => words.get(wide ? place : 2 * place) ?? 0;
  const pointer = (): number => {
    const upper = high === undefined ? (get(status) >> 7) & 1 : get(high);
    return upper * 256 + get(low);
  };
  const advance = (): void => {
    const next = pointer() + 1;
    memory.set(low, next & 0xff);
    if (high !== undefined) memory.set(high, next >> 8);
  };
  const read = (address: number): number => {
    if (address !== indirect) return get(address);
    const value = get(pointer());
    if (wide) advance();
    return value;
  };
  const write = (address: number, value: number): void => {
    memory.set(address, value & 0xff);
    if (address === port.address) stores.push({ cycle, high: ((value >> port.bit) & 1) === 1 });
  };
  const carried = (result: number): number => {
    memory.set(status, (get(status) & ~1) | (result >= 0 ? 1 : 0));
    return result & 0xff;
  };
  const place = (file: number): number => {
    if (wide) return file < 0x80 ? file : 0xf00 + file;
    return file >= 0x70 || file < (family === 'pic14e' ? 0x0c : 0x05) ? file : bank * 0x80 + file;
  };
  for (let steps = 0; steps < 50_000; steps += 1) {
    const { does, operand, toFile, bit } = wide ? decoded16(wordAt(at)) : decoded14(wordAt(at));
    at += size;
    cycle += 1;
    const own = (value: number): void => {
      if (toFile) write(place(operand), value);
      else w = value;
    };
    const borrow = 1 - (get(status) & 1);
    if (does === 'return') return stores;
    else if (does === 'nop') continue;
    else if (does === 'movlb') bank = operand;
    else if (does === 'movlw') w = operand;
    else if (does === 'movwf') write(place(operand), w);
    else if (does === 'movf') own(read(place(operand)));
    else if (does === 'incf') own((read(place(operand)) + 1) & 0xff);
    else if (does === 'decf') own(carried(read(place(operand)) - 1));
    else if (does === 'subwf') own(carried(read(place(operand)) - w));
    else if (does === 'subwfb') own(carried(read(place(operand)) - w - borrow));
    else if (does === 'moviw') {
      cycle += 1;
      w = get(pointer());
      advance();
    } else if (does === 'movff') {
      cycle += 1;
      const to = wordAt(at) & 0xfff;
      at += size;
      write(to, read(operand));
    } else if ((does === 'bcf' || does === 'bsf') && family === 'pic14' && operand === status && bit < 7) {
      const mask = bit === 5 ? 1 : 2;
      bank = does === 'bsf' ? bank | mask : bank & ~mask;
    } else if (does === 'bcf') write(place(operand), get(place(operand)) & ~(1 << bit));
    else if (does === 'bsf') write(place(operand), get(place(operand)) | (1 << bit));
    else if (does === 'btfss' || does === 'btfsc') {
      const set = ((get(place(operand)) >> bit) & 1) === 1;
      if (set === (does === 'btfss')) [at, cycle] = [at + size, cycle + 1];
    } else if (does === 'goto') [at, cycle] = [operand, cycle + 1];
    else if (does === 'bra') [at, cycle] = [at + size * operand, cycle + 1];
    else throw new Error(`${does} is not expected here`);
  }
  throw new Error(`${label} does not return`);
}
