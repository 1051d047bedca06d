import type { Mode, Output, Part, Timer } from '../../types.ts';
import { PART_VERSION } from '../../versions.ts';
import {
  CORE_NAMES,
  CORE_ALIASES,
  cortexCode,
  cortexCpu,
  enableRegisters,
  priorityRegisters,
  irq,
  systemTimer,
  systemTimerRegisters,
} from '../common/cortex.ts';
import { bringUp, clockRegisters, clocks } from './rp2040-clocks.ts';
import { field, numbered, register, strobe } from '../common/registers.ts';

const PWM = 0x40050000;
const STRIDE = 0x14;
const SLICES = [0, 1, 2, 3, 4, 5, 6, 7];
const ALARMS = [0, 1, 2, 3];
const SYSTICK = ['SYST_CSR', 'SYST_RVR', 'SYST_CVR'] as const;
const PINS = Array.from({ length: 30 }, (_, n) => n);

/** Places of GPIO 0 to 29 on the 56-pin package. */
const PLACES = [
  2, 3, 4, 5, 6, 7, 8, 9, 11, 12, 13, 14, 15, 16, 17, 18, 27, 28, 29, 30, 31, 32, 34, 35, 36, 37, 38, 39, 40,
  41,
];

function outputsOf(slice: number, channel: 0 | 1): Output[] {
  const letter = channel === 0 ? 'A' : 'B';
  const own = PINS.filter((n) => ((n >> 1) & 7) === slice && (n & 1) === channel);
  return own.flatMap((n) =>
    (['normal', 'inverted'] as const).map((polarity): Output => ({
      pin: `GPIO${n}`,
      drive: 'pwm',
      polarity,
      writes: { [`CH${slice}_CSR.${letter}_INV`]: polarity === 'inverted' ? 1 : 0 },
    })),
  );
}

function modeOf(slice: number, phase: 0 | 1): Mode {
  return {
    id: phase === 1 ? 'phase' : 'edge',
    name: phase === 1 ? 'phase-correct, top TOP' : 'trailing edge, top TOP',
    count: phase === 1 ? 'updown' : 'up',
    base: 1,
    top: { kind: 'register', writes: { [`CH${slice}_TOP.TOP`]: { of: 'top' } }, min: 1, max: 65535 },
    pwm: { channels: ['A', 'B'], high: 'compare' },
    tick: 'overflow',
    update: { top: 'bottom', compare: 'bottom' },
    writes: { [`CH${slice}_CSR.PH_CORRECT`]: phase, [`CH${slice}_CSR.DIVMODE`]: 0, [`CH${slice}_CSR.EN`]: 1 },
  };
}

function sliceOf(slice: number): Timer {
  return {
    id: `PWM${slice}`,
    name: `Slice ${slice}`,
    width: 16,
    clock: 'sys',
    prescaler: {
      kind: 'range',
      min: 16,
      max: 4095,
      scale: 16,
      writes: {
        [`CH${slice}_DIV.INT`]: { of: 'divide' },
        [`CH${slice}_DIV.FRAC`]: { of: 'divide', scale: 16, keep: 4 },
      },
    },
    modes: [modeOf(slice, 0), modeOf(slice, 1)],
    channels: ([0, 1] as const).map((channel) => ({
      id: channel === 0 ? 'A' : 'B',
      name: `Slice ${slice} ${channel === 0 ? 'A' : 'B'}`,
      compare: { [`CH${slice}_CC.${channel === 0 ? 'A' : 'B'}`]: { of: 'compare' } },
      outputs: outputsOf(slice, channel),
    })),
    counter: `CH${slice}_CTR`,
    preset: true,
    interrupts: {
      overflow: irq('PWM_IRQ_WRAP', 4, `PWM_INTE.CH${slice}`, `PWM_INTR.CH${slice}`, 'write-one'),
    },
    ready: ['RESETS_RESET_DONE.PWM'],
    power: { 'RESETS_RESET.PWM': 0 },
    sequence: [
      { register: `CH${slice}_CSR`, without: ['EN'] },
      { register: `CH${slice}_DIV` },
      { register: `CH${slice}_TOP` },
      { register: `CH${slice}_CC` },
      { register: `CH${slice}_CTR` },
      { register: `CH${slice}_CSR` },
    ],
  };
}

/** A match with the free-running microsecond counter, moved on by its interrupt. */
function alarmOf(n: number): Timer {
  return {
    id: `ALARM${n}`,
    name: `Alarm ${n}`,
    width: 32,
    clock: 'us',
    prescaler: { kind: 'list', options: [{ divide: 1, writes: {} }] },
    modes: [
      {
        id: 'alarm',
        name: 'moved on by its interrupt',
        count: 'up',
        base: 1,
        top: {
          kind: 'moved',
          writes: { [`TIMER_ALARM${n}`]: { of: 'top', bias: 1 } },
          min: 9,
          max: 2 ** 31 - 1,
        },
        tick: 'overflow',
        update: { top: 'immediate', compare: 'immediate' },
        writes: {},
      },
    ],
    channels: [],
    counter: 'TIMER_TIMERAWL',
    interrupts: {
      overflow: irq(`TIMER_IRQ_${n}`, n, `TIMER_INTE.ALARM${n}`, `TIMER_INTR.ALARM${n}`, 'write-one'),
    },
    power: { 'RESETS_RESET.TIMER': 0 },
    ready: ['RESETS_RESET_DONE.TIMER'],
    sequence: [{ register: `TIMER_ALARM${n}` }],
  };
}

/** RP2040: eight slices of two channels, a divider with sixteenths, every pin an output. */
export const rp2040: Part = {
  format: 'herzschlag-part',
  version: PART_VERSION,
  id: 'rp2040',
  name: 'RP2040',
  about: 'eight 16-bit slices, 16 channels, fractional divider 8.4, phase-correct mode, PWM on every pin',
  registers: [
    register('RESETS_RESET', 0x4000c000, {
      IO_BANK0: field(5),
      PADS_BANK0: field(8),
      PLL_SYS: field(12),
      PWM: field(14),
      TIMER: field(21),
    }),
    register('RESETS_RESET_DONE', 0x4000c008, {
      IO_BANK0: field(5),
      PADS_BANK0: field(8),
      PLL_SYS: field(12),
      PWM: field(14),
      TIMER: field(21),
    }),
    ...clockRegisters,
    ...PINS.map((n) => register(`GPIO${n}_CTRL`, 0x40014004 + 8 * n, { FUNCSEL: field(0, 5) })),
    ...SLICES.flatMap((n) => [
      register(`CH${n}_CSR`, PWM + STRIDE * n, {
        EN: field(0),
        PH_CORRECT: field(1),
        A_INV: field(2),
        B_INV: field(3),
        DIVMODE: field(4, 2),
      }),
      register(`CH${n}_DIV`, PWM + STRIDE * n + 4, { FRAC: field(0, 4), INT: field(4, 8) }),
      register(`CH${n}_CTR`, PWM + STRIDE * n + 8),
      register(`CH${n}_CC`, PWM + STRIDE * n + 12, { A: field(0, 16), B: field(16, 16) }),
      register(`CH${n}_TOP`, PWM + STRIDE * n + 16, { TOP: field(0, 16) }),
    ]),
    strobe('PWM_INTR', PWM + 0xa4, Object.fromEntries(SLICES.map((n) => [`CH${n}`, field(n)]))),
    ...ALARMS.map((n) => register(`TIMER_ALARM${n}`, 0x40054010 + 4 * n)),
    register('TIMER_TIMERAWL', 0x40054028),
    strobe('TIMER_INTR', 0x40054034, numbered('ALARM', ALARMS)),
    register('TIMER_INTE', 0x40054038, numbered('ALARM', ALARMS)),
    register('WATCHDOG_TICK', 0x4005802c, { CYCLES: field(0, 9), ENABLE: field(9) }),
    strobe('SIO_GPIO_OUT_SET', 0xd0000014, numbered('OUT', PINS)),
    strobe('SIO_GPIO_OUT_CLR', 0xd0000018, numbered('OUT', PINS)),
    strobe('SIO_GPIO_OE_SET', 0xd0000024, numbered('OE', PINS)),
    ...enableRegisters(1),
    ...priorityRegisters(8),
    ...systemTimerRegisters(SYSTICK),
    register('PWM_INTE', PWM + 0xa8, Object.fromEntries(SLICES.map((n) => [`CH${n}`, field(n)]))),
  ],
  clocks,
  bringUp,
  defaultClock: {
    source: 'crystal',
    sourceHz: 12000000,
    settings: { fbdiv: 125, postdiv1: 6, postdiv2: 2 },
  },
  timers: [...SLICES.map(sliceOf), ...ALARMS.map(alarmOf), systemTimer(SYSTICK, 'sys', false)],
  pins: PINS.map((n) => ({
    id: `GPIO${n}`,
    port: 'GPIO',
    bit: n,
    package: { QFN56: PLACES[n] ?? 0 },
    idle: { 'RESETS_RESET.IO_BANK0': 0, 'RESETS_RESET.PADS_BANK0': 0 },
    ready: ['RESETS_RESET_DONE.IO_BANK0', 'RESETS_RESET_DONE.PADS_BANK0'],
    enable: { [`GPIO${n}_CTRL.FUNCSEL`]: 4 },
    software: {
      output: { [`GPIO${n}_CTRL.FUNCSEL`]: 5, [`SIO_GPIO_OE_SET.OE${n}`]: 1 },
      high: { [`SIO_GPIO_OUT_SET.OUT${n}`]: 1 },
      low: { [`SIO_GPIO_OUT_CLR.OUT${n}`]: 1 },
    },
  })),
  // A line of the cache for the serial flash that has to be read anew (datasheet section 2.6.3); none from RAM.
  cpu: cortexCpu('sys', 15, 13, 4, 100),
  limits: { pinMilliamps: 12, maxHz: 133000000 },
  code: {
    ...cortexCode,
    handler: 'void %_Handler(void)',
    call: '%_Handler()',
    compiler: { family: 'thumb', device: 'cortex-m0plus' },
    device: {
      header: '"RP2040.h"',
      names: [
        { registers: 'CH#_*', as: 'PWM->CH#_*' },
        { registers: 'PLL_SYS_*', as: 'PLL_SYS->*' },
        { registers: 'GPIO#_CTRL', as: 'IO_BANK0->GPIO#_CTRL' },
        ...['CLOCKS', 'XOSC', 'PWM', 'RESETS', 'TIMER', 'WATCHDOG', 'SIO'].map((block) => ({
          registers: `${block}_*`,
          as: `${block}->*`,
        })),
        ...CORE_NAMES,
      ],
    },
    aliases: [
      ...CORE_ALIASES,
      ...['CSR', 'DIV', 'CTR', 'CC', 'TOP'].flatMap((name) => [
        { registers: `CH#_${name}`, as: `pwm_hw->slice[#].${name.toLowerCase()}` },
        { registers: `CH#_${name}`, as: `PWM_CH#_${name}` },
      ]),
      { registers: 'GPIO#_CTRL', as: 'io_bank0_hw->io[#].ctrl' },
      { registers: 'PWM_INTE', as: 'pwm_hw->inte' },
      { registers: 'SIO_GPIO_OE_SET', as: 'sio_hw->gpio_oe_set' },
    ],
  },
  leftOut: [
    'counting of edges and gating by the B pins',
    'programmable input and output (PIO)',
    'real-time counter and watchdog tick',
  ],
  source:
    'datasheet, sections 2.3.1 (SIO), 2.15 (clocks), 2.16 (crystal oscillator), 2.18 (PLL), 2.19 (GPIO), 4.5 (PWM), 4.6 (timer) and 4.7 (tick)',
};
