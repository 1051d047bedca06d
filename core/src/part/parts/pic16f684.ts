import type { Part } from '../schema.ts';
import {
  cycle,
  picCapture,
  picCode,
  picCpu,
  picEnable,
  picPeriodTimer,
  picPin,
  picTimer0,
  picTimer1,
} from './pic.ts';
import { bits, register } from './registers.ts';

/** PIC16F684: one PWM block of 10 bits on an 8-bit period timer. */
export const pic16f684: Part = {
  id: 'pic16f684',
  name: 'PIC16F684',
  about:
    'one 10-bit PWM output on an 8-bit period timer with postscaler, two timers that overflow, source clock / 4',
  registers: [
    register('TMR0', 0x01, {}, 8),
    register('PORTA', 0x05, bits('RA0 RA1 RA2 RA3 RA4 RA5'), 8),
    register('PORTC', 0x07, bits('RC0 RC1 RC2 RC3 RC4 RC5'), 8),
    register('INTCON', 0x0b, bits('- - TMR0IF - - TMR0IE PEIE GIE'), 8),
    register('PIR1', 0x0c, bits('TMR1IF TMR2IF - - - CCP1IF'), 8),
    register('TMR1L', 0x0e, {}, 8),
    register('TMR1H', 0x0f, {}, 8),
    register('T1CON', 0x10, bits('TMR1ON TMR1CS - - T1CKPS0 T1CKPS1'), 8),
    register('TMR2', 0x11, {}, 8),
    register('T2CON', 0x12, bits('T2CKPS0 T2CKPS1 TMR2ON TOUTPS0 TOUTPS1 TOUTPS2 TOUTPS3'), 8),
    register('CCPR1L', 0x13, {}, 8),
    register('CCPR1H', 0x14, {}, 8),
    register('CCP1CON', 0x15, bits('CCP1M0 CCP1M1 CCP1M2 CCP1M3 DC1B0 DC1B1 P1M0 P1M1'), 8),
    register('OPTION_REG', 0x81, bits('PS0 PS1 PS2 PSA - T0CS'), 8),
    register('TRISA', 0x85, bits('TRISA0 TRISA1 TRISA2 TRISA3 TRISA4 TRISA5'), 8),
    register('TRISC', 0x87, bits('TRISC0 TRISC1 TRISC2 TRISC3 TRISC4 TRISC5'), 8),
    register('PIE1', 0x8c, bits('TMR1IE TMR2IE - - - CCP1IE'), 8),
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
      'TOUTPS',
    ),
    picTimer0({
      control: 'OPTION_REG',
      prescale: 'PS',
      width: 8,
      writes: { 'OPTION_REG.T0CS': 0 },
      reload: { TMR0: { of: 'reload' } },
    }),
    picTimer1(1, picEnable('PIE1.TMR1IE'), 'PIR1.TMR1IF', [
      picCapture(1, 'RC5', picEnable('PIE1.CCP1IE'), 'PIR1.CCP1IF'),
    ]),
  ],
  pins: [
    picPin('RA0', 'PORT', { DIP14: 13 }),
    picPin('RA1', 'PORT', { DIP14: 12 }),
    picPin('RA2', 'PORT', { DIP14: 11 }),
    picPin('RA4', 'PORT', { DIP14: 3 }),
    picPin('RA5', 'PORT', { DIP14: 2 }),
    picPin('RC0', 'PORT', { DIP14: 10 }),
    picPin('RC1', 'PORT', { DIP14: 9 }),
    picPin('RC2', 'PORT', { DIP14: 8 }),
    picPin('RC3', 'PORT', { DIP14: 7 }),
    picPin('RC4', 'PORT', { DIP14: 6 }),
    picPin('RC5', 'PORT', { DIP14: 5 }),
  ],
  cpu: picCpu,
  limits: { pinMilliamps: 25, maxHz: 20000000 },
  code: picCode,
  verified: true,
  source: 'the include file of an assembler',
};
