import type { Mode, Output, Part, Register, Timer, Writes } from '../../types.ts';
import { PART_VERSION } from '../../versions.ts';
import { field, register, strobe } from '../common/registers.ts';

/** Sources of interrupts by their numbers. */
const SOURCES: Readonly<Record<number, string>> = {
  14: 'TG_T0_LEVEL',
  15: 'TG_T1_LEVEL',
  18: 'TG1_T0_LEVEL',
  19: 'TG1_T1_LEVEL',
  43: 'LEDC',
};

/** The register of the interrupt matrix that says which line of the processor a source goes to (section 9.3.2). */
function mapOf(source: number): string {
  return `DPORT_PRO_${SOURCES[source] ?? source}_INT_MAP`;
}

const LEDC = 0x3ff59000;
const GPIO = 0x3ff44000;
const MUX = 0x3ff49000;

/** The two groups: where their channels and timers lie, and the first of their output signals in the pin matrix. */
const GROUPS = [
  { prefix: 'HS', name: 'high-speed', channels: LEDC, timers: LEDC + 0x140, signal: 71, latched: false },
  { prefix: 'LS', name: 'low-speed', channels: LEDC + 0xa0, timers: LEDC + 0x160, signal: 79, latched: true },
] as const;

type Group = (typeof GROUPS)[number];

/** Pins that can be outputs, with the offset of their multiplexer register and their place on the 48-pin package. */
const PINS: readonly (readonly [number, number, number])[] = [
  [0, 0x44, 23],
  [2, 0x40, 22],
  [4, 0x48, 24],
  [5, 0x6c, 34],
  [12, 0x34, 18],
  [13, 0x38, 20],
  [14, 0x30, 17],
  [15, 0x3c, 21],
  [16, 0x4c, 25],
  [17, 0x50, 27],
  [18, 0x70, 35],
  [19, 0x74, 38],
  [21, 0x7c, 42],
  [22, 0x80, 39],
  [23, 0x8c, 36],
  [25, 0x24, 14],
  [26, 0x28, 15],
  [27, 0x2c, 16],
  [32, 0x1c, 12],
  [33, 0x20, 13],
];

const CHANNELS = [0, 1, 2, 3, 4, 5, 6, 7];
const TIMERS = [0, 1, 2, 3];

/** The matrix brings a channel to any pin; which timer a channel follows is a field of the channel. */
function outputsOf({ prefix, signal, latched }: Group, channel: number, timer: number): Output[] {
  const control = `LEDC_${prefix}CH${channel}`;
  return PINS.flatMap(([pin]) =>
    (['normal', 'inverted'] as const).map((polarity): Output => ({
      pin: `GPIO${pin}`,
      drive: 'pwm',
      polarity,
      writes: {
        [`GPIO_FUNC${pin}_OUT_SEL_CFG.OUT_SEL`]: signal + channel,
        [`GPIO_FUNC${pin}_OUT_SEL_CFG.OUT_INV_SEL`]: polarity === 'inverted' ? 1 : 0,
        [`${control}_HPOINT`]: 0,
        [`${control}_CONF1.DUTY_START`]: 1,
        [`${control}_CONF0.TIMER_SEL`]: timer,
        [`${control}_CONF0.SIG_OUT_EN`]: 1,
        ...(latched ? { [`${control}_CONF0.PARA_UP`]: 1 } : {}),
      },
    })),
  );
}

function timerOf(group: Group, n: number, clock: 'apb' | 'ref'): Timer {
  const { prefix, name, latched } = group;
  const control = `LEDC_${prefix}TIMER${n}_CONF`;
  const ids = CHANNELS.map((channel) => `${prefix}CH${channel}`);
  const select: Writes = {
    [`${control}.TICK_SEL`]: clock === 'apb' ? 1 : 0,
    [`${control}.PAUSE`]: 0,
    [`${control}.RST`]: 0,
    ...(latched ? { [`${control}.PARA_UP`]: 1, 'LEDC_CONF.APB_CLK_SEL': 1 } : {}),
  };
  const mode: Mode = {
    id: 'pwm',
    name: 'PWM, 2^bits counts',
    count: 'up',
    base: 1,
    top: { kind: 'power', writes: { [`${control}.DUTY_RES`]: { of: 'bits' } }, minBits: 1, maxBits: 20 },
    pwm: { channels: ids, high: 'compare', bits: 21 },
    tick: 'overflow',
    update: { top: 'bottom', compare: 'bottom' },
    writes: select,
  };
  const channels = CHANNELS.map((channel) => `LEDC_${prefix}CH${channel}`);
  return {
    id: `${prefix}TIMER${n}${clock === 'apb' ? '' : '_REF'}`,
    name: `${name} timer ${n}${clock === 'apb' ? '' : ' at 1 MHz'}`,
    ...(clock === 'apb' ? {} : { variantOf: `${prefix}TIMER${n}` }),
    width: 20,
    clock,
    prescaler: {
      kind: 'range',
      min: 256,
      max: 262143,
      scale: 256,
      writes: { [`${control}.DIV_NUM`]: { of: 'divide', scale: 256 } },
    },
    modes: [mode],
    channels: CHANNELS.map((channel) => ({
      id: `${prefix}CH${channel}`,
      name: `${name} channel ${channel}`,
      compare: { [`LEDC_${prefix}CH${channel}_DUTY`]: { of: 'compare', scale: 16 } },
      // The duty waits for its start bit; the low-speed group also for the update of its channel.
      commit: {
        [`LEDC_${prefix}CH${channel}_CONF1.DUTY_START`]: 1,
        ...(latched ? { [`LEDC_${prefix}CH${channel}_CONF0.PARA_UP`]: 1 } : {}),
      },
      outputs: outputsOf(group, channel, n),
    })),
    interrupts: {
      overflow: {
        vector: 'ledc',
        number: 43,
        route: mapOf(43),
        enable: { [`LEDC_INT_ENA.${prefix}TIMER${n}_OVF`]: 1 },
        flag: `LEDC_INT_CLR.${prefix}TIMER${n}_OVF`,
        status: `LEDC_INT_ST.${prefix}TIMER${n}_OVF`,
        polled: `LEDC_INT_RAW.${prefix}TIMER${n}_OVF`,
        clear: 'write-one',
      },
    },
    power: { 'DPORT_PERIP_RST_EN.LEDC_RST': 0, 'DPORT_PERIP_CLK_EN.LEDC_CLK_EN': 1 },
    sequence: [
      ...(latched ? [{ register: 'LEDC_CONF' }] : []),
      { register: control },
      ...channels.flatMap((channel) => [
        { register: `${channel}_HPOINT` },
        { register: `${channel}_DUTY` },
        { register: `${channel}_CONF0`, ...(latched ? { without: ['PARA_UP'] } : {}) },
        { register: `${channel}_CONF1` },
        ...(latched ? [{ register: `${channel}_CONF0` }] : []),
      ]),
    ],
  };
}

/** A general timer: 64 bits behind a divider of 16 bits; its alarm restarts it at zero. */
function generalTimer(group: 0 | 1, n: 0 | 1): Timer {
  const name = `TIMG${group}_T${n}`;
  return {
    id: name,
    name: `general timer ${group}.${n}`,
    width: 64,
    clock: 'apb',
    prescaler: {
      kind: 'range',
      min: 2,
      max: 65535,
      scale: 1,
      writes: { [`${name}CONFIG.DIVIDER`]: { of: 'divide' } },
    },
    modes: [
      {
        id: 'alarm',
        name: 'restarted by its alarm',
        count: 'up',
        base: 0,
        top: {
          kind: 'register',
          writes: {
            [`${name}ALARMLO`]: { of: 'top', keep: 32 },
            [`${name}ALARMHI`]: { of: 'top', shift: 32 },
          },
          min: 1,
          max: 2 ** 48 - 1,
        },
        tick: 'overflow',
        update: { top: 'immediate', compare: 'immediate' },
        writes: {
          [`${name}CONFIG.EN`]: 1,
          [`${name}CONFIG.INCREASE`]: 1,
          [`${name}CONFIG.AUTORELOAD`]: 1,
          [`${name}CONFIG.ALARM_EN`]: 1,
          [`${name}CONFIG.LEVEL_INT_EN`]: 1,
          [`${name}LOADLO`]: 0,
          [`${name}LOADHI`]: 0,
          [`${name}LOAD`]: 1,
        },
      },
    ],
    channels: [],
    interrupts: {
      overflow: {
        vector: `timer${group}_${n}`,
        number: 14 + 4 * group + n,
        route: mapOf(14 + 4 * group + n),
        enable: { [`TIMG${group}_INT_ENA.T${n}`]: 1 },
        flag: `TIMG${group}_INT_CLR.T${n}`,
        status: `TIMG${group}_INT_ST.T${n}`,
        clear: 'write-one',
        // The alarm disarms itself when it comes.
        rearm: { [`${name}CONFIG.ALARM_EN`]: 1 },
      },
    },
    sequence: [
      { register: `${name}CONFIG`, without: ['EN'] },
      { register: `${name}ALARMLO` },
      { register: `${name}ALARMHI` },
      { register: `${name}LOADLO` },
      { register: `${name}LOADHI` },
      { register: `${name}LOAD` },
      { register: `${name}CONFIG` },
    ],
  };
}

function generalRegisters(group: 0 | 1): Register[] {
  const base = 0x3ff5f000 + 0x1000 * group;
  return [
    ...([0, 1] as const).flatMap((n) => {
      const at = base + 0x24 * n;
      const name = `TIMG${group}_T${n}`;
      return [
        register(`${name}CONFIG`, at, {
          ALARM_EN: field(10),
          LEVEL_INT_EN: field(11),
          DIVIDER: field(13, 16),
          AUTORELOAD: field(29),
          INCREASE: field(30),
          EN: field(31),
        }),
        register(`${name}ALARMLO`, at + 0x10),
        register(`${name}ALARMHI`, at + 0x14),
        register(`${name}LOADLO`, at + 0x18),
        register(`${name}LOADHI`, at + 0x1c),
        strobe(`${name}LOAD`, at + 0x20),
      ];
    }),
    register(`TIMG${group}_INT_ST`, base + 0xa0, { T0: field(0), T1: field(1) }),
    register(`TIMG${group}_INT_ENA`, base + 0x98, { T0: field(0), T1: field(1) }),
    strobe(`TIMG${group}_INT_CLR`, base + 0xa4, { T0: field(0), T1: field(1) }),
  ];
}

function outputRegisters(): Register[] {
  const banks = [
    { own: PINS.filter(([pin]) => pin < 32), set: 0x08, clear: 0x0c, name: '' },
    { own: PINS.filter(([pin]) => pin >= 32), set: 0x14, clear: 0x18, name: '1' },
  ];
  return banks.flatMap(({ own, set, clear, name }) => {
    const fields = Object.fromEntries(own.map(([pin]) => [`GPIO${pin}`, field(pin % 32)]));
    return [
      strobe(`GPIO_OUT${name}_W1TS`, GPIO + set, fields),
      strobe(`GPIO_OUT${name}_W1TC`, GPIO + clear, fields),
    ];
  });
}

const INTERRUPTS = GROUPS.flatMap(({ prefix }, group) =>
  TIMERS.map((n) => [`${prefix}TIMER${n}_OVF`, field(4 * group + n)] as const),
);

/** ESP32: LED PWM with two groups of four timers and eight channels, a divider of 10.8 bits, and a pin matrix. */
export const esp32: Part = {
  format: 'herzschlag-part',
  version: PART_VERSION,
  id: 'esp32',
  name: 'ESP32',
  about: 'eight PWM timers of 1 to 20 bits, 16 channels on any pin, fractional divider 10.8',
  registers: [
    ...Object.keys(SOURCES)
      .map(Number)
      .map((source) => register(mapOf(source), 0x3ff00104 + 4 * source)),
    register('DPORT_PERIP_CLK_EN', 0x3ff000c0, { LEDC_CLK_EN: field(11) }),
    register('DPORT_PERIP_RST_EN', 0x3ff000c4, { LEDC_RST: field(11) }),
    register(
      'GPIO_ENABLE',
      GPIO + 0x20,
      Object.fromEntries(PINS.filter(([pin]) => pin < 32).map(([pin]) => [`GPIO${pin}`, field(pin)])),
    ),
    register(
      'GPIO_ENABLE1',
      GPIO + 0x2c,
      Object.fromEntries(PINS.filter(([pin]) => pin >= 32).map(([pin]) => [`GPIO${pin}`, field(pin - 32)])),
    ),
    ...PINS.flatMap(([pin, offset]) => [
      register(`GPIO_FUNC${pin}_OUT_SEL_CFG`, GPIO + 0x530 + 4 * pin, {
        OUT_SEL: field(0, 9),
        OUT_INV_SEL: field(9),
      }),
      register(`IO_MUX_GPIO${pin}`, MUX + offset, { MCU_SEL: field(12, 3) }),
    ]),
    ...outputRegisters(),
    ...generalRegisters(0),
    ...generalRegisters(1),
    register('LEDC_INT_RAW', LEDC + 0x180, Object.fromEntries(INTERRUPTS)),
    register('LEDC_INT_ST', LEDC + 0x184, Object.fromEntries(INTERRUPTS)),
    register('LEDC_INT_ENA', LEDC + 0x188, Object.fromEntries(INTERRUPTS)),
    strobe('LEDC_INT_CLR', LEDC + 0x18c, Object.fromEntries(INTERRUPTS)),
    register('LEDC_CONF', LEDC + 0x190, { APB_CLK_SEL: field(0) }),
    ...GROUPS.flatMap(({ prefix, channels, timers, latched }) => [
      ...CHANNELS.flatMap((n) => {
        const at = channels + 0x14 * n;
        return [
          register(`LEDC_${prefix}CH${n}_CONF0`, at, {
            TIMER_SEL: field(0, 2),
            SIG_OUT_EN: field(2),
            ...(latched ? { PARA_UP: field(4) } : {}),
          }),
          register(`LEDC_${prefix}CH${n}_HPOINT`, at + 4),
          register(`LEDC_${prefix}CH${n}_DUTY`, at + 8),
          register(`LEDC_${prefix}CH${n}_CONF1`, at + 12, { DUTY_START: field(31) }),
        ];
      }),
      ...TIMERS.map((n) =>
        register(`LEDC_${prefix}TIMER${n}_CONF`, timers + 8 * n, {
          DUTY_RES: field(0, 5),
          DIV_NUM: field(5, 18),
          PAUSE: field(23),
          RST: field(24),
          TICK_SEL: field(25),
          ...(latched ? { PARA_UP: field(26) } : {}),
        }),
      ),
    ]),
  ],
  clocks: [
    { kind: 'source', id: 'crystal', name: 'crystal', hz: [26000000, 40000000], tolerancePpm: 10 },
    { kind: 'choice', id: 'xtal', name: 'crystal', from: ['crystal'] },
    {
      // The PLL makes 320 or 480 MHz from a crystal of 26 MHz as well as from one of 40 MHz, and the bus has a fixed part
      // of that (technical reference manual, section 3.2: APB_CLK is 80 MHz with the PLL as source).
      kind: 'fixed',
      id: 'apb',
      name: 'PLL',
      from: 'xtal',
      hz: 80000000,
    },
    {
      kind: 'divider',
      id: 'ref',
      name: 'reference tick divider',
      from: 'apb',
      by: { kind: 'list', options: [{ divide: 80, writes: {} }] },
      standard: 80,
    },
    {
      kind: 'multiplier',
      id: 'cpu',
      name: 'processor clock',
      from: 'apb',
      by: {
        kind: 'list',
        options: [
          { divide: 1, writes: {} },
          { divide: 2, writes: {} },
          { divide: 3, writes: {} },
        ],
      },
      standard: 2,
      limit: { name: 'The processor clock', max: 240000000 },
    },
  ],
  bringUp: 'the manual describes no registers of its PLL; the boot loader brings it up',
  defaultClock: { source: 'crystal', sourceHz: 40000000 },
  timers: GROUPS.flatMap((group) => [
    ...TIMERS.map((n) => timerOf(group, n, 'apb')),
    ...TIMERS.map((n) => timerOf(group, n, 'ref')),
  ]).concat(([0, 1] as const).flatMap((group) => [generalTimer(group, 0), generalTimer(group, 1)])),
  pins: PINS.map(([pin, , place]) => ({
    id: `GPIO${pin}`,
    port: 'GPIO',
    bit: pin,
    package: { QFN48: place },
    idle: { [`IO_MUX_GPIO${pin}.MCU_SEL`]: 2 },
    enable: { [`GPIO_ENABLE${pin < 32 ? '' : '1'}.GPIO${pin}`]: 1 },
    software: {
      output: {
        [`GPIO_FUNC${pin}_OUT_SEL_CFG.OUT_SEL`]: 256,
        [`GPIO_ENABLE${pin < 32 ? '' : '1'}.GPIO${pin}`]: 1,
      },
      high: { [`GPIO_OUT${pin < 32 ? '' : '1'}_W1TS.GPIO${pin}`]: 1 },
      low: { [`GPIO_OUT${pin < 32 ? '' : '1'}_W1TC.GPIO${pin}`]: 1 },
    },
  })),
  cpu: {
    clock: 'cpu',
    entryCycles: 60,
    reloadCycles: 3,
    exitCycles: 40,
    lateCycles: 20,
    handlerCycles: 60,
    operations: {
      word: 4,
      frame: { min: 10, max: 40 },
      save: 2,
      load: { min: 1, max: 10 },
      store: { min: 1, max: 6 },
      read: { min: 6, max: 20 },
      write: { min: 2, max: 10 },
      compute: { min: 0, max: 2 },
      constant: 4,
      branch: { min: 1, max: 4 },
      index: { min: 2, max: 8 },
      table: { min: 1, max: 10 },
      call: { min: 8, max: 30 },
      exclude: { min: 4, max: 10 },
    },
    loopCycles: 4,
    loopJitterCycles: 'none',
    feedCycles: 60,
    sendCycles: 200,
    priorities: { scheme: 'levels', levels: 7 },
  },
  limits: { pinMilliamps: 40, maxHz: 240000000 },
  code: {
    headers: [],
    registers: 'addresses',
    device: {
      header: ['dport', 'gpio', 'io_mux', 'ledc', 'timer_group'].map((block) => `"soc/${block}_reg.h"`),
      gives: 'addresses',
      names: [
        { registers: 'TIMG#_INT_*', as: 'TIMG_INT_*_TIMERS_REG(#)' },
        { registers: 'TIMG#_*', as: 'TIMG_*_REG(#)' },
        { registers: '*', as: '*_REG' },
      ],
    },
    handler: 'void %_handler(void)',
    call: '%_handler()',
    // Not register a0: it holds the return address.
    allow: '__asm volatile ("rsil a2, 0" ::: "a2");',
    excludes: 'xtensa',
    routing:
      'The interrupt matrix leads source % to an interrupt of the processor that is enabled there, and its handler calls the one here.',
    setsClock: false,
    bytewise: false,
  },
  leftOut: [
    'motor control PWM with dead time, its captures',
    'remote control (RMT) and pulse counters',
    'fades made by the LED PWM itself',
    'points other than 0 at which PWM outputs rise (HPOINT), for phases between them',
    'sigma-delta outputs',
  ],
  source:
    'technical reference manual, chapters 4 (pin matrix), 5 (DPort), 9 (interrupt matrix), 14 (LED PWM) and 18 (timer groups)',
};
