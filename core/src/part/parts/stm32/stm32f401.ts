import type { Channel, Interrupt, Mode, Part, Pin, Register, Timer, Writes } from '../../types.ts';
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
import { field, numbered, register, strobe, type Fields } from '../common/registers.ts';
import { bringUp, clockRegisters, clocks } from './stm32f401-clocks.ts';
import { captureOf, complementsOf, deadTimesOf, neutralOf, outputsOf, portBit } from './stm32f401-outputs.ts';
import { ADVANCED, PINS, TIMERS, type Own } from './stm32f401-tables.ts';

/** The registers of the core's own timer, as the sources call them. */
const SYSTICK = ['SysTick_CTRL', 'SysTick_LOAD', 'SysTick_VAL'] as const;

function modesOf({ id, width, channels, center }: Own): Mode[] {
  const ids = Array.from({ length: channels }, (_, at) => `CH${at + 1}`);
  const top = {
    kind: 'register',
    writes: { [`${id}_ARR`]: { of: 'top' } },
    min: 1,
    max: 2 ** width - 1,
  } as const;
  const run = (aligned: number): Writes => ({
    [`${id}_CR1.ARPE`]: 1,
    ...(center ? { [`${id}_CR1.CMS`]: aligned, [`${id}_CR1.DIR`]: 0 } : {}),
    [`${id}_CR1.CEN`]: 1,
    [`${id}_EGR.UG`]: 1,
  });
  const up: Mode = {
    id: 'up',
    name: 'counting up, top ARR',
    count: 'up',
    base: 1,
    top,
    pwm: { channels: ids, high: 'compare' },
    toggle: { channels: ids },
    tick: 'overflow',
    // Only outputs have their compare values buffered (OCxPE).
    update: { top: 'bottom', compare: 'bottom', match: 'immediate' },
    writes: run(0),
  };
  const centered: Mode = {
    id: 'center',
    name: 'center-aligned, top ARR',
    count: 'updown',
    base: 0,
    top,
    pwm: { channels: ids, high: 'compare' },
    update: { top: 'bottom', compare: 'bottom' },
    writes: run(1),
    // The three center-aligned modes differ only in when a match sets its flag.
    same: [2, 3].map((aligned) => ({ [`${id}_CR1.CMS`]: aligned })),
  };
  return center ? [up, centered] : [up];
}

function timerOf(own: Own): Timer {
  const { id, width, bus, channels, vector, matches } = own;
  const match = matches ?? vector;
  const numbers = Array.from({ length: channels }, (_, at) => at + 1);
  const matchOf = (n: number): Interrupt =>
    irq(match[0], match[1], `${id}_DIER.CC${n}IE`, `${id}_SR.CC${n}IF`, 'write-zeros');
  const channelOf = (n: number): Channel => ({
    id: `CH${n}`,
    name: `${id} CH${n}`,
    compare: { [`${id}_CCR${n}`]: { of: 'compare' } },
    outputs: outputsOf(id, n),
    ...(id === ADVANCED && n < channels ? { complement: complementsOf(id, n) } : {}),
    interrupt: matchOf(n),
  });
  return {
    id,
    name: id,
    width,
    clock: `apb${bus}t`,
    prescaler: {
      kind: 'range',
      min: 1,
      max: 65536,
      scale: 1,
      writes: { [`${id}_PSC`]: { of: 'divide', bias: -1 } },
    },
    modes: modesOf(own),
    channels: numbers.map(channelOf),
    captures: numbers.map((n) => captureOf(id, n, matchOf(n))),
    ...(id === ADVANCED ? { deadTime: deadTimesOf(id) } : {}),
    neutral: neutralOf(id, numbers),
    counter: `${id}_CNT`,
    preset: true,
    interrupts: { overflow: irq(vector[0], vector[1], `${id}_DIER.UIE`, `${id}_SR.UIF`, 'write-zeros') },
    power: { [`RCC_APB${bus}ENR.${id}EN`]: 1 },
    sequence: [
      { register: `${id}_CR1`, without: ['CEN'] },
      { register: `${id}_PSC` },
      { register: `${id}_ARR` },
      ...numbers.map((n) => ({ register: `${id}_CCR${n}` })),
      { register: `${id}_CCMR1` },
      ...(channels > 2 ? [{ register: `${id}_CCMR2` }] : []),
      { register: `${id}_CCER` },
      ...(id === ADVANCED ? [{ register: `${id}_BDTR` }] : []),
      // The update that loads the buffers puts the counter back to 0: its first count comes after it.
      { register: `${id}_EGR` },
      { register: `${id}_CNT` },
      { register: `${id}_CR1` },
    ],
  };
}

/** Fields of one half of a compare mode register: channels n and n + 1. */
function compareFields(n: number, channels: number): Fields {
  const pair = [n, n + 1].filter((one) => one <= channels);
  return Object.fromEntries(
    pair.flatMap((one, at) => [
      [`CC${one}S`, field(8 * at, 2)],
      [`OC${one}FE`, field(2 + 8 * at)],
      [`OC${one}PE`, field(3 + 8 * at)],
      [`OC${one}M0`, field(4 + 8 * at)],
      [`OC${one}M1`, field(5 + 8 * at)],
      [`OC${one}M2`, field(6 + 8 * at)],
      [`OC${one}CE`, field(7 + 8 * at)],
    ]),
  );
}

function timerRegisters({ id, base, width, channels, center }: Own): Register[] {
  const numbers = Array.from({ length: channels }, (_, at) => at + 1);
  const enables = numbers.flatMap((n) => [
    [`CC${n}E`, field(4 * n - 4)],
    [`CC${n}P`, field(4 * n - 3)],
    ...(id === ADVANCED && n < 4
      ? [
          [`CC${n}NE`, field(4 * n - 2)],
          [`CC${n}NP`, field(4 * n - 1)],
        ]
      : []),
  ]);
  const aligned: Fields = center ? { DIR: field(4), CMS: field(5, 2) } : {};
  return [
    register(`${id}_CR1`, base, {
      CEN: field(0),
      UDIS: field(1),
      URS: field(2),
      OPM: field(3),
      ...aligned,
      ARPE: field(7),
      CKD: field(8, 2),
    }),
    register(`${id}_DIER`, base + 0x0c, {
      UIE: field(0),
      ...Object.fromEntries(numbers.map((n) => [`CC${n}IE`, field(n)])),
    }),
    register(`${id}_SR`, base + 0x10, {
      UIF: field(0),
      ...Object.fromEntries(numbers.map((n) => [`CC${n}IF`, field(n)])),
    }),
    strobe(`${id}_EGR`, base + 0x14, { UG: field(0) }),
    register(`${id}_CCMR1`, base + 0x18, compareFields(1, channels)),
    ...(channels > 2 ? [register(`${id}_CCMR2`, base + 0x1c, compareFields(3, channels))] : []),
    register(`${id}_CCER`, base + 0x20, Object.fromEntries(enables) as Fields),
    register(`${id}_CNT`, base + 0x24, {}, width === 32 ? 32 : 16),
    register(`${id}_PSC`, base + 0x28, {}, 16),
    register(`${id}_ARR`, base + 0x2c, {}, width === 32 ? 32 : 16),
    ...numbers.map((n) => register(`${id}_CCR${n}`, base + 0x30 + 4 * n, {}, width === 32 ? 32 : 16)),
    ...(id === ADVANCED ? [register(`${id}_BDTR`, base + 0x44, BREAK)] : []),
  ];
}

/** Dead time, lock, off states, break input and the switch of all outputs. */
const BREAK: Fields = {
  DTG: field(0, 8),
  LOCK: field(8, 2),
  OSSI: field(10),
  OSSR: field(11),
  BKE: field(12),
  BKP: field(13),
  AOE: field(14),
  MOE: field(15),
};

const PORTS: readonly (readonly [string, number])[] = [
  ['A', 0x40020000],
  ['B', 0x40020400],
  ['C', 0x40020800],
];

function portRegisters([port, base]: readonly [string, number]): Register[] {
  const sixteen = Array.from({ length: 16 }, (_, bit) => bit);
  const fields = (name: string, list: number[], bits: number): Fields =>
    Object.fromEntries(list.map((bit, at) => [`${name}${bit}`, field(at * bits, bits)]));
  return [
    register(`GPIO${port}_MODER`, base, fields('MODER', sixteen, 2)),
    strobe(`GPIO${port}_BSRR`, base + 0x18, { ...numbered('BS', sixteen), ...numbered('BR', sixteen, 16) }),
    register(`GPIO${port}_AFRL`, base + 0x20, fields('AFR', sixteen.slice(0, 8), 4)),
    register(`GPIO${port}_AFRH`, base + 0x24, fields('AFR', sixteen.slice(8), 4)),
  ];
}

const pins: Pin[] = PINS.map(([id, place]) => {
  const { port, bit } = portBit(id);
  return {
    id,
    port: `GPIO${port}`,
    bit,
    package: { LQFP64: place },
    idle: { [`RCC_AHB1ENR.GPIO${port}EN`]: 1 },
    enable: { [`GPIO${port}_MODER.MODER${bit}`]: 2 },
    software: {
      output: { [`GPIO${port}_MODER.MODER${bit}`]: 1 },
      high: { [`GPIO${port}_BSRR.BS${bit}`]: 1 },
      low: { [`GPIO${port}_BSRR.BR${bit}`]: 1 },
    },
  };
});

/** STM32F401 in the 64-pin package: timers of 16 and 32 bits with any prescaler up to 65536. */
export const stm32f401: Part = {
  format: 'herzschlag-part',
  version: PART_VERSION,
  id: 'stm32f401',
  name: 'STM32F401',
  about: 'two 32-bit and six 16-bit timers, 24 channels, complementary outputs, PLL up to 84 MHz',
  registers: [
    ...clockRegisters,
    register('RCC_AHB1ENR', 0x40023830, { GPIOAEN: field(0), GPIOBEN: field(1), GPIOCEN: field(2) }),
    ...([1, 2] as const).map((bus) =>
      register(
        `RCC_APB${bus}ENR`,
        0x4002383c + 4 * bus,
        Object.fromEntries(
          TIMERS.filter((own) => own.bus === bus).map((own) => [`${own.id}EN`, field(own.enable)]),
        ),
      ),
    ),
    ...PORTS.flatMap(portRegisters),
    ...TIMERS.flatMap(timerRegisters),
    ...enableRegisters(2),
    ...priorityRegisters(16),
    ...systemTimerRegisters(SYSTICK),
  ],
  clocks,
  bringUp,
  defaultClock: { source: 'crystal', sourceHz: 8000000, settings: { pllM: 8, pllN: 336, pllP: 4 } },
  timers: [...TIMERS.map(timerOf), systemTimer(SYSTICK, 'ahb', true)],
  pins,
  // Two wait states of the flash at 84 MHz for a line that its buffer does not hold, twice.
  cpu: cortexCpu('ahb', 12, 12, 16, 4, 6),
  limits: { pinMilliamps: 25, maxHz: 84000000 },
  code: {
    ...cortexCode,
    readsBack: true,
    compiler: { family: 'thumb', device: 'cortex-m4' },
    device: {
      header: '"stm32f4xx.h"',
      names: [
        { registers: 'GPIO@_AFRL', as: 'GPIO@->AFR[0]' },
        { registers: 'GPIO@_AFRH', as: 'GPIO@->AFR[1]' },
        { registers: 'GPIO@_*', as: 'GPIO@->*' },
        { registers: 'TIM#_*', as: 'TIM#->*' },
        { registers: 'RCC_*', as: 'RCC->*' },
        { registers: 'FLASH_*', as: 'FLASH->*' },
        ...CORE_NAMES,
      ],
    },
  },
  leftOut: [
    'counting down, one pulse, combined and synchronised timers, encoder and external clocks',
    'break input',
    'frequency measurement from both edges of one pin',
    'compare modes without PWM or toggling',
  ],
  source:
    'kernel and emulator sources for the register addresses and most bits; reference manual for the rest',
};
