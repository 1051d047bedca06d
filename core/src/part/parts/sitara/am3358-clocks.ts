import type { ClockNode } from '../../types.ts';

/** The clock path: the crystal, the PLL of the peripherals down to their bus, and that of the processor. */
export const clocks: ClockNode[] = [
  { kind: 'source', id: 'crystal', name: 'crystal', hz: [19200000, 26000000], tolerancePpm: 50 },
  { kind: 'choice', id: 'osc', name: 'main oscillator', from: ['crystal'] },
  {
    kind: 'divider',
    id: 'n',
    name: 'PLL input divider',
    from: 'osc',
    by: { kind: 'range', min: 1, max: 128, scale: 1, writes: {} },
    standard: 24,
    limit: { name: 'PLL input', min: 500000, max: 2500000 },
  },
  {
    kind: 'multiplier',
    id: 'm',
    name: 'PLL multiplier, doubled',
    from: 'n',
    by: { kind: 'list', options: [1600, 1800, 2000].map((divide) => ({ divide, writes: {} })) },
    standard: 2000,
    limit: { name: 'PLL', min: 1000000000, max: 2000000000 },
  },
  {
    kind: 'divider',
    id: 'm4',
    name: 'PLL output divider M4',
    from: 'm',
    by: { kind: 'range', min: 1, max: 31, scale: 1, writes: {} },
    standard: 10,
    limit: { name: 'L3 bus', max: 200000000 },
  },
  {
    kind: 'divider',
    id: 'l4',
    name: 'bus divider',
    from: 'm4',
    by: { kind: 'list', options: [{ divide: 2, writes: {} }] },
    standard: 2,
    limit: { name: 'L4 bus', max: 100000000 },
  },
  {
    kind: 'multiplier',
    id: 'mpu',
    name: 'PLL of the processor',
    from: 'osc',
    by: { kind: 'list', options: [12.5, 25].map((divide) => ({ divide, writes: {} })) },
    standard: 25,
    limit: { name: 'The processor clock', max: 1000000000 },
  },
];
