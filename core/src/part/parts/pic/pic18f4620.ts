import type { Part } from '../../types.ts';
import { PART_VERSION } from '../../versions.ts';
import {
  cycle,
  picCapture,
  picCode,
  picCpu,
  WIDE_BIT_LOOP,
  picEnable,
  picEventTimer,
  picPeriodTimer,
  picPin,
  picTimer0,
  picTimer1,
} from './pic.ts';
import { bits, register } from '../common/registers.ts';

/** Both capture blocks take Timer 1. */
const ON_TIMER_1 = { 'T3CON.T3CCP1': 0, 'T3CON.T3CCP2': 0 };

const EIGHT = [0, 1, 2, 3, 4, 5, 6, 7];

/** Timer 1 of the part, with its captures. */
const TIMER_1 = picTimer1(1, picEnable('PIE1.TMR1IE'), 'PIR1.TMR1IF', [
  picCapture(1, 'RC2', picEnable('PIE1.CCP1IE'), 'PIR1.CCP1IF', ON_TIMER_1),
  picCapture(2, 'RC1', picEnable('PIE2.CCP2IE'), 'PIR2.CCP2IF', ON_TIMER_1),
]);

/** Two levels, by one vector each, once they are switched on; what was the enable bit of peripherals is then that of the lower one. */
const PRIORITIES: Part['cpu']['priorities'] = {
  scheme: 'levels',
  levels: 2,
  shared: true,
  fields: {
    numbered: 'IPR1',
    vectors: {
      ...{ TMR0: 'INTCON2.TMR0IP', TMR1: 'IPR1.TMR1IP', TMR2: 'IPR1.TMR2IP', TMR3: 'IPR2.TMR3IP' },
      ...{ CCP1: 'IPR1.CCP1IP', CCP2: 'IPR2.CCP2IP' },
    },
    scale: 1,
    most: 1,
    with: { 'RCON.IPEN': 1, 'INTCON.PEIE': 1 },
  },
};

/** PIC18F4620: two PWM blocks of 10 bits that share an 8-bit period timer. */
export const pic18f4620: Part = {
  format: 'herzschlag-part',
  version: PART_VERSION,
  id: 'pic18f4620',
  name: 'PIC18F4620',
  about:
    'two 10-bit PWM outputs on an 8-bit period timer with postscaler, three timers that overflow, source clock / 4',
  registers: [
    register('LATB', 0xf8a, bits(EIGHT.map((bit) => `LATB${bit}`).join(' ')), 8),
    { ...register('TRISB', 0xf93, bits(EIGHT.map((bit) => `TRISB${bit}`).join(' ')), 8), reset: 0xff },
    register('LATC', 0xf8b, bits(EIGHT.map((bit) => `LATC${bit}`).join(' ')), 8),
    { ...register('TRISC', 0xf94, bits(EIGHT.map((bit) => `TRISC${bit}`).join(' ')), 8), reset: 0xff },
    register('PIE1', 0xf9d, bits('TMR1IE TMR2IE CCP1IE'), 8),
    register('PIR1', 0xf9e, bits('TMR1IF TMR2IF CCP1IF'), 8),
    register('PIE2', 0xfa0, bits('CCP2IE TMR3IE'), 8),
    register('PIR2', 0xfa1, bits('CCP2IF TMR3IF'), 8),
    { ...register('IPR1', 0xf9f, bits('TMR1IP TMR2IP CCP1IP'), 8), reset: 0xff },
    { ...register('IPR2', 0xfa2, bits('CCP2IP TMR3IP'), 8), reset: 0xdf },
    { ...register('INTCON2', 0xff1, bits('- - TMR0IP'), 8), reset: 0xf5 },
    register('RCON', 0xfd0, bits('- - - - - - - IPEN'), 8),
    register('T3CON', 0xfb1, bits('TMR3ON TMR3CS - T3CCP1 T3CKPS0 T3CKPS1 T3CCP2'), 8),
    register('TMR3L', 0xfb2, {}, 8),
    register('TMR3H', 0xfb3, {}, 8),
    register('CCP2CON', 0xfba, bits('CCP2M0 CCP2M1 CCP2M2 CCP2M3 DC2B0 DC2B1'), 8),
    register('CCPR2L', 0xfbb, {}, 8),
    register('CCPR2H', 0xfbc, {}, 8),
    register('CCP1CON', 0xfbd, bits('CCP1M0 CCP1M1 CCP1M2 CCP1M3 DC1B0 DC1B1 P1M0 P1M1'), 8),
    register('CCPR1L', 0xfbe, {}, 8),
    register('CCPR1H', 0xfbf, {}, 8),
    register('T2CON', 0xfca, bits('T2CKPS0 T2CKPS1 TMR2ON T2OUTPS0 T2OUTPS1 T2OUTPS2 T2OUTPS3'), 8),
    { ...register('PR2', 0xfcb, {}, 8), reset: 0xff },
    register('TMR2', 0xfcc, {}, 8),
    register('T1CON', 0xfcd, bits('TMR1ON TMR1CS - - T1CKPS0 T1CKPS1'), 8),
    register('TMR1L', 0xfce, {}, 8),
    register('TMR1H', 0xfcf, {}, 8),
    { ...register('T0CON', 0xfd5, bits('T0PS0 T0PS1 T0PS2 PSA - T0CS T08BIT TMR0ON'), 8), reset: 0xff },
    register('TMR0L', 0xfd6, {}, 8),
    register('TMR0H', 0xfd7, {}, 8),
    register('OSCTUNE', 0xf9b, bits('- - - - - - PLLEN'), 8),
    { ...register('OSCCON', 0xfd3, bits('SCS0 SCS1 IOFS OSTS IRCF0 IRCF1 IRCF2'), 8), reset: 0x40 },
    register('INTCON', 0xff2, bits('- - TMR0IF - - TMR0IE PEIE GIE'), 8),
  ],
  clocks: [
    {
      kind: 'source',
      id: 'crystal',
      name: 'crystal',
      hz: [32000, 25000000],
      tolerancePpm: 50,
      needs: 'configuration bits OSC = HS, with the PLL HSPLL; up to 4 MHz XT, for a watch crystal LP',
    },
    {
      kind: 'source',
      id: 'external',
      name: 'external clock',
      hz: [1, 40000000],
      tolerancePpm: 50,
      needs: 'configuration bits OSC = EC',
    },
    {
      kind: 'source',
      id: 'rc8',
      name: 'internal RC oscillator',
      hz: 8000000,
      tolerancePpm: 20000,
      needs: 'configuration bits OSC = INTIO67',
    },
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
      limit: { name: 'The oscillator', max: 40000000 },
      note: 'Times 4 with the HSPLL setting of the configuration bits.',
    },
    cycle,
  ],
  bringUp: [
    {
      say: 'The internal oscillator at 8 MHz; after reset it runs at 1.',
      when: { uses: 'rc8' },
      steps: [{ set: { 'OSCCON.IRCF0': 1, 'OSCCON.IRCF1': 1, 'OSCCON.IRCF2': 1 } }, { until: 'OSCCON.IOFS' }],
    },
    {
      say: 'The PLL on it: two milliseconds to lock.',
      when: { uses: 'rc8', at: { node: 'osc', above: 8_000_000 } },
      steps: [{ set: { 'OSCTUNE.PLLEN': 1 } }, { waitUs: 2000 }],
    },
  ],
  defaultClock: { source: 'crystal', sourceHz: 10000000, settings: { osc: 4 } },
  timers: [
    picPeriodTimer(
      [
        { id: 'CCP1', control: 'CCP1CON', duty: 'CCPR1L', low: ['DC1B0', 'DC1B1'], pin: 'RC2' },
        { id: 'CCP2', control: 'CCP2CON', duty: 'CCPR2L', low: ['DC2B0', 'DC2B1'], pin: 'RC1' },
      ],
      'T2OUTPS',
    ),
    picTimer0({
      control: 'T0CON',
      prescale: 'T0PS',
      width: 16,
      writes: { 'T0CON.T0CS': 0, 'T0CON.T08BIT': 0, 'T0CON.TMR0ON': 1 },
      reload: { TMR0L: { of: 'reload', keep: 8 }, TMR0H: { of: 'reload', shift: 8 } },
    }),
    TIMER_1,
    picEventTimer(
      TIMER_1,
      { n: 2, enable: picEnable('PIE2.CCP2IE'), flag: 'PIR2.CCP2IF' },
      { n: 1, enable: picEnable('PIE1.CCP1IE'), flag: 'PIR1.CCP1IF' },
      ON_TIMER_1,
    ),
    picTimer1(3, picEnable('PIE2.TMR3IE'), 'PIR2.TMR3IF'),
  ],
  pins: [
    ...[33, 34, 35, 36, 37, 38, 39, 40].map((place, bit) => picPin(`RB${bit}`, 'LAT', { DIP40: place })),
    ...[15, 16, 17, 18, 23, 24, 25, 26].map((place, bit) => picPin(`RC${bit}`, 'LAT', { DIP40: place })),
  ],
  cpu: { ...picCpu, bitLoop: WIDE_BIT_LOOP, priorities: PRIORITIES },
  limits: { pinMilliamps: 25, maxHz: 40000000 },
  code: { ...picCode, assembly: { family: 'pic18', device: '18f4620' } },
  leftOut: [
    'half and full bridge, dead band and shutdown of the enhanced PWM, its pins P1B to P1D',
    'compare outputs; CCP2 on Timer 3; the event of CCP1',
    'clocks from pins, 32 kHz oscillator of TMR1',
  ],
  source: 'the include file of an assembler',
};
