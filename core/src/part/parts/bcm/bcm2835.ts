import type { Output, Part, StartStep, Timer } from '../../types.ts';
import { PART_VERSION } from '../../versions.ts';
import { field, register, strobe, type Fields } from '../common/registers.ts';

/** Pins by channel: [pin, alternate function code in its select field]. */
const OUTPUTS: readonly (readonly (readonly [number, number])[])[] = [
  [
    [12, 4],
    [18, 2],
    [40, 4],
    [52, 5],
  ],
  [
    [13, 4],
    [19, 2],
    [41, 4],
    [45, 4],
    [53, 5],
  ],
];

const PINS = Array.from({ length: 54 }, (_, n) => n);
const PASSWORD = 0x5a;

/** Stops the clock of the PWM, waits until it stands, and gives it another source. */
function sourceOf(code: number): StartStep[] {
  return [
    { set: { 'CM_PWMCTL.PASSWD': PASSWORD, 'CM_PWMCTL.ENAB': 0 } },
    { until: '!CM_PWMCTL.BUSY' },
    { set: { 'CM_PWMCTL.PASSWD': PASSWORD, 'CM_PWMCTL.SRC': code } },
  ];
}

/** Ten pins to a register, three bits to a pin. */
function selectField(pin: number): string {
  return `GPFSEL${Math.floor(pin / 10)}.FSEL${pin}`;
}

function outputsOf(channel: 1 | 2): Output[] {
  return (OUTPUTS[channel - 1] ?? []).flatMap(([pin, code]) =>
    (['normal', 'inverted'] as const).map((polarity): Output => ({
      pin: `GPIO${pin}`,
      drive: 'pwm',
      polarity,
      writes: { [selectField(pin)]: code, [`PWM_CTL.POLA${channel}`]: polarity === 'inverted' ? 1 : 0 },
    })),
  );
}

/** Each channel has a range of its own; both count the one clock that their common divider makes. */
function channelOf(n: 1 | 2): Timer {
  return {
    id: `PWM${n}`,
    name: `PWM channel ${n}`,
    width: 32,
    clock: 'pwmSource',
    prescaler: {
      kind: 'range',
      min: 2 * 4096,
      max: 4095 * 4096 + 4095,
      scale: 4096,
      writes: {
        'CM_PWMDIV.DIVI': { of: 'divide' },
        'CM_PWMDIV.DIVF': { of: 'divide', scale: 4096, keep: 12 },
        'CM_PWMDIV.PASSWD': PASSWORD,
        'CM_PWMCTL.PASSWD': PASSWORD,
        'CM_PWMCTL.ENAB': 1,
        'CM_PWMCTL.MASH': 1,
      },
      // Without the noise shaping filter the clock is divided by whole numbers.
      whole: { 'CM_PWMCTL.MASH': 0 },
    },
    modes: [
      {
        id: 'balanced',
        name: 'balanced, range RNG',
        count: 'up',
        base: 1,
        top: {
          kind: 'register',
          writes: { [`PWM_RNG${n}`]: { of: 'top', bias: 1 } },
          min: 1,
          max: 2 ** 32 - 2,
        },
        pwm: { channels: [`CH${n}`], high: 'compare', spread: true },
        update: { top: 'bottom', compare: 'bottom' },
        writes: {
          [`PWM_CTL.MSEN${n}`]: 0,
          [`PWM_CTL.MODE${n}`]: 0,
          [`PWM_CTL.USEF${n}`]: 0,
          [`PWM_CTL.PWEN${n}`]: 1,
        },
      },
      {
        id: 'mark-space',
        name: 'mark and space, range RNG',
        count: 'up',
        base: 1,
        top: {
          kind: 'register',
          writes: { [`PWM_RNG${n}`]: { of: 'top', bias: 1 } },
          min: 1,
          max: 2 ** 32 - 2,
        },
        pwm: { channels: [`CH${n}`], high: 'compare' },
        update: { top: 'bottom', compare: 'bottom' },
        writes: {
          [`PWM_CTL.MSEN${n}`]: 1,
          [`PWM_CTL.MODE${n}`]: 0,
          [`PWM_CTL.USEF${n}`]: 0,
          [`PWM_CTL.PWEN${n}`]: 1,
        },
      },
    ],
    channels: [
      {
        id: `CH${n}`,
        name: `PWM ${n}`,
        compare: { [`PWM_DAT${n}`]: { of: 'compare' } },
        queue: {
          writes: { [`PWM_CTL.USEF${n}`]: 1 },
          data: 'PWM_FIF1',
          room: '!PWM_STA.FULL1',
          empty: 'PWM_STA.EMPT1',
          gap: `PWM_STA.GAPO${n}`,
        },
        outputs: outputsOf(n),
      },
    ],
    interrupts: {},
    sequence: [
      // Neither the divider nor the filter of the clock may change while it runs.
      { register: 'CM_PWMCTL', without: ['ENAB'], until: '!CM_PWMCTL.BUSY' },
      { register: 'CM_PWMDIV' },
      { register: 'CM_PWMCTL', until: 'CM_PWMCTL.BUSY' },
      { register: `PWM_RNG${n}` },
      { register: `PWM_DAT${n}` },
      { register: 'PWM_CTL' },
    ],
    sharesPrescalerWith: [n === 1 ? 'PWM2' : 'PWM1'],
  };
}

function selectFields(at: number): Fields {
  const own = PINS.filter((pin) => Math.floor(pin / 10) === at);
  return Object.fromEntries(own.map((pin) => [`FSEL${pin}`, field(3 * (pin % 10), 3)]));
}

/** A match with the free-running microsecond counter, moved on by its interrupt. Matches 0 and 2 are the firmware's. */
function matchOf(n: 1 | 3): Timer {
  return {
    id: `ST${n}`,
    name: `System timer match ${n}`,
    width: 32,
    clock: 'us',
    prescaler: { kind: 'list', options: [{ divide: 1, writes: {} }] },
    modes: [
      {
        id: 'match',
        name: 'moved on by its interrupt',
        count: 'up',
        base: 1,
        top: { kind: 'moved', writes: { [`ST_C${n}`]: { of: 'top', bias: 1 } }, min: 9, max: 2 ** 31 - 1 },
        tick: 'overflow',
        update: { top: 'immediate', compare: 'immediate' },
        writes: {},
      },
    ],
    channels: [],
    counter: 'ST_CLO',
    interrupts: {
      overflow: {
        vector: `system_timer_${n}`,
        number: n,
        enable: { [`IC_ENABLE_1.IRQ${n}`]: 1 },
        disable: { [`IC_DISABLE_1.IRQ${n}`]: 1 },
        flag: `ST_CS.M${n}`,
        clear: 'write-one',
      },
    },
    sequence: [{ register: `ST_C${n}` }],
  };
}

/** Pins by the 32 bits of one register. */
function bank(name: string, at: number): Fields {
  return Object.fromEntries(
    PINS.filter((pin) => Math.floor(pin / 32) === at).map((pin) => [`${name}${pin}`, field(pin % 32)]),
  );
}

/** BCM2835: two PWM channels with ranges of 32 bits on one clock with a divider of 12.12 bits. */
export const bcm2835: Part = {
  format: 'herzschlag-part',
  version: PART_VERSION,
  id: 'bcm2835',
  name: 'BCM2835',
  about: 'two PWM channels of 32 bits on one fractional divider 12.12, two microsecond matches',
  registers: [
    ...[0, 1, 2, 3, 4, 5].map((at) => register(`GPFSEL${at}`, 0x20200000 + 4 * at, selectFields(at))),
    ...[0, 1].flatMap((at) => [
      strobe(`GPSET${at}`, 0x2020001c + 4 * at, bank('SET', at)),
      strobe(`GPCLR${at}`, 0x20200028 + 4 * at, bank('CLR', at)),
    ]),
    strobe('ST_CS', 0x20003000, { M1: field(1), M3: field(3) }),
    register('ST_CLO', 0x20003004),
    register('ST_C1', 0x20003010),
    register('ST_C3', 0x20003018),
    strobe('IC_ENABLE_1', 0x2000b210, { IRQ1: field(1), IRQ3: field(3) }),
    strobe('IC_DISABLE_1', 0x2000b21c, { IRQ1: field(1), IRQ3: field(3) }),
    register('CM_PWMCTL', 0x201010a0, {
      SRC: field(0, 4),
      ENAB: field(4),
      BUSY: field(7),
      MASH: field(9),
      PASSWD: field(24, 8),
    }),
    register('CM_PWMDIV', 0x201010a4, { DIVF: field(0, 12), DIVI: field(12, 12), PASSWD: field(24, 8) }),
    register('PWM_CTL', 0x2020c000, {
      PWEN1: field(0),
      MODE1: field(1),
      POLA1: field(4),
      USEF1: field(5),
      MSEN1: field(7),
      PWEN2: field(8),
      MODE2: field(9),
      POLA2: field(12),
      USEF2: field(13),
      MSEN2: field(15),
    }),
    register('PWM_STA', 0x2020c004, { FULL1: field(0), EMPT1: field(1), GAPO1: field(4), GAPO2: field(5) }),
    register('PWM_FIF1', 0x2020c018),
    register('PWM_RNG1', 0x2020c010),
    register('PWM_DAT1', 0x2020c014),
    register('PWM_RNG2', 0x2020c020),
    register('PWM_DAT2', 0x2020c024),
  ],
  clocks: [
    { kind: 'source', id: 'crystal', name: 'oscillator', hz: 19200000, tolerancePpm: 30, always: true },
    { kind: 'source', id: 'plld', name: 'PLL D', hz: 500000000, tolerancePpm: 30, always: true },
    {
      kind: 'choice',
      id: 'pwmSource',
      name: 'source of the PWM clock',
      from: ['crystal', 'plld'],
      standard: 'crystal',
      start: {
        crystal: sourceOf(1),
        plld: sourceOf(6),
      },
    },
    {
      kind: 'divider',
      id: 'us',
      name: 'system timer, always 1 MHz',
      from: 'crystal',
      by: { kind: 'list', options: [{ divide: 19.2, writes: {} }] },
      standard: 19.2,
    },
    { kind: 'source', id: 'arm', name: 'processor clock', hz: 700000000, tolerancePpm: 30, always: true },
  ],
  bringUp: 'the firmware of the graphics processor brings them up; init sets the clock of the PWM itself',
  defaultClock: { source: 'crystal', sourceHz: 19200000 },
  timers: [channelOf(1), channelOf(2), matchOf(1), matchOf(3)],
  pins: PINS.map((n) => ({
    id: `GPIO${n}`,
    port: 'GPIO',
    bit: n,
    package: {},
    idle: {},
    enable: {},
    software: {
      output: { [selectField(n)]: 1 },
      high: { [`GPSET${Math.floor(n / 32)}.SET${n}`]: 1 },
      low: { [`GPCLR${Math.floor(n / 32)}.CLR${n}`]: 1 },
    },
  })),
  cpu: {
    clock: 'arm',
    entryCycles: 30,
    reloadCycles: 3,
    exitCycles: 20,
    lateCycles: 30,
    handlerCycles: 120,
    operations: {
      word: 4,
      frame: { min: 10, max: 60 },
      save: 4,
      load: { min: 1, max: 40 },
      store: { min: 1, max: 20 },
      read: { min: 60, max: 150 },
      write: { min: 20, max: 60 },
      compute: { min: 0, max: 2 },
      constant: 4,
      branch: { min: 1, max: 10 },
      index: { min: 2, max: 10 },
      table: { min: 1, max: 40 },
      call: { min: 4, max: 60 },
      exclude: { min: 4, max: 20 },
    },
    loopCycles: 4,
    loopJitterCycles: 'none',
    feedCycles: 60,
    // Two accesses to a bus that takes some 150 ns for a read; its queue of 16 values makes up for single late ones.
    sendCycles: 250,
    transfers: true,
    priorities: { scheme: 'single', levels: 1 },
  },
  limits: { pinMilliamps: 16, maxHz: 700000000 },
  code: {
    headers: [],
    registers: 'addresses',
    handler: 'void %_handler(void)',
    call: '%_handler()',
    allow: '__asm volatile ("cpsie i");',
    excludes: 'cpsr',
    setsClock: false,
    bytewise: false,
  },
  leftOut: [
    'serialiser mode of the PWM, its FIFO but for strings of LEDs, direct memory access',
    'clock outputs on pins (GPCLK)',
    'system timer channels 0 and 2, which the graphics processor holds',
  ],
  source:
    'kernel sources for addresses and most bits; peripheral manual, sections 6.2 (GPIO) and 9 (PWM), for the rest',
};
