import type { BringUpGroup, ClockNode, Register } from '../../types.ts';
import { field, register } from '../common/registers.ts';

/** Registers of the crystal oscillator, the clocks, and the PLL of the system. */
export const clockRegisters: Register[] = [
  register('XOSC_CTRL', 0x40024000, { FREQ_RANGE: field(0, 12), ENABLE: field(12, 12) }),
  register('XOSC_STATUS', 0x40024004, { STABLE: field(31) }),
  register('XOSC_STARTUP', 0x4002400c, { DELAY: field(0, 14) }),
  register('CLOCKS_CLK_REF_CTRL', 0x40008030, { SRC: field(0, 2) }),
  register('CLOCKS_CLK_REF_SELECTED', 0x40008038, { XOSC: field(2) }),
  register('CLOCKS_CLK_SYS_CTRL', 0x4000803c, { SRC: field(0), AUXSRC: field(5, 3) }),
  register('CLOCKS_CLK_SYS_SELECTED', 0x40008044, { REF: field(0), AUX: field(1) }),
  register('PLL_SYS_CS', 0x40028000, { REFDIV: field(0, 6), LOCK: field(31) }),
  {
    ...register('PLL_SYS_PWR', 0x40028004, { PD: field(0), POSTDIVPD: field(3), VCOPD: field(5) }),
    reset: 0x2d,
  },
  register('PLL_SYS_FBDIV_INT', 0x40028008, { FBDIV_INT: field(0, 12) }),
  register('PLL_SYS_PRIM', 0x4002800c, { POSTDIV2: field(12, 3), POSTDIV1: field(16, 3) }),
];

/** The clock path: the crystal, the PLL of the system and the tick of the timer. */
export const clocks: ClockNode[] = [
  { kind: 'source', id: 'crystal', name: 'crystal', hz: [1000000, 15000000], tolerancePpm: 30 },
  { kind: 'choice', id: 'ref', name: 'reference', from: ['crystal'] },
  {
    kind: 'divider',
    id: 'refdiv',
    name: 'PLL input divider',
    from: 'ref',
    by: { kind: 'range', min: 1, max: 63, scale: 1, writes: { 'PLL_SYS_CS.REFDIV': { of: 'divide' } } },
    standard: 1,
    limit: { name: 'PLL input', min: 5000000 },
  },
  {
    kind: 'multiplier',
    id: 'fbdiv',
    name: 'PLL multiplier',
    from: 'refdiv',
    by: {
      kind: 'range',
      min: 16,
      max: 320,
      scale: 1,
      writes: { 'PLL_SYS_FBDIV_INT.FBDIV_INT': { of: 'divide' } },
    },
    standard: 125,
    limit: { name: 'VCO', min: 750000000, max: 1600000000 },
  },
  {
    kind: 'divider',
    id: 'postdiv1',
    name: 'PLL output divider 1',
    from: 'fbdiv',
    by: { kind: 'range', min: 1, max: 7, scale: 1, writes: { 'PLL_SYS_PRIM.POSTDIV1': { of: 'divide' } } },
    standard: 6,
  },
  {
    kind: 'divider',
    id: 'postdiv2',
    name: 'PLL output divider 2',
    from: 'postdiv1',
    by: { kind: 'range', min: 1, max: 7, scale: 1, writes: { 'PLL_SYS_PRIM.POSTDIV2': { of: 'divide' } } },
    standard: 2,
  },
  {
    kind: 'choice',
    id: 'sys',
    name: 'system clock',
    from: ['postdiv2', 'ref'],
    standard: 'postdiv2',
    limit: { name: 'System clock', max: 133000000 },
  },
  {
    kind: 'divider',
    id: 'us',
    name: 'microsecond tick',
    from: 'ref',
    by: {
      kind: 'range',
      min: 1,
      max: 511,
      scale: 1,
      writes: { 'WATCHDOG_TICK.CYCLES': { of: 'divide' }, 'WATCHDOG_TICK.ENABLE': 1 },
    },
    always: true,
    standard: 12,
    note: 'As many cycles of the reference clock as make a microsecond.',
  },
];

/**
 * From the ring oscillator, which runs after reset, to the clock of the plan: the datasheet, sections 2.16 (crystal oscillator), 2.15
 * (clocks: a glitchless switch says in SELECTED what it has taken) and 2.18.2 (PLL).
 */
export const bringUp: BringUpGroup[] = [
  {
    say: 'The crystal: at least a millisecond to start, whatever its frequency.',
    steps: [
      { set: { 'XOSC_CTRL.FREQ_RANGE': 0xaa0 } },
      { set: { 'XOSC_STARTUP.DELAY': 59 } },
      { set: { 'XOSC_CTRL.ENABLE': 0xfab } },
      { until: 'XOSC_STATUS.STABLE' },
    ],
  },
  {
    say: 'The system runs from the reference, the reference from the crystal.',
    steps: [
      { set: { 'CLOCKS_CLK_SYS_CTRL.SRC': 0 } },
      { until: 'CLOCKS_CLK_SYS_SELECTED.REF' },
      { set: { 'CLOCKS_CLK_REF_CTRL.SRC': 2 } },
      { until: 'CLOCKS_CLK_REF_SELECTED.XOSC' },
    ],
  },
  {
    say: 'The PLL of the system: its oscillator first, then its output dividers.',
    when: { takes: { sys: 'postdiv2' } },
    steps: [
      { set: { 'RESETS_RESET.PLL_SYS': 1 } },
      { set: { 'RESETS_RESET.PLL_SYS': 0 } },
      { until: 'RESETS_RESET_DONE.PLL_SYS' },
      { factors: ['refdiv'] },
      { factors: ['fbdiv'] },
      { set: { 'PLL_SYS_PWR.PD': 0, 'PLL_SYS_PWR.VCOPD': 0 } },
      { until: 'PLL_SYS_CS.LOCK' },
      { factors: ['postdiv1', 'postdiv2'] },
      { set: { 'PLL_SYS_PWR.POSTDIVPD': 0 } },
    ],
  },
  {
    say: 'The system clock.',
    when: { takes: { sys: 'postdiv2' } },
    steps: [
      { set: { 'CLOCKS_CLK_SYS_CTRL.AUXSRC': 0 } },
      { set: { 'CLOCKS_CLK_SYS_CTRL.SRC': 1 } },
      { until: 'CLOCKS_CLK_SYS_SELECTED.AUX' },
    ],
  },
];
