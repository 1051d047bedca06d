import type { ClockNode, DeadBand, Part, StartStep, Timer, Writes } from '../../types.ts';
import { PART_VERSION } from '../../versions.ts';
import {
  avrClockRegister,
  avrClocks,
  avrCode,
  avrCpu,
  avrPins,
  avrPort,
  avrRegisters,
  avrTimer,
  interrupt,
  register,
} from './avr.ts';
import { bits } from '../common/registers.ts';

const AT = { mask: 'TIMSK', flags: 'TIFR' };

/** Timer 1's channels: where the output mode bits live, and the pin with its complement. */
const CHANNELS = [
  { letter: 'A', control: 'TCCR1', pin: 'PB1', complement: 'PB0', vector: 3 },
  { letter: 'B', control: 'GTCCR', pin: 'PB4', complement: 'PB3', vector: 9 },
] as const;

function clockSelect(code: number): Writes {
  return Object.fromEntries([3, 2, 1, 0].map((bit) => [`TCCR1.CS1${bit}`, (code >> bit) & 1]));
}

/**
 * Dead times in clocks of the timer, before its prescaler: 0 to 15 clocks of the dead-time prescaler, which divides by 1, 2, 4 or
 * 8 and is one for both channels. Either nibble delays the rise of one of the two pins (datasheet, section 12.2 and registers
 * DTPS1, DT1A, DT1B; not at hand when this was written).
 */
function deadTimesOf(letter: 'A' | 'B'): DeadBand[] {
  return [0, 1, 2, 3].map((shift) => ({
    min: 0,
    max: 15 << shift,
    step: 1 << shift,
    writes: {
      'DTPS1.DTPS11': shift >> 1,
      'DTPS1.DTPS10': shift & 1,
      ...Object.fromEntries(
        [3, 2, 1, 0].flatMap((bit) =>
          ['H', 'L'].map((edge) => [
            `DT1${letter}.DT1${letter}${edge}${bit}`,
            { of: 'dead' as const, shift: shift + bit, keep: 1 },
          ]),
        ),
      ),
    },
  }));
}

const timer1: Timer = {
  id: 'TIMER1',
  name: 'Timer 1',
  width: 8,
  clock: 'timer1',
  prescaler: {
    kind: 'list',
    options: Array.from({ length: 15 }, (_, at) => ({ divide: 2 ** at, writes: clockSelect(at + 1) })),
  },
  modes: [
    {
      id: 'pwm',
      name: 'PWM, top OCR1C',
      count: 'up',
      base: 1,
      top: { kind: 'register', writes: { OCR1C: { of: 'top' } }, min: 3, max: 255 },
      pwm: { channels: ['OC1A', 'OC1B'], high: 'compare', full: 'top' },
      tick: 'overflow',
      update: { top: 'immediate', compare: 'bottom' },
      writes: { 'TCCR1.CTC1': 0, 'TCCR1.PWM1A': 1, 'GTCCR.PWM1B': 1 },
      // One of the two bits is enough for the counter; an output needs that of its own channel.
      same: [{ 'GTCCR.PWM1B': 0 }, { 'TCCR1.PWM1A': 0 }],
    },
    {
      id: 'clear',
      name: 'cleared at top OCR1C',
      count: 'up',
      base: 1,
      lag: 1,
      top: { kind: 'register', writes: { OCR1C: { of: 'top' } }, min: 0, max: 255 },
      toggle: { channels: ['OC1A', 'OC1B'] },
      update: { top: 'immediate', compare: 'immediate' },
      writes: { 'TCCR1.CTC1': 1, 'TCCR1.PWM1A': 0, 'GTCCR.PWM1B': 0 },
    },
  ],
  channels: CHANNELS.map(({ letter, control, pin, complement, vector }) => {
    const mode = (code: number): Writes => ({
      [`${control}.COM1${letter}1`]: code >> 1,
      [`${control}.COM1${letter}0`]: code & 1,
    });
    const own: Writes = { [`${control}.PWM1${letter}`]: 1 };
    return {
      id: `OC1${letter}`,
      name: `OC1${letter}`,
      compare: { [`OCR1${letter}`]: { of: 'compare' } },
      outputs: [
        { pin, drive: 'pwm', polarity: 'normal', writes: { ...mode(2), ...own } },
        { pin, drive: 'pwm', polarity: 'inverted', writes: { ...mode(3), ...own } },
        // The same fields drive the other pin too, as soon as it is an output.
        { pin: complement, drive: 'pwm', polarity: 'inverted', writes: { ...mode(1), ...own }, takes: [pin] },
        { pin, drive: 'toggle', polarity: 'normal', writes: mode(1), low: mode(0) },
      ],
      complement: [{ pin: complement, writes: mode(1) }],
      deadTime: deadTimesOf(letter),
      interrupt: interrupt(`TIMER1_COMP${letter}`, vector, AT, `OCIE1${letter}`, `OCF1${letter}`),
    };
  }),
  counter: 'TCNT1',
  preset: true,
  interrupts: { overflow: interrupt('TIMER1_OVF', 4, AT, 'TOIE1', 'TOV1') },
  sequence: [
    { register: 'OCR1C' },
    { register: 'OCR1A' },
    { register: 'OCR1B' },
    { register: 'DTPS1' },
    { register: 'DT1A' },
    { register: 'DT1B' },
    { register: 'GTCCR' },
    { register: 'TCNT1' },
    { register: 'TCCR1' },
  ],
};

const START: readonly StartStep[] = [
  { set: { 'PLLCSR.PLLE': 1 } },
  // The lock bit says nothing before (datasheet section 12.3.9, PLLCSR).
  { waitUs: 100 },
  { until: 'PLLCSR.PLOCK' },
  { set: { 'PLLCSR.PCKE': 1 } },
];

/** The fast peripheral clock: 64 MHz out of the internal oscillator, or 32 MHz for low voltages. */
const fast: ClockNode[] = [
  {
    kind: 'multiplier',
    id: 'pll',
    name: 'PLL of the internal oscillator',
    from: 'rc8',
    by: {
      kind: 'list',
      options: [
        { divide: 8, writes: { 'PLLCSR.LSM': 0 } },
        { divide: 4, writes: { 'PLLCSR.LSM': 1 } },
      ],
    },
    standard: 8,
    note: '64 MHz above 2.7 V, 32 MHz (times 4) below.',
  },
  {
    kind: 'choice',
    id: 'timer1',
    name: 'clock of Timer 1',
    from: ['io', 'pll'],
    standard: 'io',
    start: { pll: START },
  },
];

/** ATtiny85: two 8-bit timers, one of them with a 14-stage prescaler and a clock of up to 64 MHz. */
export const attiny85: Part = {
  format: 'herzschlag-part',
  version: PART_VERSION,
  id: 'attiny85',
  name: 'ATtiny85',
  about: 'two 8-bit timers, one with a 64 MHz clock and a 14-stage prescaler, complementary outputs',
  registers: [
    ...avrPort('B', 0x37, 6),
    avrClockRegister(0x46),
    register('DTPS1', 0x43, bits('DTPS10 DTPS11')),
    register('DT1B', 0x44, bits('DT1BL0 DT1BL1 DT1BL2 DT1BL3 DT1BH0 DT1BH1 DT1BH2 DT1BH3')),
    register('DT1A', 0x45, bits('DT1AL0 DT1AL1 DT1AL2 DT1AL3 DT1AH0 DT1AH1 DT1AH2 DT1AH3')),
    register('PLLCSR', 0x47, bits('PLOCK PLLE PCKE - - - - LSM')),
    ...avrRegisters(0, 'AB', { a: 0x4a, b: 0x53, count: 0x52, A: 0x49, B: 0x48 }, false),
    register('OCR1B', 0x4b),
    register('GTCCR', 0x4c, bits('PSR0 PSR1 FOC1A FOC1B COM1B0 COM1B1 PWM1B TSM')),
    register('OCR1C', 0x4d),
    register('OCR1A', 0x4e),
    register('TCNT1', 0x4f),
    register('TCCR1', 0x50, bits('CS10 CS11 CS12 CS13 COM1A0 COM1A1 PWM1A CTC1')),
    register('TIFR', 0x58, bits('- TOV0 TOV1 OCF0B OCF0A OCF1B OCF1A')),
    register('TIMSK', 0x59, bits('- TOIE0 TOIE1 OCIE0B OCIE0A OCIE1B OCIE1A')),
  ],
  clocks: [
    ...avrClocks(20000000).map((node) => (node.id === 'rc8' ? { ...node, always: true } : node)),
    ...fast,
  ],
  defaultClock: { source: 'rc8', sourceHz: 8000000 },
  timers: [
    avrTimer({
      n: 0,
      pins: { A: 'PB0', B: 'PB1' },
      vectors: { A: 10, B: 11, overflow: 5 },
      divides: [1, 8, 64, 256, 1024],
      at: AT,
    }),
    timer1,
  ],
  pins: avrPins(
    ['DIP8'],
    [
      ['B', 0, 5],
      ['B', 1, 6],
      ['B', 2, 7],
      ['B', 3, 2],
      ['B', 4, 3],
      ['B', 5, 1],
    ],
    { PB5: 'The reset input unless the RSTDISBL fuse is set.' },
  ),
  cpu: avrCpu(6),
  limits: { pinMilliamps: 40, maxHz: 64000000 },
  code: { ...avrCode, compiler: { family: 'avr', device: 'attiny85' } },
  leftOut: ['clock from the pin T0'],
  source:
    'the header of the AVR compiler library; widths of Timer 1’s PWM as its datasheet section 12.2 describes them',
};
