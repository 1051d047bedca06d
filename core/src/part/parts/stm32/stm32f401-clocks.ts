import type { BringUpGroup, ClockNode, Register } from '../../types.ts';
import { field, register } from '../common/registers.ts';

/** Registers of the oscillators, the PLL, the buses, and the wait states of the flash memory. */
export const clockRegisters: Register[] = [
  {
    ...register('RCC_CR', 0x40023800, {
      HSEON: field(16),
      HSERDY: field(17),
      HSEBYP: field(18),
      PLLON: field(24),
      PLLRDY: field(25),
    }),
    reset: 0x83,
  },
  {
    ...register('RCC_PLLCFGR', 0x40023804, {
      PLLM: field(0, 6),
      PLLN: field(6, 9),
      PLLP: field(16, 2),
      PLLSRC: field(22),
    }),
    reset: 0x24003010,
  },
  register('FLASH_ACR', 0x40023c00, {
    LATENCY: field(0, 4),
    PRFTEN: field(8),
    ICEN: field(9),
    DCEN: field(10),
  }),
  register('RCC_CFGR', 0x40023808, {
    SW: field(0, 2),
    SWS: field(2, 2),
    HPRE: field(4, 4),
    PPRE1: field(10, 3),
    PPRE2: field(13, 3),
  }),
];

const HPRE: readonly (readonly [number, number])[] = [
  [1, 0],
  [2, 8],
  [4, 9],
  [8, 10],
  [16, 11],
  [64, 12],
  [128, 13],
  [256, 14],
  [512, 15],
];

const PPRE: readonly (readonly [number, number])[] = [
  [1, 0],
  [2, 4],
  [4, 5],
  [8, 6],
  [16, 7],
];

function list(codes: readonly (readonly [number, number])[], key: string) {
  return {
    kind: 'list',
    options: codes.map(([divide, code]) => ({ divide, writes: { [key]: code } })),
  } as const;
}

/** The clock path: three sources, the PLL, and the buses whose timers run at twice their clock. */
export const clocks: ClockNode[] = [
  {
    kind: 'source',
    id: 'hsi',
    name: 'internal RC oscillator',
    hz: 16000000,
    tolerancePpm: 10000,
    always: true,
  },
  { kind: 'source', id: 'crystal', name: 'crystal', hz: [4000000, 26000000], tolerancePpm: 30 },
  { kind: 'source', id: 'external', name: 'external clock', hz: [1000000, 50000000], tolerancePpm: 50 },
  { kind: 'choice', id: 'pllSource', name: 'input of the PLL', from: ['hsi', 'crystal', 'external'] },
  {
    kind: 'divider',
    id: 'pllM',
    name: 'PLL input divider M',
    from: 'pllSource',
    by: { kind: 'range', min: 2, max: 63, scale: 1, writes: { 'RCC_PLLCFGR.PLLM': { of: 'divide' } } },
    standard: 8,
    limit: { name: 'PLL input', min: 950000, max: 2100000 },
  },
  {
    kind: 'multiplier',
    id: 'pllN',
    name: 'PLL multiplier N',
    from: 'pllM',
    by: { kind: 'range', min: 192, max: 432, scale: 1, writes: { 'RCC_PLLCFGR.PLLN': { of: 'divide' } } },
    standard: 336,
    limit: { name: 'VCO', min: 192000000, max: 432000000 },
  },
  {
    kind: 'divider',
    id: 'pllP',
    name: 'PLL output divider P',
    from: 'pllN',
    by: list(
      [
        [2, 0],
        [4, 1],
        [6, 2],
        [8, 3],
      ],
      'RCC_PLLCFGR.PLLP',
    ),
    standard: 4,
    limit: { name: 'PLL output', max: 84000000 },
  },
  {
    kind: 'choice',
    id: 'sys',
    name: 'system clock',
    from: ['pllP', 'crystal', 'external', 'hsi'],
    standard: 'pllP',
    limit: { name: 'System clock', max: 84000000 },
  },
  {
    kind: 'divider',
    id: 'ahb',
    name: 'AHB divider',
    from: 'sys',
    by: list(HPRE, 'RCC_CFGR.HPRE'),
    standard: 1,
  },
  {
    kind: 'divider',
    id: 'apb1',
    name: 'APB1 divider',
    from: 'ahb',
    by: list(PPRE, 'RCC_CFGR.PPRE1'),
    standard: 2,
    limit: { name: 'APB1', max: 42000000 },
    note: 'Timers on this bus get twice its clock when the divider is not 1.',
  },
  {
    kind: 'divider',
    id: 'apb2',
    name: 'APB2 divider',
    from: 'ahb',
    by: list(PPRE, 'RCC_CFGR.PPRE2'),
    standard: 1,
    limit: { name: 'APB2', max: 84000000 },
  },
  { kind: 'doubler', id: 'apb1t', name: 'timers of APB1', from: 'apb1', unless: 'apb1' },
  { kind: 'doubler', id: 'apb2t', name: 'timers of APB2', from: 'apb2', unless: 'apb2' },
];

/** Wait states of the flash memory from 2.7 V on: one for every 30 MHz begun above the first (section 3.4.1). */
function waitStates(count: number, range: { above?: number; upTo?: number }): BringUpGroup {
  return {
    say: `Wait states of the flash memory: ${count}, for a supply of 2.7 V and more.`,
    when: { at: { node: 'ahb', ...range } },
    steps: [
      {
        set: { 'FLASH_ACR.LATENCY': count, 'FLASH_ACR.PRFTEN': 1, 'FLASH_ACR.ICEN': 1, 'FLASH_ACR.DCEN': 1 },
      },
      { until: count === 0 ? '!FLASH_ACR.LATENCY' : `FLASH_ACR.LATENCY=${count}` },
    ],
  };
}

function systemClock(code: number, from: string): BringUpGroup {
  return {
    say: 'The system clock.',
    when: { takes: { sys: from } },
    steps: [
      { set: { 'RCC_CFGR.SW': code } },
      { until: code === 0 ? '!RCC_CFGR.SWS' : `RCC_CFGR.SWS=${code}` },
    ],
  };
}

/**
 * From the internal oscillator, which runs after reset, to the clock of the plan: the reference manual, sections 6.2 (clocks), 6.3.2
 * (PLL, which is set while it is off) and 3.4.2 (wait states before the clock gets faster).
 */
export const bringUp: BringUpGroup[] = [
  {
    say: 'The crystal.',
    when: { uses: 'crystal' },
    steps: [{ set: { 'RCC_CR.HSEBYP': 0, 'RCC_CR.HSEON': 1 } }, { until: 'RCC_CR.HSERDY' }],
  },
  {
    say: 'The external clock, past the oscillator.',
    when: { uses: 'external' },
    steps: [{ set: { 'RCC_CR.HSEBYP': 1 } }, { set: { 'RCC_CR.HSEON': 1 } }, { until: 'RCC_CR.HSERDY' }],
  },
  ...(
    [
      ['hsi', 0],
      ['crystal', 1],
      ['external', 1],
    ] as const
  ).map(([from, code]): BringUpGroup => ({
    say: 'The PLL, which can be set while it does not run.',
    when: { uses: 'pllP', takes: { pllSource: from } },
    steps: [
      { set: { 'RCC_CR.PLLON': 0 } },
      { until: '!RCC_CR.PLLRDY' },
      { factors: ['pllM', 'pllN', 'pllP'], set: { 'RCC_PLLCFGR.PLLSRC': code } },
      { set: { 'RCC_CR.PLLON': 1 } },
      { until: 'RCC_CR.PLLRDY' },
    ],
  })),
  waitStates(0, { upTo: 30000000 }),
  waitStates(1, { above: 30000000, upTo: 60000000 }),
  waitStates(2, { above: 60000000 }),
  {
    say: 'The dividers of the buses, before the clock gets faster.',
    steps: [{ factors: ['ahb', 'apb1', 'apb2'] }],
  },
  systemClock(0, 'hsi'),
  systemClock(1, 'crystal'),
  systemClock(1, 'external'),
  systemClock(2, 'pllP'),
];
