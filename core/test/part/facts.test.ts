import { factsOf, PARTS, WRITTEN } from '../helpers/parts.ts';
import { readPart, writePart } from '../../src/timer/part-file.ts';
import { pinOf, timerOf, timerPins } from '../../src/part/find.ts';
import { fetchTrust, shippedParts } from '../../src/part/fetch.ts';
import { partFaults } from '../../src/part/references.ts';
import { factOf, trustIn } from '../../src/part/trust.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import type { Interrupt, Part, Timer, Writes } from '../../src/part/types.ts';

/** x stands for digits or a letter, * for anything. */
function patternOf(pattern: string): RegExp {
  const source = pattern.replace(/[.]/g, '\\.').replace(/x+/g, '[0-9A-Z]+').replace(/\*/g, '.*');
  return new RegExp(`^${source}$`);
}

function interruptsOf(part: Part): Interrupt[] {
  return part.timers.flatMap((timer) => [
    ...Object.values(timer.interrupts),
    ...timer.channels.flatMap((channel) => channel.interrupt ?? []),
  ]);
}

const sourced = PARTS.flatMap((part) => {
  const facts = factsOf(part.id);
  return facts ? [{ part, facts, name: part.name }] : [];
});

it('every part that is written is shipped, once', () => {
  expect(WRITTEN.map(({ id }) => id).sort()).toEqual(shippedParts().sort());
});

it('a part is verified by the facts there are, and never by what it says of itself', async () => {
  const trusts = await Promise.all(PARTS.map(async (part) => [part, await fetchTrust(part)] as const));
  for (const [part, trust] of trusts) {
    expect(trust).toEqual(trustIn(part, factsOf(part.id)));
    expect(part.source).not.toBe('');
  }
  const verified = trusts.filter(([, trust]) => trust.verified).map(([part]) => part.id);
  expect(verified).toEqual(['atmega328p', 'atmega2560', 'attiny85', 'pic16f684', 'pic18f4620']);
  const nothing = trusts.filter(([, trust]) => trust.confirmed === 0).map(([part]) => part.id);
  expect(nothing).toEqual(['pic16f18875', 'rp2040', 'esp32', 'am3358']);
});

it('a copy under another name, or with a bit moved, is not verified', async () => {
  const copy = await fetchTrust({ ...atmega328p, id: 'atmega328q' });
  expect([copy.verified, copy.confirmed]).toEqual([false, 0]);
  const moved = atmega328p.registers.map((register) =>
    register.name === 'TCCR1B'
      ? { ...register, fields: { ...register.fields, WGM12: [2, 2] as const } }
      : register,
  );
  const trust = await fetchTrust({ ...atmega328p, registers: moved });
  expect(trust).toMatchObject({
    verified: false,
    unverified: ['TCCR1B.WGM12'],
    contradicted: ['TCCR1B.WGM12'],
  });
});

describe.each(sourced)('$name against an independent source', ({ part, facts }) => {
  const trust = trustIn(part, facts);

  it('is contradicted nowhere', () => {
    expect(trust.items).toBeGreaterThan(50);
    expect(trust.contradicted).toEqual([]);
  });

  it('is confirmed but for what the facts say that no source names', () => {
    const unnamed = facts.unnamed.map(patternOf);
    const unexpected = trust.unverified.filter((name) => !unnamed.some((pattern) => pattern.test(name)));
    expect(unexpected).toEqual([]);
    const needless = facts.unnamed.filter(
      (pattern) => !trust.unverified.some((name) => patternOf(pattern).test(name)),
    );
    expect(needless).toEqual([]);
  });

  if (facts.relative_addresses) {
    it('has the distances within each block', () => {
      const known = part.registers.filter(({ name }) => factOf(facts, part, name));
      expect(known.length).toBeGreaterThan(10);
      for (const { name, address } of known) {
        expect([name, address]).toEqual([name, Number(factOf(facts, part, name)?.address)]);
      }
    });
  }

  const numbered = Object.entries(facts.interrupts ?? {});
  if (numbered.length > 0) {
    it.each(numbered)('%s is interrupt %i', (vector, number) => {
      expect(interruptsOf(part).find((one) => one.vector === vector)?.number).toBe(number);
    });
  }

  if (facts.vectors) {
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
