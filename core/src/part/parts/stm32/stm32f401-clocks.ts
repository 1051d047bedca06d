import type { ClockNode } from '../../types.ts';

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
