import type {
  CaptureUnit,
  Channel,
  Interrupt,
  Mode,
  Output,
  Part,
  Pin,
  Register,
  Timer,
  Writes,
} from '../../types.ts';
import { PART_VERSION } from '../../versions.ts';
import {
  CORE_NAMES,
  cortexCode,
  cortexCpu,
  enableRegisters,
  priorityRegisters,
  irq,
  systemTimer,
  systemTimerRegisters,
} from '../common/cortex.ts';
import { bringUp, clockRegisters, clocks } from './mk20dx256-clocks.ts';
import { field, numbered, register, strobe } from '../common/registers.ts';

/** The flexible timers: where they lie, their clock gate, channels, and interrupt. */
const FLEXIBLE = [
  { n: 0, base: 0x40038000, gate: 'SIM_SCGC6', channels: 8, irq: 62 },
  { n: 1, base: 0x40039000, gate: 'SIM_SCGC6', channels: 2, irq: 63 },
  { n: 2, base: 0x400b8000, gate: 'SIM_SCGC3', channels: 2, irq: 64 },
] as const;

const SYSTICK = ['SYST_CSR', 'SYST_RVR', 'SYST_CVR'] as const;
const PERIODIC = [0, 1, 2, 3];
const PORTS = ['A', 'B', 'C', 'D'] as const;

/** Pins: name, and what comes out there in which function. */
const PINS: readonly (readonly [string, ...(readonly [number, string])[]])[] = [
  ['PTA1', [3, 'FTM0_CH6']],
  ['PTA2', [3, 'FTM0_CH7']],
  ['PTA4', [3, 'FTM0_CH1']],
  ['PTA5', [3, 'FTM0_CH2']],
  ['PTA12', [3, 'FTM1_CH0']],
  ['PTA13', [3, 'FTM1_CH1']],
  ['PTB0', [3, 'FTM1_CH0']],
  ['PTB1', [3, 'FTM1_CH1']],
  ['PTB2'],
  ['PTB3'],
  ['PTB16'],
  ['PTB17'],
  ['PTB18', [3, 'FTM2_CH0']],
  ['PTB19', [3, 'FTM2_CH1']],
  ['PTC0'],
  ['PTC1', [4, 'FTM0_CH0']],
  ['PTC2', [4, 'FTM0_CH1']],
  ['PTC3', [4, 'FTM0_CH2']],
  ['PTC4', [4, 'FTM0_CH3']],
  ['PTC5'],
  ['PTC6'],
  ['PTC7'],
  ['PTC8'],
  ['PTC9'],
  ['PTC10'],
  ['PTC11'],
  ['PTD0'],
  ['PTD1'],
  ['PTD2'],
  ['PTD3'],
  ['PTD4', [4, 'FTM0_CH4']],
  ['PTD5', [4, 'FTM0_CH5']],
  ['PTD6', [4, 'FTM0_CH6']],
  ['PTD7', [4, 'FTM0_CH7']],
];

function portBit(pin: string): { port: string; bit: number } {
  return { port: pin.charAt(2), bit: Number(pin.slice(3)) };
}

function control(pin: string): string {
  const { port, bit } = portBit(pin);
  return `PORT${port}_PCR${bit}`;
}

/** What a channel does at its match: the mode bits and the edge bits of its control register. */
function action(
  timer: number,
  channel: number,
  code: { MSB: 0 | 1; MSA: 0 | 1; ELSB: 0 | 1; ELSA: 0 | 1 },
): Writes {
  return Object.fromEntries(
    Object.entries(code).map(([bit, value]) => [`FTM${timer}_C${channel}SC.${bit}`, value]),
  );
}

function outputsOf(timer: number, channel: number): Output[] {
  return PINS.flatMap(([pin, ...functions]) =>
    functions.flatMap(([code, name]): Output[] => {
      if (name !== `FTM${timer}_CH${channel}`) return [];
      const select: Writes = { [`${control(pin)}.MUX`]: code };
      const writes = (bits: Parameters<typeof action>[2]): Writes => ({
        ...select,
        ...action(timer, channel, bits),
      });
      return [
        { pin, drive: 'pwm', polarity: 'normal', writes: writes({ MSB: 1, MSA: 0, ELSB: 1, ELSA: 0 }) },
        { pin, drive: 'pwm', polarity: 'inverted', writes: writes({ MSB: 1, MSA: 0, ELSB: 0, ELSA: 1 }) },
        { pin, drive: 'toggle', polarity: 'normal', writes: writes({ MSB: 0, MSA: 1, ELSB: 0, ELSA: 1 }) },
      ];
    }),
  );
}

/** The one interrupt of a timer, as one of its channels raises it. */
function channelIrq(n: number, at: number, number: number): Interrupt {
  return irq(`FTM${n}`, number, `FTM${n}_C${at}SC.CHIE`, `FTM${n}_C${at}SC.CHF`, 'write-zero');
}

/** The interrupt of a match: the channel compares, as an output without a pin unless it has one. */
function matchIrq(n: number, at: number, number: number): Interrupt {
  const { enable, ...rest } = channelIrq(n, at, number);
  return { ...rest, enable: { [`FTM${n}_C${at}SC.MSA`]: 1, ...enable } };
}

/** A channel as an input, on rising edges. */
function captureOf(n: number, at: number, number: number): CaptureUnit {
  const edge = action(n, at, { MSB: 0, MSA: 0, ELSB: 0, ELSA: 1 });
  const inputs = PINS.flatMap(([pin, ...functions]) =>
    functions
      .filter(([, name]) => name === `FTM${n}_CH${at}`)
      .map(([code]) => ({ pin, writes: { [`${control(pin)}.MUX`]: code, ...edge } })),
  );
  return {
    id: `CH${at}`,
    name: `FTM${n} CH${at}`,
    mode: 'edge',
    value: [`FTM${n}_C${at}V`],
    interrupt: channelIrq(n, at, number),
    inputs,
  };
}

function flexibleTimer({ n, gate, channels, irq: number }: (typeof FLEXIBLE)[number]): Timer {
  const numbers = Array.from({ length: channels }, (_, at) => at);
  const ids = numbers.map((at) => `CH${at}`);
  // Center-aligned, values of MOD above 0x7FFF give ambiguous results (reference manual, FTM, up-down counting).
  const topOf = (max: number) =>
    ({ kind: 'register', writes: { [`FTM${n}_MOD`]: { of: 'top' } }, min: 1, max }) as const;
  const mode = (centered: 0 | 1): Mode => ({
    id: centered ? 'center' : 'edge',
    name: centered ? 'center-aligned, top MOD' : 'edge-aligned, top MOD',
    count: centered ? 'updown' : 'up',
    base: centered ? 0 : 1,
    top: topOf(centered ? 0x7fff : 0xfffe),
    pwm: { channels: ids, high: 'compare' },
    ...(centered ? {} : { toggle: { channels: ids }, tick: 'overflow' }),
    // In output compare, as matches that only interrupt have it, a value counts from the next count on (FTM, CnV register update).
    update: { top: 'top', compare: 'top', match: 'immediate' },
    writes: { [`FTM${n}_SC.CPWMS`]: centered, [`FTM${n}_SC.CLKS`]: 1 },
  });
  const channelOf = (at: number): Channel => ({
    id: `CH${at}`,
    name: `FTM${n} CH${at}`,
    compare: { [`FTM${n}_C${at}V`]: { of: 'compare' } },
    outputs: outputsOf(n, at),
    interrupt: matchIrq(n, at, number),
  });
  return {
    id: `FTM${n}`,
    name: `FTM${n}`,
    width: 16,
    clock: 'bus',
    prescaler: {
      kind: 'list',
      options: [0, 1, 2, 3, 4, 5, 6, 7].map((code) => ({
        divide: 2 ** code,
        writes: { [`FTM${n}_SC.PS`]: code },
      })),
    },
    modes: [mode(0), mode(1)],
    channels: numbers.map(channelOf),
    captures: numbers.map((at) => captureOf(n, at, number)),
    counter: `FTM${n}_CNT`,
    interrupts: { overflow: irq(`FTM${n}`, number, `FTM${n}_SC.TOIE`, `FTM${n}_SC.TOF`, 'write-zero') },
    power: { [`${gate}.FTM${n}`]: 1 },
    sequence: [
      { register: `FTM${n}_SC`, without: ['CLKS'] },
      { register: `FTM${n}_CNT` },
      { register: `FTM${n}_MOD` },
      ...numbers.flatMap((at) => [{ register: `FTM${n}_C${at}SC` }, { register: `FTM${n}_C${at}V` }]),
      { register: `FTM${n}_SC` },
    ],
  };
}

/** A periodic interrupt timer: 32 bits counted down from its load value, an interrupt and nothing else. */
function periodicTimer(n: number): Timer {
  return {
    id: `PIT${n}`,
    name: `PIT ${n}`,
    width: 32,
    clock: 'bus',
    prescaler: { kind: 'list', options: [{ divide: 1, writes: {} }] },
    modes: [
      {
        id: 'down',
        name: 'counting down from LDVAL',
        count: 'up',
        base: 1,
        top: { kind: 'register', writes: { [`PIT_LDVAL${n}`]: { of: 'top' } }, min: 1, max: 2 ** 32 - 1 },
        tick: 'overflow',
        update: { top: 'top', compare: 'immediate' },
        writes: { 'PIT_MCR.MDIS': 0, [`PIT_TCTRL${n}.TEN`]: 1 },
      },
    ],
    channels: [],
    interrupts: { overflow: irq(`PIT${n}`, 68 + n, `PIT_TCTRL${n}.TIE`, `PIT_TFLG${n}.TIF`, 'write-one') },
    power: { 'SIM_SCGC6.PIT': 1 },
    sequence: [{ register: 'PIT_MCR' }, { register: `PIT_LDVAL${n}` }, { register: `PIT_TCTRL${n}` }],
  };
}

function flexibleRegisters({ n, base, channels }: (typeof FLEXIBLE)[number]): Register[] {
  const numbers = Array.from({ length: channels }, (_, at) => at);
  return [
    register(`FTM${n}_SC`, base, {
      PS: field(0, 3),
      CLKS: field(3, 2),
      CPWMS: field(5),
      TOIE: field(6),
      TOF: field(7),
    }),
    register(`FTM${n}_CNT`, base + 0x04),
    register(`FTM${n}_MOD`, base + 0x08),
    ...numbers.flatMap((at) => [
      register(`FTM${n}_C${at}SC`, base + 0x0c + 8 * at, {
        ELSA: field(2),
        ELSB: field(3),
        MSA: field(4),
        MSB: field(5),
        CHIE: field(6),
        CHF: field(7),
      }),
      register(`FTM${n}_C${at}V`, base + 0x10 + 8 * at),
    ]),
  ];
}

function portRegisters(port: string, at: number): Register[] {
  const bits = PINS.map(([pin]) => portBit(pin))
    .filter((place) => place.port === port)
    .map((place) => place.bit);
  const gpio = 0x400ff000 + 0x40 * at;
  return [
    ...bits.map((bit) =>
      register(`PORT${port}_PCR${bit}`, 0x40049000 + 0x1000 * at + 4 * bit, { MUX: field(8, 3) }),
    ),
    strobe(`GPIO${port}_PSOR`, gpio + 0x04, numbered('PIN', bits)),
    strobe(`GPIO${port}_PCOR`, gpio + 0x08, numbered('PIN', bits)),
    register(`GPIO${port}_PDDR`, gpio + 0x14, numbered('PIN', bits)),
  ];
}

const pins: Pin[] = PINS.map(([id]) => {
  const { port, bit } = portBit(id);
  return {
    id,
    port: `PORT${port}`,
    bit,
    package: {},
    idle: { [`SIM_SCGC5.PORT${port}`]: 1 },
    enable: {},
    software: {
      output: { [`${control(id)}.MUX`]: 1, [`GPIO${port}_PDDR.PIN${bit}`]: 1 },
      high: { [`GPIO${port}_PSOR.PIN${bit}`]: 1 },
      low: { [`GPIO${port}_PCOR.PIN${bit}`]: 1 },
    },
  };
});

/** MK20DX256: three flexible timers with twelve channels, four periodic interrupt timers. */
export const mk20dx256: Part = {
  format: 'herzschlag-part',
  version: PART_VERSION,
  id: 'mk20dx256',
  name: 'MK20DX256',
  about: 'three 16-bit timers with twelve channels, center-aligned mode, four 32-bit periodic timers, PLL',
  registers: [
    register('SIM_SCGC3', 0x40048030, { FTM2: field(24) }),
    register(
      'SIM_SCGC5',
      0x40048038,
      Object.fromEntries(PORTS.map((port, at) => [`PORT${port}`, field(9 + at)])),
    ),
    register('SIM_SCGC6', 0x4004803c, { PIT: field(23), FTM0: field(24), FTM1: field(25) }),
    ...clockRegisters,
    ...FLEXIBLE.flatMap(flexibleRegisters),
    register('PIT_MCR', 0x40037000, { MDIS: field(1) }),
    ...PERIODIC.flatMap((n) => [
      register(`PIT_LDVAL${n}`, 0x40037100 + 0x10 * n),
      register(`PIT_TCTRL${n}`, 0x40037108 + 0x10 * n, { TEN: field(0), TIE: field(1) }),
      strobe(`PIT_TFLG${n}`, 0x4003710c + 0x10 * n, { TIF: field(0) }),
    ]),
    ...PORTS.flatMap(portRegisters),
    ...enableRegisters(3),
    ...priorityRegisters(24),
    ...systemTimerRegisters(SYSTICK),
  ],
  clocks,
  bringUp,
  defaultClock: { source: 'crystal', sourceHz: 16000000 },
  timers: [
    ...FLEXIBLE.map(flexibleTimer),
    ...PERIODIC.map(periodicTimer),
    systemTimer(SYSTICK, 'core', false),
  ],
  pins,
  // One line of the flash cache that has to be read anew, at the flash clock of a third.
  cpu: cortexCpu('core', 12, 12, 16, 9, 6),
  limits: { pinMilliamps: 9, maxHz: 72000000 },
  code: {
    ...cortexCode,
    compiler: { family: 'thumb', device: 'cortex-m4' },
    device: {
      header: '"MK20D7.h"',
      names: [
        { registers: 'FTM#_C#SC', as: 'FTM#->CONTROLS[#].CnSC' },
        { registers: 'FTM#_C#V', as: 'FTM#->CONTROLS[#].CnV' },
        { registers: 'FTM#_*', as: 'FTM#->*' },
        { registers: 'PIT_MCR', as: 'PIT->MCR' },
        ...['LDVAL', 'TCTRL', 'TFLG'].map((name) => ({
          registers: `PIT_${name}#`,
          as: `PIT->CHANNEL[#].${name}`,
        })),
        { registers: 'PORT@_PCR#', as: 'PORT@->PCR[#]' },
        { registers: 'GPIO@_*', as: 'GPIO@->*' },
        { registers: 'SIM_*', as: 'SIM->*' },
        { registers: 'MCG_*', as: 'MCG->*' },
        ...CORE_NAMES,
      ],
    },
  },
  leftOut: [
    'combined and complementary channels with dead time, quadrature decoding, fault inputs of the FTMs',
    'first counts of the FTMs other than 0 (CNTIN), for phases between them',
    'carrier modulator, low-power timer, programmable delay block',
  ],
  source:
    'kernel sources for the offsets and bits of FTM and PIT; reference manual, chapters 11 (ports), 12 (SIM), 24 (MCG) and 49 (GPIO), and the addresses of the blocks',
};
