import type { BringUpGroup, ClockNode, Part, Pin, Register, Timer, Writes } from '../../types.ts';
import { PART_VERSION } from '../../versions.ts';
import { cycle, ENHANCED_BIT_LOOP, picCode, picCpu, READ_ADD_WRITE } from './pic.ts';
import { BLOCKS, CCPS, CHANNELS, ccpOf, channelOf, EIGHT } from './pic16f18875-outputs.ts';
import { field, numbered, register as plain, type Fields } from '../common/registers.ts';

const PORTS = ['A', 'B', 'C', 'D'] as const;

function register(name: string, address: number, fields: Fields = {}): Register {
  return plain(name, address, fields, 8);
}

/** Period timers: number, base of their registers, bits of their enable and flag. */
const PERIOD = [
  { n: 2, base: 0x28c, bit: 1 },
  { n: 4, base: 0x292, bit: 3 },
  { n: 6, base: 0x298, bit: 5 },
] as const;

/** Numbers of the 40-pin package from RA0, RB0, RC0 and RD0 up. */
const PLACES: Record<(typeof PORTS)[number], readonly number[]> = {
  A: [2, 3, 4, 5, 6, 7, 14, 13],
  B: [33, 34, 35, 36, 37, 38, 39, 40],
  C: [15, 16, 17, 18, 23, 24, 25, 26],
  D: [19, 20, 21, 22, 27, 28, 29, 30],
};

/** A period timer on one of its clocks; the PWM blocks need the quarter of the oscillator. */
function periodTimer(n: 2 | 4 | 6, clock: 'cycle' | 'osc' | 'lf', code: number): Timer {
  const pwm = clock === 'cycle';
  return {
    id: pwm ? `TMR${n}` : `TMR${n}_${clock.toUpperCase()}`,
    name: pwm ? `Timer ${n}` : `Timer ${n} on the ${clock === 'osc' ? 'oscillator' : '31 kHz oscillator'}`,
    ...(pwm ? {} : { variantOf: `TMR${n}` }),
    width: 8,
    clock,
    prescaler: {
      kind: 'list',
      options: EIGHT.map((power) => ({ divide: 2 ** power, writes: { [`T${n}CON.CKPS`]: power } })),
    },
    modes: [
      {
        id: pwm ? 'pwm' : 'period',
        name: pwm ? `period T${n}PR, duty of 10 bits` : `period T${n}PR`,
        count: 'up',
        base: 1,
        top: { kind: 'register', writes: { [`T${n}PR`]: { of: 'top' } }, min: 1, max: 255 },
        ...(pwm ? { pwm: { channels: CHANNELS, high: 'compare', grain: 4, bits: 10 } } : {}),
        tick: 'overflow',
        update: { top: 'immediate', compare: 'bottom' },
        writes: { [`T${n}CLKCON.CS`]: code, [`T${n}CON.ON`]: 1 },
      },
    ],
    channels: pwm
      ? [...CCPS.map((block) => ccpOf(block, n)), ...BLOCKS.map((block) => channelOf(block, n))]
      : [],
    counter: `T${n}TMR`,
    preset: true,
    interrupts: {
      overflow: {
        vector: `TMR${n}`,
        number: 0,
        enable: { [`PIE4.TMR${n}IE`]: 1, 'INTCON.PEIE': 1 },
        flag: `PIR4.TMR${n}IF`,
        clear: 'write-zero',
        postscaler: {
          kind: 'range',
          min: 1,
          max: 16,
          scale: 1,
          writes: { [`T${n}CON.OUTPS`]: { of: 'postscale', bias: -1 } },
        },
      },
    },
    sequence: [
      { register: `T${n}CLKCON` },
      { register: `T${n}PR` },
      ...(pwm
        ? [
            { register: 'CCPTMRS0' },
            { register: 'CCPTMRS1' },
            ...CCPS.flatMap((block) => [
              { register: `CCPR${block.n}L` },
              { register: `CCPR${block.n}H` },
              { register: `CCP${block.n}CON` },
            ]),
            ...BLOCKS.flatMap((block) => [
              { register: `PWM${block.n}DCH` },
              { register: `PWM${block.n}DCL` },
              { register: `PWM${block.n}CON` },
            ]),
          ]
        : []),
      { register: `T${n}TMR` },
      { register: `T${n}CON` },
    ],
  };
}

function powers(place: string, max: number): { divide: number; writes: Writes }[] {
  return Array.from({ length: max + 1 }, (_, power) => ({ divide: 2 ** power, writes: { [place]: power } }));
}

/** Timer 0: a period in 8 bits, or an overflow of 16 bits that its interrupt reloads; its postscaler reaches its interrupt. */
const timer0: Timer = {
  id: 'TMR0',
  name: 'Timer 0',
  width: 8,
  clock: 'cycle',
  prescaler: { kind: 'list', options: powers('T0CON1.CKPS', 15) },
  modes: [
    {
      id: 'period',
      name: 'period TMR0H',
      count: 'up',
      base: 1,
      top: { kind: 'register', writes: { TMR0H: { of: 'top' } }, min: 1, max: 255 },
      tick: 'overflow',
      update: { top: 'top', compare: 'immediate' },
      writes: { 'T0CON1.CS': 2, 'T0CON1.ASYNC': 0, 'T0CON0.MD16': 0, 'T0CON0.EN': 1 },
    },
  ],
  channels: [],
  counter: 'TMR0L',
  interrupts: {
    overflow: {
      vector: 'TMR0',
      number: 0,
      enable: { 'PIE0.TMR0IE': 1 },
      flag: 'PIR0.TMR0IF',
      clear: 'write-zero',
      postscaler: {
        kind: 'range',
        min: 1,
        max: 16,
        scale: 1,
        writes: { 'T0CON0.OUTPS': { of: 'postscale', bias: -1 } },
      },
    },
  },
  sequence: [{ register: 'TMR0H' }, { register: 'T0CON1' }, { register: 'TMR0L' }, { register: 'T0CON0' }],
};

/** A 16-bit timer that can only overflow. */
function timer1(n: 1 | 3 | 5): Timer {
  return {
    id: `TMR${n}`,
    name: `Timer ${n}`,
    width: 16,
    clock: 'cycle',
    prescaler: { kind: 'list', options: powers(`T${n}CON.CKPS`, 3) },
    modes: [
      {
        id: 'reload',
        name: 'overflow, reloaded by its interrupt',
        count: 'up',
        base: 1,
        top: {
          kind: 'reload',
          bytes: { upper: `TMR${n}H`, lower: `TMR${n}L`, cycles: READ_ADD_WRITE },
          writes: { [`TMR${n}H`]: { of: 'reload', shift: 8 }, [`TMR${n}L`]: { of: 'reload', keep: 8 } },
          min: 31,
          max: 65535,
          hold: READ_ADD_WRITE,
          clears: true,
        },
        tick: 'overflow',
        update: { top: 'immediate', compare: 'immediate' },
        writes: { [`TMR${n}CLK.CS`]: 1, [`T${n}CON.ON`]: 1 },
      },
    ],
    channels: [],
    interrupts: {
      overflow: {
        vector: `TMR${n}`,
        number: 0,
        enable: { [`PIE4.TMR${n}IE`]: 1, 'INTCON.PEIE': 1 },
        flag: `PIR4.TMR${n}IF`,
        clear: 'write-zero',
      },
    },
    sequence: [
      { register: `TMR${n}CLK` },
      { register: `TMR${n}H` },
      { register: `TMR${n}L` },
      { register: `T${n}CON` },
    ],
  };
}

const pins: Pin[] = PORTS.flatMap((port, at) =>
  EIGHT.map((bit) => {
    const level = `LAT${port}.LAT${port}${bit}`;
    const direction: Writes = { [`TRIS${port}.TRIS${port}${bit}`]: 0 };
    const software: Writes = { [`R${port}${bit}PPS.PPS`]: 0, ...direction };
    return {
      id: `R${port}${bit}`,
      port: `PORT${port}`,
      bit,
      package: { DIP40: PLACES[port][bit] ?? at },
      idle: { [level]: 0 },
      enable: direction,
      software: { output: software, high: { [level]: 1 }, low: { [level]: 0 } },
    };
  }),
);

const clocks: ClockNode[] = [
  {
    kind: 'source',
    id: 'crystal',
    name: 'crystal',
    hz: [32000, 20000000],
    tolerancePpm: 50,
    needs: 'configuration bits FEXTOSC = HS, up to 4 MHz XT, for a watch crystal LP; CSWEN = ON',
  },
  {
    kind: 'source',
    id: 'external',
    name: 'external clock',
    hz: [1, 32000000],
    tolerancePpm: 50,
    needs: 'configuration bits FEXTOSC = ECH, up to 8 MHz ECM, up to 0.5 MHz ECL; CSWEN = ON',
  },
  {
    kind: 'source',
    id: 'rc',
    name: 'internal oscillator',
    hz: 32000000,
    tolerancePpm: 20000,
    needs: 'configuration bits CSWEN = ON',
    note: 'Its divider below gives 16, 8, 4 MHz and less.',
  },
  {
    kind: 'source',
    id: 'lf',
    name: 'internal 31 kHz oscillator',
    hz: 31000,
    tolerancePpm: 100000,
    always: true,
  },
  { kind: 'choice', id: 'input', name: 'oscillator', from: ['crystal', 'external', 'rc'] },
  {
    kind: 'divider',
    id: 'osc',
    name: 'oscillator divider',
    from: 'input',
    by: { kind: 'list', options: powers('OSCCON1.NDIV', 9) },
    standard: 1,
    limit: { name: 'The oscillator', max: 32000000 },
  },
  cycle,
];

/** A source with the divider after it, in one store (the datasheet, section 9.3). */
function switchTo(source: string, code: number): BringUpGroup {
  return {
    say: 'The oscillator and its divider.',
    when: { takes: { input: source } },
    steps: [{ factors: ['osc'], set: { 'OSCCON1.NOSC': code } }, { until: 'OSCCON3.ORDY' }],
  };
}

const bringUp: BringUpGroup[] = [
  {
    say: 'The internal oscillator at 32 MHz.',
    when: { takes: { input: 'rc' } },
    steps: [{ set: { 'OSCFRQ.HFFRQ': 6 } }],
  },
  switchTo('rc', 6),
  switchTo('crystal', 7),
  switchTo('external', 7),
];

const numbers = PERIOD.map(({ n }) => n);

/** PIC16F18875: seven PWM blocks of 10 bits on any of three period timers with pre- and postscaler, output pins by selection. */
export const pic16f18875: Part = {
  format: 'herzschlag-part',
  version: PART_VERSION,
  id: 'pic16f18875',
  name: 'PIC16F18875',
  about:
    'seven 10-bit PWM blocks on three 8-bit period timers with postscaler, four more timers, source clock / 4',
  registers: [
    register('INTCON', 0x00b, { PEIE: field(6), GIE: field(7) }),
    ...PORTS.flatMap((port, at) => [
      { ...register(`TRIS${port}`, 0x011 + at, numbered(`TRIS${port}`, EIGHT)), reset: 0xff },
      register(`LAT${port}`, 0x016 + at, numbered(`LAT${port}`, EIGHT)),
      ...EIGHT.map((bit) => register(`R${port}${bit}PPS`, 0xf10 + 8 * at + bit, { PPS: field(0, 6) })),
    ]),
    register('TMR0L', 0x59c),
    register('TMR0H', 0x59d),
    register('T0CON0', 0x59e, { OUTPS: field(0, 4), MD16: field(4), EN: field(7) }),
    register('T0CON1', 0x59f, { CKPS: field(0, 4), ASYNC: field(4), CS: field(5, 3) }),
    ...([1, 3, 5] as const).flatMap((n) => {
      const base = 0x20c + 6 * (n === 1 ? 0 : n === 3 ? 1 : 2);
      return [
        register(`TMR${n}L`, base),
        register(`TMR${n}H`, base + 1),
        register(`T${n}CON`, base + 2, { ON: field(0), CKPS: field(4, 2) }),
        register(`TMR${n}CLK`, base + 5, { CS: field(0, 4) }),
      ];
    }),
    {
      ...register('CCPTMRS0', 0x21e, {
        C1TSEL: field(0, 2),
        C2TSEL: field(2, 2),
        C3TSEL: field(4, 2),
        C4TSEL: field(6, 2),
      }),
      reset: 0x55,
    },
    {
      ...register('CCPTMRS1', 0x21f, { C5TSEL: field(0, 2), P6TSEL: field(2, 2), P7TSEL: field(4, 2) }),
      reset: 0x15,
    },
    ...PERIOD.flatMap(({ n, base }) => [
      register(`T${n}TMR`, base),
      { ...register(`T${n}PR`, base + 1), reset: 0xff },
      register(`T${n}CON`, base + 2, { OUTPS: field(0, 4), CKPS: field(4, 3), ON: field(7) }),
      register(`T${n}CLKCON`, base + 4, { CS: field(0, 4) }),
    ]),
    ...BLOCKS.flatMap(({ n, base }) => [
      register(`PWM${n}DCL`, base, { DC: field(6, 2) }),
      register(`PWM${n}DCH`, base + 1),
      register(`PWM${n}CON`, base + 2, { POL: field(4), EN: field(7) }),
    ]),
    ...CCPS.flatMap(({ n, base }) => [
      register(`CCPR${n}L`, base, { DC: field(6, 2) }),
      register(`CCPR${n}H`, base + 1),
      register(`CCP${n}CON`, base + 2, { MODE: field(0, 4), FMT: field(4), EN: field(7) }),
    ]),
    register('PIR0', 0x70c, { TMR0IF: field(5) }),
    register('PIR4', 0x710, Object.fromEntries([1, 2, 3, 4, 5, 6].map((n) => [`TMR${n}IF`, field(n - 1)]))),
    register('PIE0', 0x716, { TMR0IE: field(5) }),
    register('PIE4', 0x71a, Object.fromEntries([1, 2, 3, 4, 5, 6].map((n) => [`TMR${n}IE`, field(n - 1)]))),
    register('OSCCON1', 0x88d, { NDIV: field(0, 4), NOSC: field(4, 3) }),
    register('OSCCON3', 0x88f, { ORDY: field(4) }),
    register('OSCFRQ', 0x893, { HFFRQ: field(0, 3) }),
  ],
  clocks,
  bringUp,
  defaultClock: { source: 'rc', sourceHz: 32000000 },
  timers: [
    ...numbers.map((n) => periodTimer(n, 'cycle', 1)),
    ...numbers.map((n) => periodTimer(n, 'osc', 2)),
    ...numbers.map((n) => periodTimer(n, 'lf', 4)),
    timer0,
    timer1(1),
    timer1(3),
    timer1(5),
  ],
  pins,
  cpu: { ...picCpu, bitLoop: ENHANCED_BIT_LOOP },
  limits: { pinMilliamps: 25, maxHz: 32000000 },
  code: { ...picCode, assembly: { family: 'pic14e', device: '16f18875' } },
  leftOut: [
    'CCP1 to CCP5: capture and compare',
    'complementary waveform generators and dead bands',
    'numerically controlled oscillator, signal measurement timer',
    'clocks from pins, gates, hardware limit and one-shot modes of TMR2, TMR4 and TMR6',
  ],
  source:
    'datasheet, sections 9 (oscillator), 13 (pin selection), 18 (CCP), 19 (PWM), 27 (Timer 0), 28 (Timer 1) and 29 (Timer 2)',
};
