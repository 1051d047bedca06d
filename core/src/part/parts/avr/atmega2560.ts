import type { Part } from '../../types.ts';
import { PART_VERSION } from '../../versions.ts';
import {
  avrClockRegister,
  avrClocks,
  avrCode,
  avrCpu,
  avrPins,
  avrPort,
  avrRegisters,
  avrTimer,
  register,
} from './avr.ts';
import { bits } from '../common/registers.ts';

const DIVIDES = [1, 8, 64, 256, 1024];
const SHARED = ['TIMER0', 'TIMER1', 'TIMER3', 'TIMER4', 'TIMER5'];

/** The timers of 16 bits: [number, first address, channel pins, first vector, capture pin]. */
const WIDE = [
  [1, 0x80, ['PB5', 'PB6', 'PB7'], 16, 'PD4'],
  [3, 0x90, ['PE3', 'PE4', 'PE5'], 31, 'PE7'],
  [4, 0xa0, ['PH3', 'PH4', 'PH5'], 41, 'PL0'],
  [5, 0x120, ['PL3', 'PL4', 'PL5'], 46, 'PL1'],
] as const;

function others(n: number): string[] {
  return SHARED.filter((id) => id !== `TIMER${n}`);
}

/** ATmega2560: two 8-bit timers with two channels and four of 16 bits with three. */
export const atmega2560: Part = {
  format: 'herzschlag-part',
  version: PART_VERSION,
  id: 'atmega2560',
  name: 'ATmega2560',
  about: 'two 8-bit timers, four 16-bit timers, 16 channels',
  registers: [
    ...avrPort('A', 0x21),
    ...avrPort('B', 0x24),
    ...avrPort('C', 0x27),
    ...avrPort('D', 0x2a),
    ...avrPort('E', 0x2d),
    ...avrPort('F', 0x30),
    ...avrPort('G', 0x33, 6),
    ...avrPort('H', 0x101),
    ...avrPort('J', 0x104),
    ...avrPort('K', 0x107),
    ...avrPort('L', 0x10a),
    ...[0, 2].map((n) => register(`TIFR${n}`, 0x35 + n, bits(`TOV${n} OCF${n}A OCF${n}B`))),
    ...WIDE.map(([n]) =>
      register(`TIFR${n}`, 0x35 + n, bits(`TOV${n} OCF${n}A OCF${n}B OCF${n}C - ICF${n}`)),
    ),
    ...[0, 2].map((n) => register(`TIMSK${n}`, 0x6e + n, bits(`TOIE${n} OCIE${n}A OCIE${n}B`))),
    ...WIDE.map(([n]) =>
      register(`TIMSK${n}`, 0x6e + n, bits(`TOIE${n} OCIE${n}A OCIE${n}B OCIE${n}C - ICIE${n}`)),
    ),
    avrClockRegister(0x61),
    ...avrRegisters(0, 'AB', { a: 0x44, b: 0x45, count: 0x46, A: 0x47, B: 0x48 }, false),
    ...avrRegisters(2, 'AB', { a: 0xb0, b: 0xb1, count: 0xb2, A: 0xb3, B: 0xb4 }, false),
    ...WIDE.flatMap(([n, at]) =>
      avrRegisters(
        n,
        'ABC',
        { a: at, b: at + 1, count: at + 4, capture: at + 6, A: at + 8, B: at + 10, C: at + 12 },
        true,
      ),
    ),
  ],
  clocks: avrClocks(16000000),
  defaultClock: { source: 'crystal', sourceHz: 16000000 },
  timers: [
    avrTimer({
      n: 0,
      pins: { A: 'PB7', B: 'PG5' },
      vectors: { A: 21, B: 22, overflow: 23 },
      divides: DIVIDES,
      sharesPrescalerWith: others(0),
    }),
    ...WIDE.map(([n, , [a, b, c], first, capturePin]) =>
      avrTimer({
        n,
        pins: { A: a, B: b, C: c },
        vectors: { capture: first, A: first + 1, B: first + 2, C: first + 3, overflow: first + 4 },
        divides: DIVIDES,
        capturePin,
        sharesPrescalerWith: others(n),
      }),
    ),
    avrTimer({
      n: 2,
      pins: { A: 'PB4', B: 'PH6' },
      vectors: { A: 13, B: 14, overflow: 15 },
      divides: [1, 8, 32, 64, 128, 256, 1024],
    }),
  ],
  pins: avrPins(
    ['TQFP100'],
    [
      ...[78, 77, 76, 75, 74, 73, 72, 71].map((place, bit) => ['A', bit, place] as const),
      ...[19, 20, 21, 22, 23, 24, 25, 26].map((place, bit) => ['B', bit, place] as const),
      ...[53, 54, 55, 56, 57, 58, 59, 60].map((place, bit) => ['C', bit, place] as const),
      ...[43, 44, 45, 46, 47, 48, 49, 50].map((place, bit) => ['D', bit, place] as const),
      ...[2, 3, 4, 5, 6, 7, 8, 9].map((place, bit) => ['E', bit, place] as const),
      ...[97, 96, 95, 94, 93, 92, 91, 90].map((place, bit) => ['F', bit, place] as const),
      ...[51, 52, 70, 28, 29, 1].map((place, bit) => ['G', bit, place] as const),
      ...[12, 13, 14, 15, 16, 17, 18, 27].map((place, bit) => ['H', bit, place] as const),
      ...[63, 64, 65, 66, 67, 68, 69, 79].map((place, bit) => ['J', bit, place] as const),
      ...[89, 88, 87, 86, 85, 84, 83, 82].map((place, bit) => ['K', bit, place] as const),
      ...[35, 36, 37, 38, 39, 40, 41, 42].map((place, bit) => ['L', bit, place] as const),
    ],
    { PB7: 'OC0A and OC1C come out here both; only one of them can be connected.' },
  ),
  cpu: avrCpu(8, 5),
  limits: { pinMilliamps: 40, maxHz: 16000000 },
  code: { ...avrCode, compiler: { family: 'avr', device: 'atmega2560', wide: true } },
  leftOut: [
    'Timer 2 on a 32 kHz crystal of its own',
    'clocks from the pins T0 to T5',
    'output compare modulator of OC0A and OC1C',
    'noise canceler and falling edges of the input captures',
  ],
  source: 'the header of the AVR compiler library',
};
