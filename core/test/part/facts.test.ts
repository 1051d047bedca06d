import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { PARTS } from '../helpers/parts.ts';
import { readPart, writePart } from '../../src/timer/part-file.ts';
import { pinOf, timerOf, timerPins } from '../../src/part/find.ts';
import { partFaults } from '../../src/part/references.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import type { Interrupt, Part, Timer, Writes } from '../../src/part/types.ts';

type Fact = {
  address: string | null;
  offset?: string;
  width?: number;
  bits: Record<string, number>;
  fields?: Record<string, [number, number]>;
};
type Facts = {
  registers: Record<string, Fact>;
  vectors?: Record<string, number>;
  interrupts?: Record<string, number>;
  relative_addresses?: boolean;
};

function factsOf(id: string): Facts | undefined {
  const file = join(__dirname, `../facts/${id}.json`);
  return existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as Facts) : undefined;
}

/**
 * The fact of a register. A source that knows a block of registers but not where it lies names the block's own offsets,
 * with x for the number of the block: there the distance from the block's first register is what counts.
 */
function factOf(facts: Facts | undefined, part: Part, name: string): Fact | undefined {
  const known = facts?.registers[name];
  if (!facts?.relative_addresses) return known;
  const [block = ''] = name.split('_');
  const family = name.replace(block, block.replace(/\d$/, 'x'));
  const relative = known ?? facts.registers[family];
  const bases = facts.registers[family.replace(/_.*/, '_SC')] ? `${block}_SC` : `${block}_MCR`;
  const base = part.registers.find((one) => one.name === bases)?.address ?? NaN;
  return relative && { ...relative, address: String(base + Number(relative.offset)) };
}

/**
 * Whether a part's data says itself that no source names this field, or this register where there is no dot: x stands
 * for digits or a letter, * for anything.
 */
function saidUnverified({ unverified = [] }: Part, key: string): boolean {
  return unverified.some((pattern) => {
    const source = pattern.replace(/[.]/g, '\\.').replace(/x+/g, '[0-9A-Z]+').replace(/\*/g, '.*');
    return new RegExp(`^${source}$`).test(key);
  });
}

function interruptsOf(part: Part): Interrupt[] {
  return part.timers.flatMap((timer) => [
    ...Object.values(timer.interrupts),
    ...timer.channels.flatMap((channel) => channel.interrupt ?? []),
  ]);
}

const sourced = PARTS.filter((part) => factsOf(part.id) !== undefined);

it('has a source for every part that calls itself verified, and says so of the others', () => {
  for (const part of PARTS) {
    expect([part.id, part.verified && factsOf(part.id) === undefined]).toEqual([part.id, false]);
    expect([part.id, part.verified]).toEqual([part.id, (part.unverified ?? []).length === 0]);
    expect(part.source).not.toBe('');
  }
});

describe.each(sourced)('$name against an independent source', (part) => {
  const facts = factsOf(part.id);

  it.each(part.registers.map((register) => [register.name, register] as const))('%s', (name, register) => {
    const fact = factOf(facts, part, name);
    expect([name, fact !== undefined || saidUnverified(part, name)]).toEqual([name, true]);
    if (!fact) return;
    expect(register.address).toBe(Number(fact.address));
    if (fact?.width) expect(register.width).toBe(fact.width);
    for (const [field, [max, min]] of Object.entries(register.fields)) {
      const position = fact?.bits[field] ?? fact?.bits[field.replace(/^PORT/, 'P')];
      const known = position !== undefined;
      expect([`${name}.${field}`, known || saidUnverified(part, `${name}.${field}`)]).toEqual([
        `${name}.${field}`,
        true,
      ]);
      if (!known) continue;
      const width = fact?.fields?.[field]?.[1] ?? max - min + 1;
      expect([field, max, min]).toEqual([field, position + width - 1, position]);
    }
  });

  const numbered = Object.entries(facts?.interrupts ?? {});
  if (numbered.length > 0) {
    it.each(numbered)('%s is interrupt %i', (vector, number) => {
      expect(interruptsOf(part).find((one) => one.vector === vector)?.number).toBe(number);
    });
  }

  if (facts?.vectors) {
    it('has the vectors of the header', () => {
      expect(Object.fromEntries(interruptsOf(part).map(({ vector, number }) => [vector, number]))).toEqual(
        facts.vectors,
      );
    });
  }
});

function prescalerWrites({ prescaler }: Timer): Writes[] {
  return prescaler.kind === 'list' ? prescaler.options.map((one) => one.writes) : [prescaler.writes];
}

describe.each(PARTS.map((part) => [part.id, part] as const))('%s is whole', (_, part) => {
  it('refers only to registers, fields, clocks, channels and pins that it has, with values that fit', () => {
    expect(partFaults(part)).toEqual([]);
  });

  it('survives its own file', () => {
    const read = readPart(writePart(part));
    expect(read).toEqual({ ok: true, value: JSON.parse(JSON.stringify(part)) as Part });
  });

  it('selects every mode and prescaler by bits of its own', () => {
    for (const timer of part.timers) {
      for (const list of [timer.modes.map((mode) => mode.writes), prescalerWrites(timer)]) {
        const codes = list.map((writes) => JSON.stringify(Object.entries(writes).sort()));
        expect(new Set(codes).size).toBe(codes.length);
      }
    }
  });

  it('has outputs only on pins it has, each bit of a port once', () => {
    for (const pin of timerPins(part)) expect(pinOf(part, pin).id).toBe(pin);
    expect(new Set(part.pins.map((pin) => `${pin.port}.${pin.bit}`)).size).toBe(part.pins.length);
    for (const name of Object.keys(part.pins[0]?.package ?? {})) {
      expect(new Set(part.pins.map((pin) => pin.package[name])).size).toBe(part.pins.length);
    }
  });

  it('says what it has when asked for what it has not', () => {
    expect(() => timerOf(part, 'TIMER9')).toThrow(/has no timer “TIMER9”; it has /);
  });
});

it("has the mode codes of the datasheet's waveform tables", () => {
  const code = (writes: Writes): number =>
    Object.entries(writes).reduce((sum, [key, bit]) => sum + Number(bit) * 2 ** Number(key.slice(-1)), 0);
  const byTimer = atmega328p.timers.map((timer) =>
    Object.fromEntries(timer.modes.map((mode) => [mode.id, code(mode.writes)])),
  );
  const narrow = { normal: 0, phase: 1, ctc: 2, fast: 3, 'phase-ocra': 5, 'fast-ocra': 7 };
  expect(byTimer[0]).toEqual(narrow);
  expect(byTimer[2]).toEqual(narrow);
  expect(byTimer[1]).toEqual({
    normal: 0,
    'phase-8': 1,
    'phase-9': 2,
    'phase-10': 3,
    ctc: 4,
    'fast-8': 5,
    'fast-9': 6,
    'fast-10': 7,
    'phase-freq-icr': 8,
    'phase-freq-ocra': 9,
    'phase-icr': 10,
    'phase-ocra': 11,
    'ctc-icr': 12,
    'fast-icr': 14,
    'fast-ocra': 15,
  });
});
