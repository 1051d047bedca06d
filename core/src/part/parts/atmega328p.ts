import type { Channel, ClockNode, Interrupt, Mode, Part, Pin, Register, Timer, Writes } from '../schema.ts';

/** Fields of one bit each, from bit 0 up; a gap is an empty name. */
function bits(names: string): Register['fields'] {
  const entries = names.split(' ').map((name, bit) => [name, [bit, bit]] as const);
  return Object.fromEntries(entries.filter(([name]) => name !== '-'));
}

function register(name: string, address: number, fields: Register['fields'] = {}, width = 8): Register {
  return { name, address, width, reset: 0, fields };
}

const registers: Register[] = [
  register('DDRB', 0x24, bits('DDB0 DDB1 DDB2 DDB3 DDB4 DDB5 DDB6 DDB7')),
  register('PORTB', 0x25, bits('PORTB0 PORTB1 PORTB2 PORTB3 PORTB4 PORTB5 PORTB6 PORTB7')),
  register('DDRC', 0x27, bits('DDC0 DDC1 DDC2 DDC3 DDC4 DDC5 DDC6')),
  register('PORTC', 0x28, bits('PORTC0 PORTC1 PORTC2 PORTC3 PORTC4 PORTC5 PORTC6')),
  register('DDRD', 0x2a, bits('DDD0 DDD1 DDD2 DDD3 DDD4 DDD5 DDD6 DDD7')),
  register('PORTD', 0x2b, bits('PORTD0 PORTD1 PORTD2 PORTD3 PORTD4 PORTD5 PORTD6 PORTD7')),
  register('TIFR0', 0x35, bits('TOV0 OCF0A OCF0B')),
  register('TIFR1', 0x36, bits('TOV1 OCF1A OCF1B - - ICF1')),
  register('TIFR2', 0x37, bits('TOV2 OCF2A OCF2B')),
  register('TCCR0A', 0x44, bits('WGM00 WGM01 - - COM0B0 COM0B1 COM0A0 COM0A1')),
  register('TCCR0B', 0x45, bits('CS00 CS01 CS02 WGM02')),
  register('TCNT0', 0x46),
  register('OCR0A', 0x47),
  register('OCR0B', 0x48),
  register('CLKPR', 0x61, bits('CLKPS0 CLKPS1 CLKPS2 CLKPS3 - - - CLKPCE')),
  register('TIMSK0', 0x6e, bits('TOIE0 OCIE0A OCIE0B')),
  register('TIMSK1', 0x6f, bits('TOIE1 OCIE1A OCIE1B - - ICIE1')),
  register('TIMSK2', 0x70, bits('TOIE2 OCIE2A OCIE2B')),
  register('TCCR1A', 0x80, bits('WGM10 WGM11 - - COM1B0 COM1B1 COM1A0 COM1A1')),
  register('TCCR1B', 0x81, bits('CS10 CS11 CS12 WGM12 WGM13 - ICES1 ICNC1')),
  register('TCNT1', 0x84, {}, 16),
  register('ICR1', 0x86, {}, 16),
  register('OCR1A', 0x88, {}, 16),
  register('OCR1B', 0x8a, {}, 16),
  register('TCCR2A', 0xb0, bits('WGM20 WGM21 - - COM2B0 COM2B1 COM2A0 COM2A1')),
  register('TCCR2B', 0xb1, bits('CS20 CS21 CS22 WGM22')),
  register('TCNT2', 0xb2),
  register('OCR2A', 0xb3),
  register('OCR2B', 0xb4),
];

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

/** The waveform generation bits: 3 on the 8-bit timers, 4 on the 16-bit one; the lower two live in register A. */
function waveform(n: number, code: number): Writes {
  const upper: Writes = { [`TCCR${n}B.WGM${n}2`]: (code >> 2) & 1 };
  if (n === 1) upper['TCCR1B.WGM13'] = code >> 3;
  return { [`TCCR${n}A.WGM${n}1`]: (code >> 1) & 1, [`TCCR${n}A.WGM${n}0`]: code & 1, ...upper };
}

function outputMode(n: number, letter: string, code: number): Writes {
  return { [`TCCR${n}A.COM${n}${letter}1`]: code >> 1, [`TCCR${n}A.COM${n}${letter}0`]: code & 1 };
}

function interrupt(n: number, vector: string, number: number, enable: string, flag: string): Interrupt {
  return { vector: `TIMER${n}_${vector}`, number, enable: `TIMSK${n}.${enable}`, flag: `TIFR${n}.${flag}` };
}

function channel(n: number, letter: 'A' | 'B', pin: string, vector: number): Channel {
  return {
    id: `OC${n}${letter}`,
    name: `OC${n}${letter}`,
    compare: { [`OCR${n}${letter}`]: { of: 'compare' } },
    outputs: [
      { pin, drive: 'compare', polarity: 'normal', writes: outputMode(n, letter, 2) },
      { pin, drive: 'compare', polarity: 'inverted', writes: outputMode(n, letter, 3) },
      { pin, drive: 'toggle', polarity: 'normal', writes: outputMode(n, letter, 1) },
    ],
    interrupt: interrupt(n, `COMP${letter}`, vector, `OCIE${n}${letter}`, `OCF${n}${letter}`),
  };
}

const BUFFERED_BOTTOM = { top: 'bottom', compare: 'bottom' } as const;
const BUFFERED_TOP = { top: 'top', compare: 'top' } as const;
const FIXED_UP = { top: 'immediate', compare: 'bottom' } as const;
const IMMEDIATE = { top: 'immediate', compare: 'immediate' } as const;
const ICR_UP = { top: 'immediate', compare: 'bottom' } as const;
const ICR_UPDOWN = { top: 'immediate', compare: 'top' } as const;

/** Modes of the 8-bit timers; the waveform code of the datasheet's table stands in each name. */
function narrowModes(n: number): Mode[] {
  const [a, b] = [`OC${n}A`, `OC${n}B`];
  const topA = { kind: 'channel', channel: a, writes: { [`OCR${n}A`]: { of: 'top' } }, most: 255 } as const;
  return [
    {
      id: 'fast',
      name: 'fast PWM, top 0xFF (WGM 3)',
      count: 'up',
      base: 1,
      lag: 1,
      top: { kind: 'fixed', value: 255 },
      compare: { channels: [a, b], high: 'compare+1' },
      update: FIXED_UP,
      writes: waveform(n, 3),
    },
    {
      id: 'fast-ocra',
      name: `fast PWM, top OCR${n}A (WGM 7)`,
      count: 'up',
      base: 1,
      lag: 1,
      top: { ...topA, least: 1 },
      compare: { channels: [b], high: 'compare+1' },
      toggle: { channels: [a] },
      update: BUFFERED_BOTTOM,
      writes: waveform(n, 7),
    },
    {
      id: 'phase',
      name: 'phase-correct PWM, top 0xFF (WGM 1)',
      count: 'updown',
      base: 0,
      lag: 1,
      top: { kind: 'fixed', value: 255 },
      compare: { channels: [a, b], high: 'compare' },
      update: BUFFERED_TOP,
      writes: waveform(n, 1),
    },
    {
      id: 'phase-ocra',
      name: `phase-correct PWM, top OCR${n}A (WGM 5)`,
      count: 'updown',
      base: 0,
      lag: 1,
      top: { ...topA, least: 1 },
      compare: { channels: [b], high: 'compare' },
      toggle: { channels: [a] },
      update: BUFFERED_TOP,
      writes: waveform(n, 5),
    },
    {
      id: 'ctc',
      name: `clear on compare, top OCR${n}A (WGM 2)`,
      count: 'up',
      base: 1,
      lag: 1,
      top: { ...topA, least: 0 },
      toggle: { channels: [a, b] },
      update: IMMEDIATE,
      writes: waveform(n, 2),
    },
    {
      id: 'normal',
      name: 'free running, top 0xFF (WGM 0)',
      count: 'up',
      base: 1,
      lag: 1,
      top: { kind: 'fixed', value: 255 },
      toggle: { channels: [a, b] },
      update: IMMEDIATE,
      writes: waveform(n, 0),
    },
  ];
}

/** The three fixed-top PWM modes of one kind: 8, 9 and 10 bits. */
function fixedModes(kind: 'fast' | 'phase', first: number): Mode[] {
  return [8, 9, 10].map((width, at) => ({
    id: `${kind}-${width}`,
    name: `${kind === 'fast' ? 'fast' : 'phase-correct'} PWM, ${width} bit (WGM ${first + at})`,
    count: kind === 'fast' ? 'up' : 'updown',
    base: kind === 'fast' ? 1 : 0,
    lag: 1,
    top: { kind: 'fixed', value: 2 ** width - 1 },
    compare: { channels: ['OC1A', 'OC1B'], high: kind === 'fast' ? 'compare+1' : 'compare' },
    update: kind === 'fast' ? FIXED_UP : BUFFERED_TOP,
    writes: waveform(1, first + at),
  }));
}

const topIcr = { kind: 'register', writes: { ICR1: { of: 'top' } }, least: 3, most: 65535 } as const;
const topOcr = {
  kind: 'channel',
  channel: 'OC1A',
  writes: { OCR1A: { of: 'top' } },
  least: 3,
  most: 65535,
} as const;
const both = ['OC1A', 'OC1B'] as const;

const wideModes: Mode[] = [
  {
    id: 'fast-icr',
    name: 'fast PWM, top ICR1 (WGM 14)',
    count: 'up',
    base: 1,
    lag: 1,
    top: topIcr,
    compare: { channels: both, high: 'compare+1' },
    toggle: { channels: ['OC1A'] },
    update: ICR_UP,
    writes: waveform(1, 14),
  },
  {
    id: 'fast-ocra',
    name: 'fast PWM, top OCR1A (WGM 15)',
    count: 'up',
    base: 1,
    lag: 1,
    top: topOcr,
    compare: { channels: ['OC1B'], high: 'compare+1' },
    toggle: { channels: ['OC1A'] },
    update: BUFFERED_BOTTOM,
    writes: waveform(1, 15),
  },
  ...fixedModes('fast', 5),
  {
    id: 'phase-freq-icr',
    name: 'phase and frequency correct PWM, top ICR1 (WGM 8)',
    count: 'updown',
    base: 0,
    lag: 1,
    top: topIcr,
    compare: { channels: both, high: 'compare' },
    update: { top: 'immediate', compare: 'bottom' },
    writes: waveform(1, 8),
  },
  {
    id: 'phase-icr',
    name: 'phase-correct PWM, top ICR1 (WGM 10)',
    count: 'updown',
    base: 0,
    lag: 1,
    top: topIcr,
    compare: { channels: both, high: 'compare' },
    update: ICR_UPDOWN,
    writes: waveform(1, 10),
  },
  {
    id: 'phase-freq-ocra',
    name: 'phase and frequency correct PWM, top OCR1A (WGM 9)',
    count: 'updown',
    base: 0,
    lag: 1,
    top: topOcr,
    compare: { channels: ['OC1B'], high: 'compare' },
    toggle: { channels: ['OC1A'] },
    update: BUFFERED_BOTTOM,
    writes: waveform(1, 9),
  },
  {
    id: 'phase-ocra',
    name: 'phase-correct PWM, top OCR1A (WGM 11)',
    count: 'updown',
    base: 0,
    lag: 1,
    top: topOcr,
    compare: { channels: ['OC1B'], high: 'compare' },
    toggle: { channels: ['OC1A'] },
    update: BUFFERED_TOP,
    writes: waveform(1, 11),
  },
  ...fixedModes('phase', 1),
  {
    id: 'ctc-icr',
    name: 'clear on compare, top ICR1 (WGM 12)',
    count: 'up',
    base: 1,
    lag: 1,
    top: { ...topIcr, least: 0 },
    toggle: { channels: both },
    update: IMMEDIATE,
    writes: waveform(1, 12),
  },
  {
    id: 'ctc',
    name: 'clear on compare, top OCR1A (WGM 4)',
    count: 'up',
    base: 1,
    lag: 1,
    top: { ...topOcr, least: 0 },
    toggle: { channels: both },
    update: IMMEDIATE,
    writes: waveform(1, 4),
  },
  {
    id: 'normal',
    name: 'free running, top 0xFFFF (WGM 0)',
    count: 'up',
    base: 1,
    lag: 1,
    top: { kind: 'fixed', value: 65535 },
    toggle: { channels: both },
    update: IMMEDIATE,
    writes: waveform(1, 0),
  },
];

/**
 * Compare registers first, while the reset mode still takes them at once; then the mode with the clock stopped, since
 * ICR1 can be written only once the mode uses it; last the clock.
 */
function sequence(n: number): Timer['sequence'] {
  const stopped = [`CS${n}0`, `CS${n}1`, `CS${n}2`];
  return [
    { register: `OCR${n}A` },
    { register: `OCR${n}B` },
    { register: `TCCR${n}A` },
    { register: `TCCR${n}B`, without: stopped },
    ...(n === 1 ? [{ register: 'ICR1' }] : []),
    { register: `TCNT${n}` },
    { register: `TCCR${n}B` },
  ];
}

const timers: Timer[] = [
  {
    id: 'TIMER0',
    name: 'Timer 0',
    width: 8,
    clock: 'io',
    prescaler: prescaler(0, [1, 8, 64, 256, 1024]),
    modes: narrowModes(0),
    channels: [channel(0, 'A', 'PD6', 14), channel(0, 'B', 'PD5', 15)],
    counter: 'TCNT0',
    interrupts: { overflow: interrupt(0, 'OVF', 16, 'TOIE0', 'TOV0') },
    sequence: sequence(0),
    sharesPrescalerWith: ['TIMER1'],
  },
  {
    id: 'TIMER1',
    name: 'Timer 1',
    width: 16,
    clock: 'io',
    prescaler: prescaler(1, [1, 8, 64, 256, 1024]),
    modes: wideModes,
    channels: [channel(1, 'A', 'PB1', 11), channel(1, 'B', 'PB2', 12)],
    counter: 'TCNT1',
    interrupts: {
      overflow: interrupt(1, 'OVF', 13, 'TOIE1', 'TOV1'),
      capture: { ...interrupt(1, 'CAPT', 10, 'ICIE1', 'ICF1'), pin: 'PB0' },
    },
    sequence: sequence(1),
    sharesPrescalerWith: ['TIMER0'],
  },
  {
    id: 'TIMER2',
    name: 'Timer 2',
    width: 8,
    clock: 'io',
    prescaler: prescaler(2, [1, 8, 32, 64, 128, 256, 1024]),
    modes: narrowModes(2),
    channels: [channel(2, 'A', 'PB3', 7), channel(2, 'B', 'PD3', 8)],
    counter: 'TCNT2',
    interrupts: { overflow: interrupt(2, 'OVF', 9, 'TOIE2', 'TOV2') },
    sequence: sequence(2),
  },
];

const clocks: ClockNode[] = [
  { kind: 'source', id: 'crystal', name: 'crystal', hz: [400000, 20000000], tolerancePpm: 50 },
  { kind: 'source', id: 'external', name: 'external clock', hz: [1, 20000000], tolerancePpm: 50 },
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
    name: 'system clock divider',
    from: 'main',
    options: [1, 2, 4, 8, 16, 32, 64, 128, 256].map((divide, code) => ({
      divide,
      writes: Object.fromEntries([3, 2, 1, 0].map((bit) => [`CLKPR.CLKPS${bit}`, (code >> bit) & 1])),
    })),
    standard: 1,
    unlock: { 'CLKPR.CLKPCE': 1 },
    note: 'Written by the code in any case: a new chip starts with a divider of 8 (fuse CKDIV8).',
  },
];

/** Pins by port bit: [bit, pin of the 28-pin DIP, pin of the 32-pin TQFP]. */
const places: Record<string, readonly (readonly [number, number, number])[]> = {
  B: [
    [0, 14, 12],
    [1, 15, 13],
    [2, 16, 14],
    [3, 17, 15],
    [4, 18, 16],
    [5, 19, 17],
    [6, 9, 7],
    [7, 10, 8],
  ],
  C: [
    [0, 23, 23],
    [1, 24, 24],
    [2, 25, 25],
    [3, 26, 26],
    [4, 27, 27],
    [5, 28, 28],
    [6, 1, 29],
  ],
  D: [
    [0, 2, 30],
    [1, 3, 31],
    [2, 4, 32],
    [3, 5, 1],
    [4, 6, 2],
    [5, 11, 9],
    [6, 12, 10],
    [7, 13, 11],
  ],
};

const notes: Record<string, string> = {
  PB6: 'Taken by the crystal when one is used.',
  PB7: 'Taken by the crystal when one is used.',
  PC6: 'The reset input unless the RSTDISBL fuse is set.',
};

const pins: Pin[] = Object.entries(places).flatMap(([port, list]) =>
  list.map(([bit, dip28, tqfp32]) => ({
    id: `P${port}${bit}`,
    port: `PORT${port}`,
    bit,
    package: { DIP28: dip28, TQFP32: tqfp32 },
    idle: { [`PORT${port}.PORT${port}${bit}`]: 0 },
    enable: { [`DDR${port}.DD${port}${bit}`]: 1 },
    ...(notes[`P${port}${bit}`] ? { note: notes[`P${port}${bit}`] } : {}),
  })),
);

/** ATmega328P: two 8-bit timers and one of 16 bits, two compare channels each. */
export const atmega328p: Part = {
  id: 'atmega328p',
  name: 'ATmega328P',
  about: 'two 8-bit timers, one 16-bit timer, six PWM outputs',
  registers,
  clocks,
  standardClock: { source: 'crystal', sourceHz: 16000000 },
  timers,
  pins,
  cpu: { clock: 'io', entryCycles: 7, exitCycles: 4 },
  limits: { pinMilliamps: 40, maxHz: 20000000 },
  code: { headers: ['<avr/io.h>'] },
  verified: true,
  source: 'the header of the AVR compiler library',
};
