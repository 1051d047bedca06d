import type { Part, Pin, Register, Writes } from '../../types.ts';
import { PART_VERSION } from '../../versions.ts';
import {
  CORE_NAMES,
  cortexCode,
  cortexCpu,
  enableRegisters,
  priorityRegisters,
  systemTimer,
  systemTimerRegisters,
} from '../common/cortex.ts';
import { bringUp, clockRegisters, clocks } from './samd21g18-clocks.ts';
import { field, numbered, register, strobe } from '../common/registers.ts';
import { GROUPS, PINS, counterTimers, controlTimers, timerRegisters } from './samd21g18-timers.ts';

const SYSTICK = ['SYSTICK_CSR', 'SYSTICK_RVR', 'SYSTICK_CVR'] as const;

function portBit(pin: string): { port: string; bit: number } {
  return { port: pin.charAt(1), bit: Number(pin.slice(2)) };
}

function portRegisters(port: 'A' | 'B', base: number): Register[] {
  const own = PINS.filter(([pin]) => portBit(pin).port === port).map(([pin]) => portBit(pin).bit);
  const pairs = [...new Set(own.map((bit) => bit >> 1))].sort((one, other) => one - other);
  return [
    strobe(`PORT_${port}_DIRSET`, base + 0x08, numbered('PIN', own)),
    strobe(`PORT_${port}_OUTCLR`, base + 0x14, numbered('PIN', own)),
    strobe(`PORT_${port}_OUTSET`, base + 0x18, numbered('PIN', own)),
    ...pairs.map((n) =>
      register(`PORT_${port}_PMUX${n}`, base + 0x30 + n, { PMUXE: field(0, 4), PMUXO: field(4, 4) }, 8),
    ),
    ...own.map((bit) => register(`PORT_${port}_PINCFG${bit}`, base + 0x40 + bit, { PMUXEN: field(0) }, 8)),
  ];
}

const pins: Pin[] = PINS.map(([id, place]) => {
  const { port, bit } = portBit(id);
  const mux = `PORT_${port}_PINCFG${bit}.PMUXEN`;
  const idle: Writes = { [`PORT_${port}_OUTCLR.PIN${bit}`]: 1 };
  return {
    id,
    port: `PORT${port}`,
    bit,
    package: { QFN48: place },
    idle,
    enable: { [mux]: 1 },
    software: {
      output: { [mux]: 0, [`PORT_${port}_DIRSET.PIN${bit}`]: 1 },
      high: { [`PORT_${port}_OUTSET.PIN${bit}`]: 1 },
      low: idle,
    },
  };
});

/** Values that the headers of the family have as macros: modes, waveforms and clocks, each in its place in the register. */
const MACROS: Readonly<Record<string, number>> = {
  ...Object.fromEntries(
    ['COUNT16', 'COUNT8', 'COUNT32'].map((name, at) => [`TC_CTRLA_MODE_${name}`, at << 2]),
  ),
  ...Object.fromEntries(
    ['NFRQ', 'MFRQ', 'NPWM', 'MPWM'].map((name, at) => [`TC_CTRLA_WAVEGEN_${name}`, at << 5]),
  ),
  ...Object.fromEntries(
    ['NFRQ', 'MFRQ', 'NPWM', '', 'DSCRITICAL', 'DSBOTTOM', 'DSBOTH', 'DSTOP'].flatMap((name, at) =>
      name === '' ? [] : [[`TCC_WAVE_WAVEGEN_${name}`, at]],
    ),
  ),
  GCLK_CLKCTRL_ID_TCC0_TCC1: 0x1a,
  GCLK_CLKCTRL_ID_TCC2_TC3: 0x1b,
  GCLK_CLKCTRL_ID_TC4_TC5: 0x1c,
  ...Object.fromEntries([0, 1, 2, 3, 4, 5, 6, 7].map((at) => [`GCLK_CLKCTRL_GEN_GCLK${at}`, at << 8])),
};

/** SAMD21G18: three 16-bit timers, two of 24 bits and one of 16 for control, on clock generators of their own. */
export const samd21g18: Part = {
  format: 'herzschlag-part',
  version: PART_VERSION,
  id: 'samd21g18',
  name: 'SAMD21G18',
  about:
    'two 24-bit and one 16-bit control timer, three 16-bit timers, a 32-bit pair, 14 channels, clock generators',
  registers: [
    register('PM_APBCMASK', 0x40000420, {
      ...Object.fromEntries(GROUPS.map(({ id, gate }) => [id, field(gate)])),
    }),
    ...clockRegisters,
    ...timerRegisters(),
    ...portRegisters('A', 0x41004400),
    ...portRegisters('B', 0x41004480),
    ...enableRegisters(1),
    ...priorityRegisters(8),
    ...systemTimerRegisters(SYSTICK),
  ],
  clocks,
  bringUp,
  defaultClock: { source: 'crystal32k', sourceHz: 32768 },
  timers: [...controlTimers(), ...counterTimers(), systemTimer(SYSTICK, 'cpu', false)],
  pins,
  // One wait state of the flash at 48 MHz, twice.
  cpu: cortexCpu('cpu', 15, 13, 4, 2),
  limits: { pinMilliamps: 7, maxHz: 48000000 },
  code: {
    ...cortexCode,
    handler: 'void %_Handler(void)',
    call: '%_Handler()',
    compiler: { family: 'thumb', device: 'cortex-m0plus' },
    device: {
      header: '"samd21g18a.h"',
      names: [
        { registers: 'TCC#_CC#', as: 'TCC#->CC[#].reg' },
        { registers: 'TCC#_CCB#', as: 'TCC#->CCB[#].reg' },
        { registers: 'TCC#_*', as: 'TCC#->*.reg' },
        { registers: 'TC#_MODE_#_CC#', as: 'TC#->COUNT#.CC[#].reg' },
        { registers: 'TC#_MODE_#_COUNT', as: 'TC#->COUNT#.COUNT.reg' },
        // All modes have these in one place.
        { registers: 'TC#_*', as: 'TC#->COUNT16.*.reg' },
        ...['A', 'B'].flatMap((port, group) => [
          { registers: `PORT_${port}_PMUX#`, as: `PORT->Group[${group}].PMUX[#].reg` },
          { registers: `PORT_${port}_PINCFG#`, as: `PORT->Group[${group}].PINCFG[#].reg` },
          { registers: `PORT_${port}_*`, as: `PORT->Group[${group}].*.reg` },
        ]),
        { registers: 'PM_*', as: 'PM->*.reg' },
        { registers: 'GCLK_*', as: 'GCLK->*.reg' },
        { registers: 'SYSCTRL_*', as: 'SYSCTRL->*.reg' },
        { registers: 'NVMCTRL_*', as: 'NVMCTRL->*.reg' },
        ...CORE_NAMES,
      ],
    },
    macros: MACROS,
  },
  leftOut: [
    'captures',
    '8-bit mode of the TCs',
    'pattern generation, dead-time insertion, ramps, dithering and faults of the TCCs',
    'event system',
  ],
  source:
    'register addresses from the debug symbols of a firmware; bits from the datasheet, sections 15 (GCLK), 16 (PM), 17 (SYSCTRL), 22 (NVMCTRL), 23 (PORT), 30 (TC) and 31 (TCC)',
};
