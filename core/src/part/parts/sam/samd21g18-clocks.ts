import type { BringUpGroup, ClockNode, Register } from '../../types.ts';
import { field, register } from '../common/registers.ts';

/** A register of the clock generators, which take it over some time after the store. */
function generator(name: string, address: number, fields: Register['fields'], width: 16 | 32): Register {
  return { ...register(name, address, fields, width), taken: '!GCLK_STATUS.SYNCBUSY' };
}

/** Registers of the flash memory's wait states, the oscillators and the clock generators. */
export const clockRegisters: Register[] = [
  register('NVMCTRL_CTRLB', 0x41004004, { RWS: field(1, 4) }),
  register('SYSCTRL_PCLKSR', 0x4000080c, {
    XOSCRDY: field(0),
    XOSC32KRDY: field(1),
    DFLLRDY: field(4),
    DFLLLCKF: field(6),
    DFLLLCKC: field(7),
  }),
  {
    ...register(
      'SYSCTRL_XOSC',
      0x40000810,
      { ENABLE: field(1), XTALEN: field(2), ONDEMAND: field(7), GAIN: field(8, 3), STARTUP: field(12, 4) },
      16,
    ),
    reset: 0x80,
  },
  {
    ...register(
      'SYSCTRL_XOSC32K',
      0x40000814,
      { ENABLE: field(1), XTALEN: field(2), EN32K: field(3), ONDEMAND: field(7), STARTUP: field(8, 3) },
      16,
    ),
    reset: 0x80,
  },
  register('SYSCTRL_OSC8M', 0x40000820, { PRESC: field(8, 2) }),
  { ...register('SYSCTRL_DFLLCTRL', 0x40000824, { ENABLE: field(1), MODE: field(2) }, 16), reset: 0x80 },
  register('SYSCTRL_DFLLVAL', 0x40000828, { FINE: field(0, 10), COARSE: field(10, 6) }),
  register('SYSCTRL_DFLLMUL', 0x4000082c, { MUL: field(0, 16), FSTEP: field(16, 10), CSTEP: field(26, 6) }),
  register('GCLK_STATUS', 0x40000c01, { SYNCBUSY: field(7) }, 8),
  generator('GCLK_CLKCTRL', 0x40000c02, { ID: field(0, 6), GEN: field(8, 4), CLKEN: field(14) }, 16),
  generator(
    'GCLK_GENCTRL',
    0x40000c04,
    { ID: field(0, 4), SRC: field(8, 5), GENEN: field(16), IDC: field(17) },
    32,
  ),
  generator('GCLK_GENDIV', 0x40000c08, { ID: field(0, 4), DIV: field(8, 16) }, 32),
];

/** Generator 0 feeds the processor, generator 4 all timers; each takes any of the oscillators and divides. */
export const clocks: ClockNode[] = [
  { kind: 'source', id: 'crystal32k', name: 'watch crystal', hz: 32768, tolerancePpm: 20 },
  { kind: 'source', id: 'crystal', name: 'crystal', hz: [400000, 32000000], tolerancePpm: 30 },
  {
    kind: 'source',
    id: 'osc8m',
    name: 'internal 8 MHz oscillator',
    hz: 8000000,
    tolerancePpm: 20000,
    always: true,
  },
  {
    kind: 'multiplier',
    id: 'dfll',
    name: 'DFLL',
    from: 'crystal32k',
    by: { kind: 'range', min: 1, max: 1500, scale: 1, writes: {} },
    standard: 1464,
    limit: { name: 'DFLL', min: 47000000, max: 48500000 },
    note: 'Closed loop on the 32.768 kHz crystal: 1464 times that is 47.972 352 MHz, not quite 48.',
  },
  {
    kind: 'choice',
    id: 'cpuSource',
    name: 'source of generator 0',
    from: ['dfll', 'osc8m', 'crystal', 'crystal32k'],
    standard: 'dfll',
  },
  {
    kind: 'divider',
    id: 'cpu',
    name: 'divider of generator 0',
    from: 'cpuSource',
    by: { kind: 'range', min: 1, max: 255, scale: 1, writes: {} },
    standard: 1,
    limit: { name: 'The processor clock', max: 48500000 },
  },
  {
    kind: 'choice',
    id: 'timerSource',
    name: 'source of generator 4',
    from: ['dfll', 'osc8m', 'crystal', 'crystal32k'],
    standard: 'dfll',
  },
  {
    kind: 'divider',
    id: 'timers',
    name: 'divider of generator 4',
    from: 'timerSource',
    by: { kind: 'range', min: 1, max: 255, scale: 1, writes: {} },
    standard: 1,
    note: 'Generator 4 is routed to all timers; start-up code sets it up.',
  },
];

/** The amplification that a crystal of some frequency needs. */
function crystal(gain: number, at: { above?: number; upTo?: number }): BringUpGroup {
  return {
    say: 'The crystal.',
    when: { uses: 'crystal', at: { node: 'crystal', ...at } },
    steps: [
      {
        set: {
          'SYSCTRL_XOSC.XTALEN': 1,
          'SYSCTRL_XOSC.GAIN': gain,
          'SYSCTRL_XOSC.STARTUP': 9,
          'SYSCTRL_XOSC.ONDEMAND': 0,
        },
      },
      { set: { 'SYSCTRL_XOSC.ENABLE': 1 } },
      { until: 'SYSCTRL_PCLKSR.XOSCRDY' },
    ],
  };
}

const SOURCE_CODES = [
  ['dfll', 7],
  ['osc8m', 6],
  ['crystal', 0],
  ['crystal32k', 5],
] as const;

/** A generator with its divider and its source, in stores that name it. */
function generatorFrom(id: number, choice: string, divider: string): BringUpGroup[] {
  return SOURCE_CODES.map(([from, code]): BringUpGroup => ({
    say: `Generator ${id}.`,
    when: { uses: divider, takes: { [choice]: from } },
    steps: [
      { set: { 'GCLK_GENDIV.ID': id, 'GCLK_GENDIV.DIV': { of: 'divide' } }, by: divider, whole: true },
      {
        set: {
          'GCLK_GENCTRL.ID': id,
          'GCLK_GENCTRL.SRC': code,
          'GCLK_GENCTRL.GENEN': 1,
          'GCLK_GENCTRL.IDC': 1,
        },
        whole: true,
      },
    ],
  }));
}

/**
 * From the internal 8 MHz oscillator, which runs after reset, to the clocks of the plan: the datasheet, sections 17 (SYSCTRL: a closed loop
 * from the watch crystal over generator 1), 15 (GCLK) and 22 (NVMCTRL). Before the DFLL is set, it runs without being asked for (its errata).
 */
export const bringUp: BringUpGroup[] = [
  {
    say: 'A wait state of the flash memory above 24 MHz, for a supply of 2.7 V and more.',
    when: { at: { node: 'cpu', above: 24_000_000 } },
    steps: [{ set: { 'NVMCTRL_CTRLB.RWS': 1 } }],
  },
  {
    say: 'The internal oscillator, undivided.',
    when: { uses: 'osc8m' },
    steps: [{ set: { 'SYSCTRL_OSC8M.PRESC': 0 } }],
  },
  {
    say: 'The watch crystal.',
    when: { uses: 'crystal32k' },
    steps: [
      {
        set: {
          'SYSCTRL_XOSC32K.XTALEN': 1,
          'SYSCTRL_XOSC32K.EN32K': 1,
          'SYSCTRL_XOSC32K.STARTUP': 6,
          'SYSCTRL_XOSC32K.ONDEMAND': 0,
        },
      },
      { set: { 'SYSCTRL_XOSC32K.ENABLE': 1 } },
      { until: 'SYSCTRL_PCLKSR.XOSC32KRDY' },
    ],
  },
  crystal(0, { upTo: 2_000_000 }),
  crystal(1, { above: 2_000_000, upTo: 4_000_000 }),
  crystal(2, { above: 4_000_000, upTo: 8_000_000 }),
  crystal(3, { above: 8_000_000, upTo: 16_000_000 }),
  crystal(4, { above: 16_000_000 }),
  {
    say: 'The watch crystal to the DFLL, by generator 1.',
    when: { uses: 'dfll' },
    steps: [
      { set: { 'GCLK_GENDIV.ID': 1, 'GCLK_GENDIV.DIV': 1 }, whole: true },
      { set: { 'GCLK_GENCTRL.ID': 1, 'GCLK_GENCTRL.SRC': 5, 'GCLK_GENCTRL.GENEN': 1 }, whole: true },
      { set: { 'GCLK_CLKCTRL.ID': 0, 'GCLK_CLKCTRL.GEN': 1, 'GCLK_CLKCTRL.CLKEN': 1 }, whole: true },
    ],
  },
  {
    say: 'The DFLL: always running, then what it multiplies by, then in a closed loop until it has locked.',
    when: { uses: 'dfll' },
    steps: [
      { set: { 'SYSCTRL_DFLLCTRL.ENABLE': 1 }, whole: true },
      { until: 'SYSCTRL_PCLKSR.DFLLRDY' },
      {
        set: {
          'SYSCTRL_DFLLMUL.MUL': { of: 'divide' },
          'SYSCTRL_DFLLMUL.FSTEP': 511,
          'SYSCTRL_DFLLMUL.CSTEP': 31,
        },
        by: 'dfll',
        whole: true,
      },
      { until: 'SYSCTRL_PCLKSR.DFLLRDY' },
      { set: { 'SYSCTRL_DFLLVAL.FINE': 512, 'SYSCTRL_DFLLVAL.COARSE': 31 }, whole: true },
      { until: 'SYSCTRL_PCLKSR.DFLLRDY' },
      { set: { 'SYSCTRL_DFLLCTRL.ENABLE': 1, 'SYSCTRL_DFLLCTRL.MODE': 1 }, whole: true },
      { until: 'SYSCTRL_PCLKSR.DFLLLCKC' },
      { until: 'SYSCTRL_PCLKSR.DFLLLCKF' },
      { until: 'SYSCTRL_PCLKSR.DFLLRDY' },
    ],
  },
  ...generatorFrom(0, 'cpuSource', 'cpu'),
  ...generatorFrom(4, 'timerSource', 'timers'),
];
