import type {
  CaptureUnit,
  Channel,
  ClockNode,
  Cpu,
  Dialect,
  Interrupt,
  Output,
  Pin,
  Register,
  Timer,
  Writes,
} from '../../types.ts';
import { narrowModes, wideModes } from './avr-modes.ts';
import { bits, register as plainRegister, type Fields } from '../common/registers.ts';

/** A register of 8 bits unless stated otherwise. */
export function register(name: string, address: number, fields: Fields = {}, width = 8): Register {
  return plainRegister(name, address, fields, width);
}

/** The three clock select bits of a timer's control register B. */
function clockSelect(n: number, code: number): Writes {
  return {
    [`TCCR${n}B.CS${n}2`]: (code >> 2) & 1,
    [`TCCR${n}B.CS${n}1`]: (code >> 1) & 1,
    [`TCCR${n}B.CS${n}0`]: code & 1,
  };
}

function prescaler(n: number, divides: readonly number[]): Timer['prescaler'] {
  return { kind: 'list', options: divides.map((divide, at) => ({ divide, writes: clockSelect(n, at + 1) })) };
}

function outputMode(n: number, letter: string, code: number): Writes {
  return { [`TCCR${n}A.COM${n}${letter}1`]: code >> 1, [`TCCR${n}A.COM${n}${letter}0`]: code & 1 };
}

/** Where a timer's interrupts are enabled and shown: registers of their own, or one for all timers. */
export type Flags = { mask: string; flags: string };

/** An interrupt of a timer by its vector, its number and the fields that enable and show it. */
export function interrupt(
  vector: string,
  number: number,
  at: Flags,
  enable: string,
  flag: string,
): Interrupt {
  return {
    vector,
    number,
    enable: { [`${at.mask}.${enable}`]: 1 },
    flag: `${at.flags}.${flag}`,
    clear: 'entry-or-one',
  };
}

/** A channel with a PWM output in both polarities and a toggled one. */
function channel(
  n: number,
  letter: string,
  pin: string,
  vector: number,
  { at, wide }: { at: Flags; wide: boolean },
): Channel {
  const outputs: [Output['drive'], Output['polarity'], number][] = [
    ['pwm', 'normal', 2],
    ['pwm', 'inverted', 3],
    ['toggle', 'normal', 1],
  ];
  return {
    id: `OC${n}${letter}`,
    name: `OC${n}${letter}`,
    compare: { [`OCR${n}${letter}`]: { of: 'compare' } },
    outputs: outputs.map(([drive, polarity, code]) => ({
      pin,
      drive,
      polarity,
      writes: outputMode(n, letter, code),
      // Disconnected: the port's own level is low, and the output keeps its level.
      ...(drive === 'toggle' ? { low: outputMode(n, letter, 0) } : {}),
    })),
    // In a mode without PWM a forced match clears the output.
    rest: [outputMode(n, letter, 2), { [`TCCR${n}${wide ? 'C' : 'B'}.FOC${n}${letter}`]: 1 }],
    interrupt: interrupt(`TIMER${n}_COMP${letter}`, vector, at, `OCIE${n}${letter}`, `OCF${n}${letter}`),
  };
}

/**
 * Compare registers first, while the reset mode still takes them at once; then the mode with the clock stopped, since
 * ICRn can be written only once the mode uses it; last the clock.
 */
function sequence(n: number, letters: string, wide: boolean): Timer['sequence'] {
  const stopped = [`CS${n}0`, `CS${n}1`, `CS${n}2`];
  return [
    ...[...letters].map((letter) => ({ register: `OCR${n}${letter}` })),
    { register: `TCCR${n}A` },
    { register: `TCCR${n}B`, without: stopped },
    ...(wide ? [{ register: `ICR${n}` }] : []),
    { register: `TCNT${n}` },
    { register: `TCCR${n}B` },
  ];
}

/** What one timer of the family has of its own. */
export type AvrTimer = {
  n: number;
  /** The pin of each channel, by letter. */
  pins: Record<string, string>;
  /** Vector numbers by channel letter, of the overflow, and of the capture on a wide timer. */
  vectors: Record<string, number> & { overflow: number; capture?: number };
  divides: readonly number[];
  capturePin?: string;
  at?: Flags;
  sharesPrescalerWith?: readonly string[];
};

/** The capture of a wide timer, on rising edges of its pin. */
function captureOf(n: number, caught: Interrupt, pin: string): CaptureUnit {
  const port = pin.charAt(1);
  return {
    id: `ICP${n}`,
    name: `ICP${n}`,
    mode: 'normal',
    value: [`ICR${n}`],
    interrupt: caught,
    inputs: [{ pin, writes: { [`DDR${port}.DD${pin.slice(1)}`]: 0, [`TCCR${n}B.ICES${n}`]: 1 } }],
  };
}

/** A timer of 8 bits, or of 16 where it has a capture vector. */
export function avrTimer(own: AvrTimer): Timer {
  const { n, pins, vectors, divides, capturePin } = own;
  const at = own.at ?? { mask: `TIMSK${n}`, flags: `TIFR${n}` };
  const letters = Object.keys(pins).join('');
  const wide = vectors.capture !== undefined;
  const caught =
    vectors.capture === undefined
      ? undefined
      : interrupt(`TIMER${n}_CAPT`, vectors.capture, at, `ICIE${n}`, `ICF${n}`);
  return {
    id: `TIMER${n}`,
    name: `Timer ${n}`,
    width: wide ? 16 : 8,
    clock: 'io',
    prescaler: prescaler(n, divides),
    modes: wide ? wideModes(n, letters) : narrowModes(n),
    channels: Object.entries(pins).map(([letter, pin]) =>
      channel(n, letter, pin, vectors[letter] ?? 0, { at, wide }),
    ),
    counter: `TCNT${n}`,
    preset: true,
    halt: [{ [`TCCR${n}B`]: 0 }],
    interrupts: {
      overflow: interrupt(`TIMER${n}_OVF`, vectors.overflow, at, `TOIE${n}`, `TOV${n}`),
      ...(caught ? { capture: caught } : {}),
    },
    ...(caught && capturePin !== undefined ? { captures: [captureOf(n, caught, capturePin)] } : {}),
    sequence: sequence(n, letters, wide),
    ...(own.sharesPrescalerWith ? { sharesPrescalerWith: own.sharesPrescalerWith } : {}),
  };
}

/** The registers of a timer: addresses of its control registers A and B, counter, capture and compare registers. */
export function avrRegisters(
  n: number,
  letters: string,
  at: Record<string, number>,
  wide: boolean,
): Register[] {
  const com = [...letters].reverse().map((letter) => `COM${n}${letter}0 COM${n}${letter}1`);
  const gap = letters.length === 3 ? '' : '- - ';
  const controlA = `WGM${n}0 WGM${n}1 ${gap}${com.join(' ')}`;
  const forced = [...letters]
    .reverse()
    .map((letter) => `FOC${n}${letter}`)
    .join(' ');
  const controlB = wide
    ? `CS${n}0 CS${n}1 CS${n}2 WGM${n}2 WGM${n}3 - ICES${n} ICNC${n}`
    : `CS${n}0 CS${n}1 CS${n}2 WGM${n}2 - - ${forced}`;
  const width = wide ? 16 : 8;
  return [
    register(`TCCR${n}A`, at['a'] ?? 0, bits(controlA)),
    register(`TCCR${n}B`, at['b'] ?? 0, bits(controlB)),
    ...(wide
      ? [register(`TCCR${n}C`, (at['b'] ?? 0) + 1, bits(`- - - - - ${gap === '' ? '' : '- '}${forced}`))]
      : []),
    register(`TCNT${n}`, at['count'] ?? 0, {}, width),
    ...(wide ? [register(`ICR${n}`, at['capture'] ?? 0, {}, 16)] : []),
    ...[...letters].map((letter) => register(`OCR${n}${letter}`, at[letter] ?? 0, {}, width)),
  ];
}

/** Pins from rows of [port letter, bit, numbers on the packages in order]. */
export function avrPins(
  packages: readonly string[],
  rows: readonly (readonly [string, number, ...number[]])[],
  notes: Record<string, string> = {},
): Pin[] {
  return rows.map(([port, bit, ...places]) => {
    const id = `P${port}${bit}`;
    const note = notes[id];
    const low: Writes = { [`PORT${port}.PORT${port}${bit}`]: 0 };
    const output: Writes = { [`DDR${port}.DD${port}${bit}`]: 1 };
    return {
      id,
      port: `PORT${port}`,
      bit,
      package: Object.fromEntries(packages.map((name, at) => [name, places[at] ?? 0])),
      idle: low,
      enable: output,
      software: { output, high: { [`PORT${port}.PORT${port}${bit}`]: 1 }, low },
      ...(note ? { note } : {}),
    };
  });
}

/** The direction and output registers of a port, its input register lying one below the direction register. */
export function avrPort(port: string, direction: number, width = 8): Register[] {
  const numbered = (name: string): string =>
    Array.from({ length: width }, (_, bit) => `${name}${bit}`).join(' ');
  return [
    register(`DDR${port}`, direction, bits(numbered(`DD${port}`))),
    register(`PORT${port}`, direction + 1, bits(numbered(`PORT${port}`))),
  ];
}

/** The processor of the family: a vector to each interrupt, served by their numbers, none interrupting another. */
export function avrCpu(entryCycles: number, exitCycles = 4): Cpu {
  return {
    clock: 'io',
    entryCycles,
    reloadCycles: 3,
    exitCycles,
    lateCycles: 3,
    handlerCycles: 24,
    operations: {
      word: 1,
      frame: { min: 15, max: 15 },
      save: 4,
      load: { min: 2, max: 2 },
      store: { min: 2, max: 2 },
      read: { min: 1, max: 2 },
      write: { min: 1, max: 2 },
      compute: { min: 0, max: 1 },
      constant: 1,
      bit: { cycles: 2, last: 0x3f },
      branch: { min: 1, max: 2 },
      index: { min: 4, max: 20 },
      table: { min: 3, max: 3 },
      call: { min: 8, max: 70 },
      exclude: { min: 4, max: 6 },
    },
    loopCycles: 4,
    // out or sts; sbrs, which takes a cycle for each word that it skips; subi and sbci; ld; breq not taken and rjmp (instruction set manual).
    bitLoop: { store: { cycles: 1, last: 0x5f, beyond: 2 }, test: 1, count: 1, fetch: 2, back: 3 },
    loopJitterCycles: 0,
    feedCycles: 14,
    sendCycles: 38,
    stepsBetween: true,
    // 15 registers saved and put back, the call and its return, less those of a short handler: from a listing of the compiler.
    callCycles: 47,
    priorities: { scheme: 'fixed', levels: 1 },
  };
}

/** The C of the family's compiler. */
export const avrCode: Dialect = {
  headers: ['<avr/io.h>', '<avr/interrupt.h>'],
  registers: 'names',
  call: '%_vect()',
  setsClock: true,
  bytewise: true,
  handler: 'ISR(%_vect)',
  allow: 'sei();',
  excludes: 'avr',
  assembler: 'avr',
  tables: 'pgmspace',
};

/** The clock path of the family: a source chosen by fuses, and the divider of the system clock. */
export function avrClocks(maxHz: number): ClockNode[] {
  return [
    { kind: 'source', id: 'crystal', name: 'crystal', hz: [400000, maxHz], tolerancePpm: 50 },
    { kind: 'source', id: 'external', name: 'external clock', hz: [1, maxHz], tolerancePpm: 50 },
    {
      kind: 'source',
      id: 'rc8',
      name: 'internal RC oscillator',
      hz: 8000000,
      tolerancePpm: 100000,
      note: 'Factory calibration holds ±10 %; calibrated by the user at one voltage and temperature, ±1 %.',
    },
    {
      kind: 'source',
      id: 'rc128k',
      name: 'internal 128 kHz oscillator',
      hz: 128000,
      tolerancePpm: 100000,
      note: 'The datasheet promises no accuracy; ±10 % is assumed here.',
    },
    {
      kind: 'choice',
      id: 'main',
      name: 'clock source',
      from: ['crystal', 'external', 'rc8', 'rc128k'],
      note: 'Selected by the CKSEL fuses, not by the program.',
    },
    {
      kind: 'divider',
      id: 'io',
      name: 'clock divider',
      from: 'main',
      by: {
        kind: 'list',
        options: [1, 2, 4, 8, 16, 32, 64, 128, 256].map((divide, code) => ({
          divide,
          writes: Object.fromEntries([3, 2, 1, 0].map((bit) => [`CLKPR.CLKPS${bit}`, (code >> bit) & 1])),
        })),
      },
      standard: 1,
      unlock: { 'CLKPR.CLKPCE': 1 },
      note: 'Written by the code in any case: a new chip starts with a divider of 8 (fuse CKDIV8).',
    },
  ];
}

/** The register of the system clock divider, at the address of the part. */
export function avrClockRegister(address: number): Register {
  return register('CLKPR', address, bits('CLKPS0 CLKPS1 CLKPS2 CLKPS3 - - - CLKPCE'));
}
