import { clockPath } from '../../src/clock/path.ts';
import { decodeText } from '../../src/decode/decode.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import { AvrBoard } from '../helpers/avr/board.ts';
import { MISSING_FOR_AVR, programOfText } from '../helpers/avr/compiled.ts';
import { AvrCpu } from '../helpers/avr/cpu.ts';

/** Wave forms of a timer: its mode bits by register, whether it counts up and down, and where its top is. */
type Wave = { a: string[]; b: string[]; top: 'icr' | 'ocra' | number };

const WAVES: Readonly<Record<'narrow' | 'wide', readonly Wave[]>> = {
  narrow: [
    { a: ['WGMn1', 'WGMn0'], b: [], top: 255 },
    { a: ['WGMn0'], b: [], top: 255 },
    { a: ['WGMn1', 'WGMn0'], b: ['WGMn2'], top: 'ocra' },
    { a: ['WGMn0'], b: ['WGMn2'], top: 'ocra' },
    { a: ['WGMn1'], b: [], top: 'ocra' },
  ],
  wide: [
    { a: ['WGM11'], b: ['WGM13', 'WGM12'], top: 'icr' },
    { a: ['WGM11'], b: ['WGM13'], top: 'icr' },
    { a: ['WGM10'], b: ['WGM12'], top: 255 },
    { a: ['WGM10', 'WGM11'], b: [], top: 1023 },
    { a: [], b: ['WGM12'], top: 'ocra' },
    { a: ['WGM10', 'WGM11'], b: ['WGM12', 'WGM13'], top: 'ocra' },
  ],
};

/** Outputs of the three timers: the timer, its channel, and the pin. */
const OUTPUTS = [
  [0, 'B', 'PD5'],
  [1, 'A', 'PB1'],
  [2, 'B', 'PD3'],
  [1, 'B', 'PB2'],
  [0, 'A', 'PD6'],
  [2, 'A', 'PB3'],
] as const;

/** A prescaler of 8 on each timer. */
const BY_8 = 'CSn1';

type Drawn = { registers: [name: string, bits: string[] | number][]; pin: string };

/** One of sixty programs: a wave form, an output and values that belong together. */
function drawn(at: number): Drawn {
  const [timer, channel, pin] = OUTPUTS[at % OUTPUTS.length] ?? OUTPUTS[0];
  const wide = timer === 1;
  const waves = WAVES[wide ? 'wide' : 'narrow'];
  // Channel A makes nothing but a toggle where it is the top itself.
  const able = waves.filter(({ top }) => channel === 'B' || top !== 'ocra');
  const wave = able[(at * 7 + 3) % able.length] ?? waves[0];
  if (!wave) throw new Error('no wave form');
  const name = (text: string): string => text.replace('n', String(timer));
  const limit = typeof wave.top === 'number' ? wave.top : wide ? 900 + 37 * at : 120 + at;
  const compare = 3 + ((at * 53) % (limit - 7));
  const toggles = wave.b.length + wave.a.length === 1 && wave.top === 'ocra';
  const com = toggles ? [`COM${timer}${channel}0`] : at % 4 === 3 ? [1, 0] : [1];
  const output = com.map((bit) => (typeof bit === 'string' ? bit : `COM${timer}${channel}${bit}`));
  return {
    pin,
    registers: [
      [`DDR${pin.charAt(1)}`, [pin]],
      ...(wave.top === 'icr' ? ([['ICR1', limit]] as Drawn['registers']) : []),
      ...(wave.top === 'ocra' ? ([[`OCR${timer}A`, limit]] as Drawn['registers']) : []),
      ...(channel === 'A' || wave.top !== 'ocra' || !toggles
        ? ([[`OCR${timer}${channel}`, compare]] as Drawn['registers'])
        : ([[`OCR${timer}B`, compare]] as Drawn['registers'])),
      [`TCCR${timer}A`, [...output, ...wave.a.map(name)]],
      [`TCCR${timer}B`, [...wave.b.map(name), name(BY_8)]],
    ],
  };
}

type Registers = Drawn['registers'];

const or = (bits: readonly string[], form: (bit: string) => string): string =>
  bits.map(form).join(' | ') || '0';

const isWide = (name: string): boolean => name === 'ICR1' || /^OCR1/.test(name);

/** Ten ways in which people write the same statements. */
const STYLES: readonly ((registers: Registers) => string)[] = [
  (registers) =>
    registers
      .map(
        ([name, value]) =>
          `${name} = ${typeof value === 'number' ? value : or(value, (bit) => `(1 << ${bit})`)};`,
      )
      .join('\n  '),
  (registers) =>
    registers
      .map(
        ([name, value]) =>
          `${name} = ${typeof value === 'number' ? `0x${value.toString(16)}` : or(value, (bit) => `_BV(${bit})`)};`,
      )
      .join(' '),
  (registers) =>
    registers
      .flatMap(([name, value]) =>
        typeof value === 'number'
          ? [`${name} = (uint16_t)${value}u;`]
          : value.map((bit) => `${name} |= 1<<${bit};`),
      )
      .join('\n\t'),
  (registers) =>
    registers
      .map(
        ([name, value]) =>
          `${name} = ${typeof value === 'number' ? `${value + 1} - 1` : or(value, (bit) => `bit(${bit})`)};`,
      )
      .join('\n'),
  (registers) =>
    registers
      .flatMap(([name, value]) => {
        if (typeof value !== 'number') return [`${name} |= ${or(value, (bit) => `_BV(${bit})`)};`];
        return isWide(name)
          ? [`${name}H = ${value} >> 8;`, `${name}L = ${value} & 0xFF;`]
          : [`${name} = ${value};`];
      })
      .join('\n  '),
  (registers) =>
    registers
      .flatMap(([name, value]) =>
        typeof value === 'number'
          ? [`${name} = ${value};`]
          : [
              `${name} &= ~(${or(value, (bit) => `(1 << ${bit})`)});`,
              `${name} |= ${or(value, (bit) => `(1 << ${bit})`)};`,
            ],
      )
      .join('\n  '),
  (registers) =>
    registers
      .map(([name, value]) =>
        typeof value === 'number'
          ? `set_word(${value}); ${name} = word;`
          : `${name} = ${or(value, (bit) => `(1U << ${bit})`)};`,
      )
      .join('\n  ')
      .replaceAll(/set_word\((\d+)\); (\w+) = word;/g, 'const uint16_t $2_value = $1; $2 = $2_value;'),
  (registers) =>
    registers
      .map(([name, value]) =>
        typeof value === 'number'
          ? `${name} = F_CPU / 8 / (F_CPU / 8 / ${value});`
          : `${name} = ${or(value, (bit) => `(1UL << ${bit})`)};`,
      )
      .join('\n  '),
];

/** The whole program of a draw. */
function textOf(at: number): string {
  const style = STYLES[at % STYLES.length] ?? STYLES[0];
  return [
    '#define F_CPU 16000000UL',
    '#include <avr/io.h>',
    ...(at % STYLES.length === 3 ? ['#define bit(b) (1UL << (b))'] : []),
    `/* program ${at} */`,
    'static void begin(void) {',
    `  ${style?.(drawn(at).registers)}`,
    '}',
    'int main(void) {',
    '  begin();',
    '  for (;;) { }',
    '}',
    '',
  ].join('\n');
}

type Made = { pin: string | undefined; hz: number; duty: number };

/** What the decoder makes of a text, on the pins that move. */
function decodedFrom(text: string): Made[] {
  const found = decodeText(atmega328p, clockPath(atmega328p, atmega328p.defaultClock), text);
  if (!found.ok) throw new Error(found.fault.sentence);
  return found.value.timers.flatMap(({ effects }) =>
    effects.map(({ setting, outcome }) => ({
      ...{ pin: setting.pin, hz: outcome.frequency.valueOf(), duty: outcome.duty.valueOf() },
    })),
  );
}

/** The stores of the compiled program to its registers, as statements with their names, in the order in which they come. */
function storesOf(program: Uint8Array): string {
  const names = new Map(atmega328p.registers.map(({ name, address }) => [address, name]));
  const wide = new Set(
    atmega328p.registers.filter(({ width }) => width === 16).map(({ address }) => address),
  );
  const held = new Map<number, number>();
  const lines: string[] = [];
  const cpu = new AvrCpu(program, {
    read: (address) => held.get(address) ?? 0,
    write: (address, value) => {
      held.set(address, value);
      // A wide register takes both halves with the lower one.
      const upper = wide.has(address) ? (held.get(address + 1) ?? 0) : 0;
      const name = names.get(address);
      if (name !== undefined) lines.push(`${name} = ${upper * 256 + value};`);
    },
  });
  cpu.sp = 0x8ff;
  while (cpu.cycle < 400) cpu.step();
  return lines.join('\n');
}

/** What the pin does while the program runs, from its edges after the first periods. */
function played(program: Uint8Array, pin: string): Made {
  const board = new AvrBoard(program);
  board.runUntil(140_000);
  const edges = (board.edges.get(pin) ?? []).slice(6);
  const [rise = 0, fall = 0] = edges;
  const periods = Math.floor((edges.length - 1) / 2);
  const period = ((edges[2 * periods] ?? 0) - rise) / periods;
  return { pin, hz: 16e6 / period, duty: (fall - rise) / period };
}

(MISSING_FOR_AVR.length > 0 ? describe.skip : describe)('whole programs, compiled and run', () => {
  it.each(Array.from({ length: 64 }, (_, at) => [at, drawn(at).pin] as const))(
    'program %d, on %s: its text, its compiled stores and its pin tell the same',
    (at, pin) => {
      const text = textOf(at);
      const program = programOfText(text);
      const runs = played(program, pin);
      const read = decodedFrom(text).filter((one) => one.pin === pin);
      expect({ text, made: read.map(({ hz, duty }) => [hz.toFixed(6), duty.toFixed(9)]) }).toEqual({
        text,
        made: [[runs.hz.toFixed(6), runs.duty.toFixed(9)]],
      });
      expect(decodedFrom(storesOf(program))).toEqual(decodedFrom(text));
    },
  );
});
