import type { BringUpGroup, ClockNode, Register } from '../../types.ts';
import { field, register } from '../common/registers.ts';

/** Registers of the clock generator, and the dividers after it. */
export const clockRegisters: Register[] = [
  register('SIM_CLKDIV1', 0x40048044, {
    OUTDIV4: field(16, 4),
    OUTDIV2: field(24, 4),
    OUTDIV1: field(28, 4),
  }),
  {
    ...register('MCG_C1', 0x40064000, { IREFS: field(2), FRDIV: field(3, 3), CLKS: field(6, 2) }, 8),
    reset: 0x04,
  },
  { ...register('MCG_C2', 0x40064001, { EREFS0: field(2), RANGE0: field(4, 2) }, 8), reset: 0x80 },
  register('MCG_C5', 0x40064004, { PRDIV0: field(0, 5) }, 8),
  register('MCG_C6', 0x40064005, { VDIV0: field(0, 5), PLLS: field(6) }, 8),
  {
    ...register(
      'MCG_S',
      0x40064006,
      { OSCINIT0: field(1), CLKST: field(2, 2), IREFST: field(4), PLLST: field(5), LOCK0: field(6) },
      8,
    ),
    reset: 0x10,
  },
];

/** The clock path: the crystal, the PLL, the dividers of core and bus. */
export const clocks: ClockNode[] = [
  { kind: 'source', id: 'crystal', name: 'crystal', hz: [3000000, 32000000], tolerancePpm: 30 },
  { kind: 'choice', id: 'osc', name: 'oscillator', from: ['crystal'] },
  {
    kind: 'divider',
    id: 'prdiv',
    name: 'PLL input divider',
    from: 'osc',
    by: {
      kind: 'range',
      min: 1,
      max: 25,
      scale: 1,
      writes: { 'MCG_C5.PRDIV0': { of: 'divide', bias: -1 } },
    },
    standard: 8,
    limit: { name: 'PLL input', min: 2000000, max: 4000000 },
  },
  {
    kind: 'multiplier',
    id: 'vdiv',
    name: 'PLL multiplier',
    from: 'prdiv',
    by: {
      kind: 'range',
      min: 24,
      max: 55,
      scale: 1,
      writes: { 'MCG_C6.VDIV0': { of: 'divide', bias: -24 } },
    },
    standard: 36,
    limit: { name: 'PLL', min: 48000000, max: 100000000 },
  },
  {
    kind: 'divider',
    id: 'core',
    name: 'core divider',
    from: 'vdiv',
    by: {
      kind: 'range',
      min: 1,
      max: 16,
      scale: 1,
      writes: { 'SIM_CLKDIV1.OUTDIV1': { of: 'divide', bias: -1 } },
    },
    standard: 1,
    limit: { name: 'The core clock', max: 72000000 },
  },
  {
    kind: 'divider',
    id: 'bus',
    name: 'bus divider',
    from: 'vdiv',
    by: {
      kind: 'range',
      min: 1,
      max: 16,
      scale: 1,
      writes: { 'SIM_CLKDIV1.OUTDIV2': { of: 'divide', bias: -1 } },
    },
    standard: 2,
    limit: { name: 'The bus clock', max: 50000000, notAbove: 'core' },
  },
];

/** The crystal's range, and the divider that brings it below the 39.0625 kHz which the FLL takes at most. */
function crystal(range: number, code: number, at: { above?: number; upTo?: number }): BringUpGroup {
  return {
    say: 'The crystal as the clock of everything, past the FLL.',
    when: { at: { node: 'crystal', ...at } },
    steps: [
      { set: { 'MCG_C2.RANGE0': range, 'MCG_C2.EREFS0': 1 } },
      { set: { 'MCG_C1.CLKS': 2, 'MCG_C1.FRDIV': code, 'MCG_C1.IREFS': 0 } },
      { until: 'MCG_S.OSCINIT0' },
      { until: '!MCG_S.IREFST' },
      { until: 'MCG_S.CLKST=2' },
    ],
  };
}

/** The flash takes at most 25 MHz, an even part of the bus clock. */
function flashDivider(times: 1 | 2, at: { above?: number; upTo?: number }): BringUpGroup {
  return {
    say: `The dividers; the flash gets ${times === 1 ? 'the bus clock' : 'half the bus clock'}, at most 25 MHz.`,
    when: { at: { node: 'bus', ...at } },
    steps: [
      {
        factors: ['core', 'bus'],
        set: { 'SIM_CLKDIV1.OUTDIV4': { of: 'divide', scale: times, bias: -1 } },
        by: 'bus',
      },
    ],
  };
}

/**
 * From the internal reference with the FLL, which runs after reset, over the crystal to the PLL: the reference manual, sections 24.4.1 (modes of
 * the clock generator and the ways between them), 24.5.3 (an example of them) and 5.5 (the clocks of the parts).
 */
export const bringUp: BringUpGroup[] = [
  crystal(1, 2, { upTo: 5_000_000 }),
  crystal(1, 3, { above: 5_000_000, upTo: 8_000_000 }),
  crystal(2, 3, { above: 8_000_000, upTo: 10_000_000 }),
  crystal(2, 4, { above: 10_000_000, upTo: 20_000_000 }),
  crystal(2, 5, { above: 20_000_000 }),
  {
    say: 'The PLL, while the crystal still drives everything.',
    steps: [
      { factors: ['prdiv'] },
      { factors: ['vdiv'], set: { 'MCG_C6.PLLS': 1 } },
      { until: 'MCG_S.PLLST' },
      { until: 'MCG_S.LOCK0' },
    ],
  },
  flashDivider(1, { upTo: 25_000_000 }),
  flashDivider(2, { above: 25_000_000 }),
  { say: 'The PLL as the clock.', steps: [{ set: { 'MCG_C1.CLKS': 0 } }, { until: 'MCG_S.CLKST=3' }] },
];
