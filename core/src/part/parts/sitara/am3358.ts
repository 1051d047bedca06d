import type {
  CaptureUnit,
  CaptureInput,
  Channel,
  Mode,
  Output,
  Part,
  Pin,
  Register,
  Timer,
  Writes,
} from '../../types.ts';
import { PART_VERSION } from '../../versions.ts';
import { clocks } from './am3358-clocks.ts';
import { captureUnit, captureUnitRegisters } from './am3358-ecap.ts';
import { field, numbered, register, strobe } from '../common/registers.ts';

/** The PWM modules: where they lie, the register of their clock, and their interrupt. */
const MODULES = [
  { n: 0, base: 0x48300000, gate: 0x44e000d4, irq: 86 },
  { n: 1, base: 0x48302000, gate: 0x44e000cc, irq: 87 },
  { n: 2, base: 0x48304000, gate: 0x44e000d8, irq: 88 },
] as const;

/** The general timers: where they lie, their clock's register, their interrupt, and the pin of those that have one. */
const GENERAL = [
  { n: 2, base: 0x48040000, gate: 0x44e00080, irq: 68 },
  { n: 3, base: 0x48042000, gate: 0x44e00084, irq: 69 },
  { n: 4, base: 0x48044000, gate: 0x44e00088, irq: 92 },
  { n: 5, base: 0x48046000, gate: 0x44e000ec, irq: 93 },
  { n: 6, base: 0x48048000, gate: 0x44e000f0, irq: 94 },
  { n: 7, base: 0x4804a000, gate: 0x44e0007c, irq: 95 },
] as const;

/** Pins: general name, ball, pad control register, and what comes out in which mode of the pad. */
const PINS: readonly (readonly [string, string, number, number, string])[] = [
  ['gpio0_2', 'A17', 0x950, 3, 'EHRPWM0A'],
  ['gpio0_3', 'B17', 0x954, 3, 'EHRPWM0B'],
  ['gpio3_14', 'A13', 0x990, 1, 'EHRPWM0A'],
  ['gpio3_15', 'B13', 0x994, 1, 'EHRPWM0B'],
  ['gpio1_18', 'U14', 0x848, 6, 'EHRPWM1A'],
  ['gpio1_19', 'T14', 0x84c, 6, 'EHRPWM1B'],
  ['gpio2_16', 'U3', 0x8c8, 2, 'EHRPWM1A'],
  ['gpio2_17', 'U4', 0x8cc, 2, 'EHRPWM1B'],
  ['gpio0_22', 'U10', 0x820, 4, 'EHRPWM2A'],
  ['gpio0_23', 'T10', 0x824, 4, 'EHRPWM2B'],
  ['gpio2_6', 'R1', 0x8a0, 3, 'EHRPWM2A'],
  ['gpio2_7', 'R2', 0x8a4, 3, 'EHRPWM2B'],
  ['gpio0_7', 'C18', 0x964, 0, 'ECAP0'],
  ['gpio0_6', 'C15', 0x960, 2, 'ECAP1'],
  ['gpio3_17', 'C12', 0x99c, 4, 'ECAP2'],
  ['gpio2_2', 'R7', 0x890, 2, 'TIMER4'],
  ['gpio2_5', 'T6', 0x89c, 2, 'TIMER5'],
  ['gpio2_4', 'U6', 0x898, 2, 'TIMER6'],
  ['gpio2_3', 'T7', 0x894, 2, 'TIMER7'],
];

const PORTS = [0x44e07000, 0x4804c000, 0x481ac000, 0x481ae000];

function portBit(pin: string): { port: number; bit: number } {
  const [port = '0', bit = '0'] = pin.replace('gpio', '').split('_');
  return { port: Number(port), bit: Number(bit) };
}

function pad(pin: string): string {
  return `CONF_${pin.toUpperCase()}`;
}

function pinsOf(output: string): { pin: string; writes: Writes }[] {
  return PINS.filter(([, , , , name]) => name === output).map(([pin, , , code]) => ({
    pin,
    writes: { [`${pad(pin)}.MODE`]: code },
  }));
}

/** The two dividers in series, once for each product: the first of them by even numbers, the second by powers of two. */
function chained(control: string): { divide: number; writes: Writes; same?: Writes[] }[] {
  const found = new Map<number, Writes[]>();
  for (let first = 0; first < 8; first += 1) {
    for (let second = 0; second < 8; second += 1) {
      const product = (first === 0 ? 1 : 2 * first) * 2 ** second;
      const writes = { [`${control}.HSPCLKDIV`]: first, [`${control}.CLKDIV`]: second };
      found.set(product, [...(found.get(product) ?? []), writes]);
    }
  }
  return [...found]
    .map(([divide, [writes = {}, ...same]]) => ({ divide, writes, ...(same.length > 0 ? { same } : {}) }))
    .sort((one, other) => one.divide - other.divide);
}

/** Actions of an output: nothing, low, high, or the other level. */
const CLEAR = 1;
const SET = 2;
const TOGGLE = 3;

/** A channel; the module has one interrupt, and it is kept for the run of the counter. */
function pwmChannel(n: number, letter: 'A' | 'B'): Channel {
  const action = `EPWM${n}_AQCTL${letter}`;
  const [up, down] = letter === 'A' ? ['CAU', 'CAD'] : ['CBU', 'CBD'];
  const pwm = (inverted: boolean): Writes => ({
    [`${action}.ZRO`]: inverted ? CLEAR : SET,
    [`${action}.PRD`]: 0,
    [`${action}.${up}`]: inverted ? SET : CLEAR,
    [`${action}.${down}`]: inverted ? CLEAR : SET,
  });
  const toggle: Writes = {
    [`${action}.ZRO`]: 0,
    [`${action}.PRD`]: TOGGLE,
    [`${action}.${up}`]: 0,
    [`${action}.${down}`]: 0,
  };
  const outputs = pinsOf(`EHRPWM${n}${letter}`).flatMap(({ pin, writes }): Output[] => [
    { pin, drive: 'pwm', polarity: 'normal', writes: { ...writes, ...pwm(false) } },
    { pin, drive: 'pwm', polarity: 'inverted', writes: { ...writes, ...pwm(true) } },
    { pin, drive: 'toggle', polarity: 'normal', writes: { ...writes, ...toggle } },
  ]);
  return {
    id: letter,
    name: `EHRPWM${n}${letter}`,
    compare: { [`EPWM${n}_CMP${letter}`]: { of: 'compare' } },
    outputs,
  };
}

/** The controller's bit that stops masking an interrupt. */
function controller(number: number): Writes {
  return { [`INTC_MIR_CLEAR${Math.floor(number / 32)}.IRQ${number}`]: 1 };
}

function pwmTimer({ n, irq }: (typeof MODULES)[number]): Timer {
  const control = `EPWM${n}_TBCTL`;
  const top = {
    kind: 'register',
    writes: { [`EPWM${n}_TBPRD`]: { of: 'top' } },
    min: 1,
    max: 65535,
  } as const;
  const mode = (id: string, name: string, code: number): Mode => ({
    id,
    name,
    count: code === 0 ? 'up' : 'updown',
    base: code === 0 ? 1 : 0,
    top,
    pwm: { channels: ['A', 'B'], high: 'compare' },
    ...(code === 0
      ? {
          toggle: { channels: ['A', 'B'] },
          tick: 'overflow',
          neutral: [`EPWM${n}_AQCTLA.CAD`, `EPWM${n}_AQCTLB.CBD`],
        }
      : {}),
    update: { top: 'bottom', compare: 'bottom' },
    writes: { [`${control}.CTRMODE`]: code },
  });
  return {
    id: `EPWM${n}`,
    name: `EHRPWM ${n}`,
    width: 16,
    clock: 'l4',
    prescaler: { kind: 'list', options: chained(control) },
    modes: [mode('up', 'counting up, top TBPRD', 0), mode('updown', 'up and down, top TBPRD', 2)],
    channels: [pwmChannel(n, 'A'), pwmChannel(n, 'B')],
    counter: `EPWM${n}_TBCNT`,
    preset: true,
    interrupts: {
      overflow: {
        vector: `EPWM${n}`,
        number: irq,
        enable: { [`EPWM${n}_ETSEL.INTSEL`]: 1, [`EPWM${n}_ETSEL.INTEN`]: 1, ...controller(irq) },
        flag: `EPWM${n}_ETCLR.INT`,
        // The flag comes with the module's interrupt, whether or not the controller masks it.
        polled: `EPWM${n}_ETFLG.INT`,
        pollWith: { [`EPWM${n}_ETSEL.INTSEL`]: 1, [`EPWM${n}_ETSEL.INTEN`]: 1, [`EPWM${n}_ETPS.INTPRD`]: 1 },
        clear: 'write-one',
        postscaler: {
          kind: 'range',
          min: 1,
          max: 3,
          scale: 1,
          writes: { [`EPWM${n}_ETPS.INTPRD`]: { of: 'postscale' } },
        },
      },
    },
    power: {
      [`CM_PER_EPWMSS${n}_CLKCTRL.MODULEMODE`]: 2,
      [`PWMSS_CTRL.TBCLKEN${n}`]: 1,
      [`PWMSS${n}_CLKCONFIG.EPWMCLK_EN`]: 1,
    },
    ready: [`!CM_PER_EPWMSS${n}_CLKCTRL.IDLEST`],
    sequence: [
      { register: `EPWM${n}_TBPRD` },
      { register: `EPWM${n}_CMPA` },
      { register: `EPWM${n}_CMPB` },
      { register: `EPWM${n}_AQCTLA` },
      { register: `EPWM${n}_AQCTLB` },
      { register: `EPWM${n}_ETPS` },
      { register: `EPWM${n}_TBCNT` },
      { register: control },
    ],
  };
}

/** The capture of a general timer, on rising edges. */
function captureOf(n: number, number: number, inputs: readonly CaptureInput[]): CaptureUnit {
  return {
    id: 'IN',
    name: `timer ${n} input`,
    mode: 'reload',
    value: [`DMTIMER${n}_TCAR1`],
    interrupt: {
      vector: `TINT${n}`,
      number,
      enable: { [`DMTIMER${n}_IRQENABLE_SET.TCAR`]: 1, ...controller(number) },
      disable: { [`DMTIMER${n}_IRQENABLE_CLR.TCAR`]: 1 },
      flag: `DMTIMER${n}_IRQSTATUS.TCAR`,
      clear: 'write-one',
    },
    inputs,
  };
}

/** The run of a general timer from its load value to its overflow. */
function reloaded(n: number): Mode['top'] {
  return {
    kind: 'register',
    writes: { [`DMTIMER${n}_TLDR`]: { of: 'top', scale: -1, bias: 2 ** 32 - 1 } },
    min: 1,
    max: 2 ** 32 - 2,
  };
}

/**
 * Overflow and match toggle the output, the overflow first: high from the overflow to the match, which lies one count before the end
 * of the pulse. The counter begins two counts before its overflow, so that this is what comes first.
 */
function pwmMode(n: number): Mode {
  const control = `DMTIMER${n}_TCLR`;
  return {
    id: 'pwm',
    name: 'PWM by overflow and match',
    count: 'up',
    base: 1,
    top: reloaded(n),
    pwm: { channels: ['OUT'], high: 'compare', changes: 'toggle' },
    tick: 'overflow',
    update: { top: 'top', compare: 'immediate' },
    writes: { [`${control}.AR`]: 1, [`${control}.CE`]: 1, [`${control}.ST`]: 1 },
    start: { [`DMTIMER${n}_TCRR`]: 0xfffffffe },
    lead: 2,
  };
}

/** A general timer: it counts up to its overflow and starts again at its load value. */
function generalTimer({ n, irq }: (typeof GENERAL)[number]): Timer {
  const control = `DMTIMER${n}_TCLR`;
  const driven = { [`${control}.PT`]: 1, [`${control}.GPO_CFG`]: 0 };
  const outputs = pinsOf(`TIMER${n}`).flatMap(({ pin, writes }): Output[] => [
    {
      pin,
      drive: 'toggle',
      polarity: 'normal',
      writes: { ...writes, ...driven, [`${control}.TRG`]: 1, [`${control}.SCPWM`]: 0 },
    },
    ...([0, 1] as const).map((rest): Output => ({
      pin,
      drive: 'pwm',
      polarity: rest === 0 ? 'normal' : 'inverted',
      writes: { ...writes, ...driven, [`${control}.TRG`]: 2, [`${control}.SCPWM`]: rest },
    })),
  ]);
  const inputs = pinsOf(`TIMER${n}`).map(({ pin, writes }): CaptureInput => ({
    pin,
    writes: {
      ...writes,
      [`${pad(pin)}.RXACTIVE`]: 1,
      [`${control}.TCM`]: 1,
      [`${control}.CAPT_MODE`]: 0,
      [`${control}.GPO_CFG`]: 1,
    },
  }));
  return {
    id: `DMTIMER${n}`,
    name: `General timer ${n}`,
    width: 32,
    clock: 'osc',
    prescaler: {
      kind: 'list',
      options: [
        { divide: 1, writes: { [`${control}.PRE`]: 0, [`${control}.PTV`]: 0 } },
        ...[0, 1, 2, 3, 4, 5, 6, 7].map((code) => ({
          divide: 2 ** (code + 1),
          writes: { [`${control}.PRE`]: 1, [`${control}.PTV`]: code },
        })),
      ],
    },
    modes: [
      {
        id: 'reload',
        name: 'overflow, reloaded from TLDR',
        count: 'up',
        base: 1,
        top: reloaded(n),
        ...(outputs.length > 0 ? { toggle: { channels: ['OUT'] } } : {}),
        tick: 'overflow',
        update: { top: 'top', compare: 'immediate' },
        writes: { [`${control}.AR`]: 1, [`${control}.CE`]: 0, [`${control}.ST`]: 1 },
        start: { [`DMTIMER${n}_TCRR`]: { of: 'top', scale: -1, bias: 0xffffffff } },
      },
      ...(outputs.length > 0 ? [pwmMode(n)] : []),
    ],
    ...(inputs.length > 0 ? { captures: [captureOf(n, irq, inputs)] } : {}),
    channels:
      outputs.length > 0
        ? [
            {
              id: 'OUT',
              name: `timer ${n} output`,
              compare: { [`DMTIMER${n}_TMAR`]: { of: 'match', bias: 2 ** 32 - 2 } },
              outputs,
            },
          ]
        : [],
    counter: `DMTIMER${n}_TCRR`,
    interrupts: {
      overflow: {
        vector: `TINT${n}`,
        number: irq,
        enable: { [`DMTIMER${n}_IRQENABLE_SET.OVF`]: 1, ...controller(irq) },
        disable: { [`DMTIMER${n}_IRQENABLE_CLR.OVF`]: 1 },
        flag: `DMTIMER${n}_IRQSTATUS.OVF`,
        clear: 'write-one',
      },
    },
    power: { [`CM_PER_TIMER${n}_CLKCTRL.MODULEMODE`]: 2 },
    ready: [`!CM_PER_TIMER${n}_CLKCTRL.IDLEST`],
    sequence: [
      { register: `DMTIMER${n}_TLDR` },
      { register: `DMTIMER${n}_TMAR` },
      { register: `DMTIMER${n}_TCRR` },
      { register: control },
    ],
  };
}

function pwmRegisters({ n, base, gate }: (typeof MODULES)[number]): Register[] {
  const at = base + 0x200;
  const actions = {
    ZRO: field(0, 2),
    PRD: field(2, 2),
    CAU: field(4, 2),
    CAD: field(6, 2),
    CBU: field(8, 2),
    CBD: field(10, 2),
  };
  return [
    register(`CM_PER_EPWMSS${n}_CLKCTRL`, gate, { MODULEMODE: field(0, 2), IDLEST: field(16, 2) }),
    register(`PWMSS${n}_CLKCONFIG`, base + 8, { ECAPCLK_EN: field(0), EPWMCLK_EN: field(8) }),
    register(
      `EPWM${n}_TBCTL`,
      at,
      { CTRMODE: field(0, 2), HSPCLKDIV: field(7, 3), CLKDIV: field(10, 3) },
      16,
    ),
    register(`EPWM${n}_TBCNT`, at + 0x08, {}, 16),
    register(`EPWM${n}_TBPRD`, at + 0x0a, {}, 16),
    register(`EPWM${n}_CMPA`, at + 0x12, {}, 16),
    register(`EPWM${n}_CMPB`, at + 0x14, {}, 16),
    register(`EPWM${n}_AQCTLA`, at + 0x16, actions, 16),
    register(`EPWM${n}_AQCTLB`, at + 0x18, actions, 16),
    register(`EPWM${n}_ETSEL`, at + 0x32, { INTSEL: field(0, 3), INTEN: field(3) }, 16),
    register(`EPWM${n}_ETPS`, at + 0x34, { INTPRD: field(0, 2) }, 16),
    register(`EPWM${n}_ETFLG`, at + 0x36, { INT: field(0) }, 16),
    strobe(`EPWM${n}_ETCLR`, at + 0x38, { INT: field(0) }, 16),
  ];
}

function generalRegisters({ n, base, gate }: (typeof GENERAL)[number]): Register[] {
  return [
    register(`CM_PER_TIMER${n}_CLKCTRL`, gate, { MODULEMODE: field(0, 2), IDLEST: field(16, 2) }),
    strobe(`DMTIMER${n}_IRQSTATUS`, base + 0x28, { MAT: field(0), OVF: field(1), TCAR: field(2) }),
    strobe(`DMTIMER${n}_IRQENABLE_SET`, base + 0x2c, { MAT: field(0), OVF: field(1), TCAR: field(2) }),
    strobe(`DMTIMER${n}_IRQENABLE_CLR`, base + 0x30, { MAT: field(0), OVF: field(1), TCAR: field(2) }),
    register(`DMTIMER${n}_TCLR`, base + 0x38, {
      ST: field(0),
      AR: field(1),
      PTV: field(2, 3),
      PRE: field(5),
      CE: field(6),
      SCPWM: field(7),
      TCM: field(8, 2),
      TRG: field(10, 2),
      PT: field(12),
      CAPT_MODE: field(13),
      GPO_CFG: field(14),
    }),
    register(`DMTIMER${n}_TCRR`, base + 0x3c),
    register(`DMTIMER${n}_TLDR`, base + 0x40),
    register(`DMTIMER${n}_TMAR`, base + 0x4c),
    register(`DMTIMER${n}_TCAR1`, base + 0x50),
  ];
}

/** The register that gives a port its interface clock: the first port's is in the wake-up domain. */
function clockGate(port: number): string {
  return port === 0 ? 'CM_WKUP_GPIO0_CLKCTRL' : `CM_PER_GPIO${port}_CLKCTRL`;
}

/** By port, where that register is (kernel source: am33xx clock control offsets). */
const CLOCK_GATES = [0x44e00408, 0x44e000ac, 0x44e000b0, 0x44e000b4] as const;

function portRegisters(base: number, port: number): Register[] {
  const bits = PINS.map(([pin]) => portBit(pin))
    .filter((place) => place.port === port)
    .map((place) => place.bit);
  return [
    register(clockGate(port), CLOCK_GATES[port] ?? 0, { MODULEMODE: field(0, 2), IDLEST: field(16, 2) }),
    register(`GPIO${port}_OE`, base + 0x134, numbered('PIN', bits)),
    strobe(`GPIO${port}_CLEARDATAOUT`, base + 0x190, numbered('PIN', bits)),
    strobe(`GPIO${port}_SETDATAOUT`, base + 0x194, numbered('PIN', bits)),
  ];
}

const pins: Pin[] = PINS.map(([id, ball]) => {
  const { port, bit } = portBit(id);
  const low: Writes = { [`GPIO${port}_CLEARDATAOUT.PIN${bit}`]: 1 };
  return {
    id,
    port: `gpio${port}`,
    bit,
    package: { ZCZ: ball },
    idle: { [`${clockGate(port)}.MODULEMODE`]: 2 },
    ready: [`!${clockGate(port)}.IDLEST`],
    enable: {},
    software: {
      output: {
        [`${pad(id)}.MODE`]: 7,
        [`GPIO${port}_OE.PIN${bit}`]: 0,
      },
      high: { [`GPIO${port}_SETDATAOUT.PIN${bit}`]: 1 },
      low,
    },
  };
});

/** AM3358: three PWM modules with two dividers in series, three capture units as PWM of 32 bits, and six general timers of 32 bits. */
export const am3358: Part = {
  format: 'herzschlag-part',
  version: PART_VERSION,
  id: 'am3358',
  name: 'AM3358',
  about:
    'three 16-bit PWM modules with two chained dividers, three 32-bit PWM units, six 32-bit timers, up-down mode, PLL',
  registers: [
    register('PWMSS_CTRL', 0x44e10664, numbered('TBCLKEN', [0, 1, 2])),
    ...MODULES.flatMap(pwmRegisters),
    ...MODULES.flatMap(({ n, base }) => captureUnitRegisters(n, base + 0x100)),
    ...GENERAL.flatMap(generalRegisters),
    ...PINS.map(([pin, , offset]) =>
      register(pad(pin), 0x44e10000 + offset, { MODE: field(0, 3), RXACTIVE: field(5) }),
    ),
    ...PORTS.flatMap(portRegisters),
    ...[2].map((word) =>
      strobe(
        `INTC_MIR_CLEAR${word}`,
        0x48200088 + 0x20 * word,
        Object.fromEntries(Array.from({ length: 32 }, (_, bit) => [`IRQ${32 * word + bit}`, field(bit)])),
      ),
    ),
  ],
  clocks,
  bringUp: 'they need supply voltages that another chip has to be told first; the boot loader does both',
  defaultClock: { source: 'crystal', sourceHz: 24000000 },
  timers: [
    ...MODULES.map(pwmTimer),
    ...MODULES.map(({ n }) => captureUnit(n, pinsOf(`ECAP${n}`))),
    ...GENERAL.map(generalTimer),
  ],
  pins,
  cpu: {
    clock: 'mpu',
    entryCycles: 60,
    reloadCycles: 3,
    exitCycles: 40,
    lateCycles: 40,
    handlerCycles: 150,
    operations: {
      word: 4,
      frame: { min: 10, max: 60 },
      save: 4,
      load: { min: 1, max: 40 },
      store: { min: 1, max: 20 },
      read: { min: 100, max: 200 },
      write: { min: 20, max: 100 },
      compute: { min: 0, max: 2 },
      constant: 4,
      branch: { min: 1, max: 14 },
      index: { min: 2, max: 10 },
      table: { min: 1, max: 40 },
      call: { min: 4, max: 60 },
      exclude: { min: 4, max: 20 },
    },
    loopCycles: 2,
    loopJitterCycles: 'none',
    feedCycles: 60,
    // Three accesses to a bus that takes some 150 ns for a read, at 1 GHz.
    sendCycles: 600,
    transfers: true,
    priorities: { scheme: 'levels', levels: 128, masks: true },
  },
  limits: { pinMilliamps: 6, maxHz: 1000000000 },
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
    'a width or frequency of the general timers’ PWM that changes while they run',
    'dead band, chopper, trip zones and high resolution of the ePWM units',
    'captures of the eCAP units, quadrature encoders',
    'programmable real-time units',
  ],
  source:
    'technical reference manual, chapters 6 (interrupts), 8 (clocks), 9 (pads), 15.2 (EHRPWM), 15.3 (eCAP), 20.1 (timers) and 25 (GPIO); match, load and first count of the general timers’ PWM as the kernel’s driver sets them',
};
