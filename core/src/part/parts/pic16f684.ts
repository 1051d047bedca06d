import type { Part } from '../schema.ts';
import { cycle, picPeriodTimer, picPin } from './pic.ts';
import { bits, register } from './registers.ts';

/** PIC16F684: one PWM block of 10 bits on an 8-bit period timer. */
export const pic16f684: Part = {
  id: 'pic16f684',
  name: 'PIC16F684',
  about: 'one 10-bit PWM output on an 8-bit period timer with postscaler, source clock / 4',
  registers: [
    register('PORTC', 0x07, bits('RC0 RC1 RC2 RC3 RC4 RC5'), 8),
    register('PIR1', 0x0c, bits('- TMR2IF'), 8),
    register('TMR2', 0x11, {}, 8),
    register('T2CON', 0x12, bits('T2CKPS0 T2CKPS1 TMR2ON TOUTPS0 TOUTPS1 TOUTPS2 TOUTPS3'), 8),
    register('CCPR1L', 0x13, {}, 8),
    register('CCP1CON', 0x15, bits('CCP1M0 CCP1M1 CCP1M2 CCP1M3 DC1B0 DC1B1 P1M0 P1M1'), 8),
    register('TRISC', 0x87, bits('TRISC0 TRISC1 TRISC2 TRISC3 TRISC4 TRISC5'), 8),
    register('PIE1', 0x8c, bits('- TMR2IE'), 8),
    register('PR2', 0x92, {}, 8),
  ],
  clocks: [
    { kind: 'source', id: 'crystal', name: 'crystal', hz: [32000, 20000000], tolerancePpm: 50 },
    { kind: 'source', id: 'external', name: 'external clock', hz: [1, 20000000], tolerancePpm: 50 },
    { kind: 'source', id: 'rc8', name: 'internal RC oscillator', hz: 8000000, tolerancePpm: 20000 },
    { kind: 'choice', id: 'osc', name: 'oscillator', from: ['crystal', 'external', 'rc8'] },
    cycle,
  ],
  standardClock: { source: 'crystal', sourceHz: 20000000 },
  timers: [
    picPeriodTimer(
      [{ id: 'CCP1', control: 'CCP1CON', duty: 'CCPR1L', low: ['DC1B0', 'DC1B1'], pin: 'RC5' }],
      'T2CON.TOUTPS0',
    ),
  ],
  pins: [
    picPin('RC0', 'PORT', { DIP14: 10 }),
    picPin('RC1', 'PORT', { DIP14: 9 }),
    picPin('RC2', 'PORT', { DIP14: 8 }),
    picPin('RC3', 'PORT', { DIP14: 7 }),
    picPin('RC4', 'PORT', { DIP14: 6 }),
    picPin('RC5', 'PORT', { DIP14: 5 }),
  ],
  cpu: { clock: 'cycle', entryCycles: 3, exitCycles: 2 },
  limits: { pinMilliamps: 25, maxHz: 20000000 },
  code: { headers: [] },
  verified: true,
  source: 'the include file of an assembler',
};
