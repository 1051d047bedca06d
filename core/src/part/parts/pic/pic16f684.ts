import type { Part, Pin } from '../../types.ts';
import { PART_VERSION } from '../../versions.ts';
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
import { bits, register } from '../common/registers.ts';

/**
 * A pin that is an analog input after reset. Its port reads zero then, so that a change of another pin of the port would put it
 * low (datasheet sections 4.2.5 and 8): the comparators are off and the pin is digital first.
 */
function analog(pin: Pin, input: number): Pin {
  const digital = { 'CMCON0.CM0': 1, 'CMCON0.CM1': 1, 'CMCON0.CM2': 1, [`ANSEL.ANS${input}`]: 0 };
  return { ...pin, idle: { ...digital, ...pin.idle } };
}

/** PIC16F684: one PWM block of 10 bits on an 8-bit period timer. */
export const pic16f684: Part = {
  format: 'herzschlag-part',
  version: PART_VERSION,
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
    { ...register('OSCCON', 0x8f, bits('SCS LTS HTS OSTS IRCF0 IRCF1 IRCF2'), 8), reset: 0x60 },
    register('T1CON', 0x10, bits('TMR1ON TMR1CS - - T1CKPS0 T1CKPS1'), 8),
    register('TMR2', 0x11, {}, 8),
    register('T2CON', 0x12, bits('T2CKPS0 T2CKPS1 TMR2ON TOUTPS0 TOUTPS1 TOUTPS2 TOUTPS3'), 8),
    register('CCPR1L', 0x13, {}, 8),
    register('CCPR1H', 0x14, {}, 8),
    register('CMCON0', 0x19, bits('CM0 CM1 CM2'), 8),
    register('CCP1CON', 0x15, bits('CCP1M0 CCP1M1 CCP1M2 CCP1M3 DC1B0 DC1B1 P1M0 P1M1'), 8),
    { ...register('OPTION_REG', 0x81, bits('PS0 PS1 PS2 PSA T0SE T0CS INTEDG NOT_RAPU'), 8), reset: 0xff },
    { ...register('TRISA', 0x85, bits('TRISA0 TRISA1 TRISA2 TRISA3 TRISA4 TRISA5'), 8), reset: 0x3f },
    { ...register('TRISC', 0x87, bits('TRISC0 TRISC1 TRISC2 TRISC3 TRISC4 TRISC5'), 8), reset: 0x3f },
    { ...register('ANSEL', 0x91, bits('ANS0 ANS1 ANS2 ANS3 ANS4 ANS5 ANS6 ANS7'), 8), reset: 0xff },
    register('PIE1', 0x8c, bits('TMR1IE TMR2IE - - - CCP1IE'), 8),
    { ...register('PR2', 0x92, {}, 8), reset: 0xff },
  ],
  clocks: [
    {
      kind: 'source',
      id: 'crystal',
      name: 'crystal',
      hz: [32000, 20000000],
      tolerancePpm: 50,
      needs: 'configuration bits FOSC = HS; up to 4 MHz XT, for a watch crystal LP',
    },
    {
      kind: 'source',
      id: 'external',
      name: 'external clock',
      hz: [1, 20000000],
      tolerancePpm: 50,
      needs: 'configuration bits FOSC = EC',
    },
    {
      kind: 'source',
      id: 'rc8',
      name: 'internal RC oscillator',
      hz: 8000000,
      tolerancePpm: 20000,
      needs: 'configuration bits FOSC = INTOSCIO',
    },
    { kind: 'choice', id: 'osc', name: 'oscillator', from: ['crystal', 'external', 'rc8'] },
    cycle,
  ],
  bringUp: [
    {
      say: 'The internal oscillator at 8 MHz; after reset it runs at 4.',
      when: { uses: 'rc8' },
      steps: [{ set: { 'OSCCON.IRCF0': 1, 'OSCCON.IRCF1': 1, 'OSCCON.IRCF2': 1 } }, { until: 'OSCCON.HTS' }],
    },
  ],
  defaultClock: { source: 'crystal', sourceHz: 20000000 },
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
      neutral: ['OPTION_REG.T0SE', 'OPTION_REG.INTEDG', 'OPTION_REG.NOT_RAPU'],
    }),
    picTimer1(1, picEnable('PIE1.TMR1IE'), 'PIR1.TMR1IF', [
      picCapture(1, 'RC5', picEnable('PIE1.CCP1IE'), 'PIR1.CCP1IF'),
    ]),
  ],
  pins: [
    analog(picPin('RA0', 'PORT', { DIP14: 13 }), 0),
    analog(picPin('RA1', 'PORT', { DIP14: 12 }), 1),
    analog(picPin('RA2', 'PORT', { DIP14: 11 }), 2),
    analog(picPin('RA4', 'PORT', { DIP14: 3 }), 3),
    picPin('RA5', 'PORT', { DIP14: 2 }),
    analog(picPin('RC0', 'PORT', { DIP14: 10 }), 4),
    analog(picPin('RC1', 'PORT', { DIP14: 9 }), 5),
    analog(picPin('RC2', 'PORT', { DIP14: 8 }), 6),
    analog(picPin('RC3', 'PORT', { DIP14: 7 }), 7),
    picPin('RC4', 'PORT', { DIP14: 6 }),
    picPin('RC5', 'PORT', { DIP14: 5 }),
  ],
  cpu: picCpu,
  limits: { pinMilliamps: 25, maxHz: 20000000 },
  code: { ...picCode, assembly: { family: 'pic14', device: '16f684' } },
  leftOut: [
    'half and full bridge, dead band and shutdown of the enhanced PWM, its pins P1B to P1D',
    'compare mode of CCP1',
    'clocks from pins, gate of TMR1',
  ],
  source: 'the include file of an assembler',
};
