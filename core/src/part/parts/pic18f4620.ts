import type { Part } from '../schema.ts';
import { cycle, picPeriodTimer, picPin } from './pic.ts';
import { bits, register } from './registers.ts';

const EIGHT = [0, 1, 2, 3, 4, 5, 6, 7];

/** PIC18F4620: two PWM blocks of 10 bits that share an 8-bit period timer. */
export const pic18f4620: Part = {
  id: 'pic18f4620',
  name: 'PIC18F4620',
  about: 'two 10-bit PWM outputs on an 8-bit period timer with postscaler, source clock / 4',
  registers: [
    register('LATC', 0xf8b, bits(EIGHT.map((bit) => `LATC${bit}`).join(' ')), 8),
    register('TRISC', 0xf94, bits(EIGHT.map((bit) => `TRISC${bit}`).join(' ')), 8),
    register('PIE1', 0xf9d, bits('- TMR2IE'), 8),
    register('PIR1', 0xf9e, bits('- TMR2IF'), 8),
    register('CCP2CON', 0xfba, bits('CCP2M0 CCP2M1 CCP2M2 CCP2M3 DC2B0 DC2B1'), 8),
    register('CCPR2L', 0xfbb, {}, 8),
    register('CCP1CON', 0xfbd, bits('CCP1M0 CCP1M1 CCP1M2 CCP1M3 DC1B0 DC1B1 P1M0 P1M1'), 8),
    register('CCPR1L', 0xfbe, {}, 8),
    register('T2CON', 0xfca, bits('T2CKPS0 T2CKPS1 TMR2ON T2OUTPS0 T2OUTPS1 T2OUTPS2 T2OUTPS3'), 8),
    register('PR2', 0xfcb, {}, 8),
    register('TMR2', 0xfcc, {}, 8),
  ],
  clocks: [
    { kind: 'source', id: 'crystal', name: 'crystal', hz: [32000, 25000000], tolerancePpm: 50 },
    { kind: 'source', id: 'external', name: 'external clock', hz: [1, 40000000], tolerancePpm: 50 },
    { kind: 'source', id: 'rc8', name: 'internal RC oscillator', hz: 8000000, tolerancePpm: 20000 },
    { kind: 'choice', id: 'input', name: 'oscillator', from: ['crystal', 'external', 'rc8'] },
    {
      kind: 'multiplier',
      id: 'osc',
      name: 'PLL',
      from: 'input',
      by: {
        kind: 'list',
        options: [
          { divide: 1, writes: {} },
          { divide: 4, writes: {} },
        ],
      },
      standard: 1,
      limit: { name: 'The oscillator', most: 40000000 },
      note: 'Times 4 with the HSPLL setting of the configuration bits.',
    },
    cycle,
  ],
  standardClock: { source: 'crystal', sourceHz: 10000000, settings: { osc: 4 } },
  timers: [
    picPeriodTimer(
      [
        { id: 'CCP1', control: 'CCP1CON', duty: 'CCPR1L', low: ['DC1B0', 'DC1B1'], pin: 'RC2' },
        { id: 'CCP2', control: 'CCP2CON', duty: 'CCPR2L', low: ['DC2B0', 'DC2B1'], pin: 'RC1' },
      ],
      'T2CON.T2OUTPS0',
    ),
  ],
  pins: [15, 16, 17, 18, 23, 24, 25, 26].map((place, bit) => picPin(`RC${bit}`, 'LAT', { DIP40: place })),
  cpu: { clock: 'cycle', entryCycles: 3, exitCycles: 2 },
  limits: { pinMilliamps: 25, maxHz: 40000000 },
  code: { headers: [] },
  verified: true,
  source: 'the include file of an assembler',
};
