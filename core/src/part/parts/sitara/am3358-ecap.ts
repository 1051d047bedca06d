import type { Output, Register, Timer, Writes } from '../../types.ts';
import { field, register } from '../common/registers.ts';

/** A pin on which the output of a unit comes out, with the writes that lead it there. */
type Led = { pin: string; writes: Writes };

/**
 * The capture unit of a PWM subsystem as a PWM of 32 bits: the count runs from 0 to CAP1, the output is high for CAP2
 * counts (technical reference manual, section 15.3.2: APWM mode, from CMP = 0 for 0 % to period + 1 for 100 %). While it runs, CAP3 and CAP4 take the next
 * period and compare value, which hold from the end of the running period; CAP1 and CAP2 would change it at once, and a match behind the count be missed.
 */
export function captureUnit(n: number, pins: readonly Led[]): Timer {
  const control = `ECAP${n}_ECCTL2`;
  return {
    id: `ECAP${n}`,
    name: `eCAP ${n}`,
    width: 32,
    clock: 'l4',
    prescaler: { kind: 'list', options: [{ divide: 1, writes: {} }] },
    modes: [
      {
        id: 'apwm',
        name: 'PWM, period CAP1',
        count: 'up',
        base: 1,
        top: {
          kind: 'register',
          writes: { [`ECAP${n}_CAP1`]: { of: 'top' } },
          running: { [`ECAP${n}_CAP3`]: { of: 'top' } },
          min: 1,
          max: 2 ** 32 - 2,
        },
        pwm: { channels: ['APWM'], high: 'compare' },
        update: { top: 'bottom', compare: 'bottom' },
        writes: { [`${control}.CAP_APWM`]: 1, [`${control}.SYNCO_SEL`]: 2, [`${control}.TSCTRSTOP`]: 1 },
      },
    ],
    channels: [
      {
        id: 'APWM',
        name: `eCAP ${n}`,
        compare: { [`ECAP${n}_CAP2`]: { of: 'compare' } },
        running: { [`ECAP${n}_CAP4`]: { of: 'compare' } },
        outputs: pins.flatMap(({ pin, writes }) =>
          (['normal', 'inverted'] as const).map((polarity): Output => ({
            pin,
            drive: 'pwm',
            polarity,
            writes: { ...writes, [`${control}.APWMPOL`]: polarity === 'inverted' ? 1 : 0 },
          })),
        ),
      },
    ],
    counter: `ECAP${n}_TSCTR`,
    interrupts: {},
    power: {
      [`CM_PER_EPWMSS${n}_CLKCTRL.MODULEMODE`]: 2,
      [`PWMSS${n}_CLKCONFIG.ECAPCLK_EN`]: 1,
    },
    ready: [`!CM_PER_EPWMSS${n}_CLKCTRL.IDLEST`],
    // In PWM mode a write of CAP1 or CAP2 also goes to its shadow register, so the mode comes first, the clock last.
    sequence: [
      { register: control, without: ['TSCTRSTOP'] },
      { register: `ECAP${n}_CAP1` },
      { register: `ECAP${n}_CAP2` },
      { register: `ECAP${n}_TSCTR` },
      { register: control },
    ],
  };
}

/** The registers of a capture unit that its PWM mode needs, from its base address. */
export function captureUnitRegisters(n: number, base: number): Register[] {
  return [
    register(`ECAP${n}_TSCTR`, base),
    register(`ECAP${n}_CAP1`, base + 0x08),
    register(`ECAP${n}_CAP2`, base + 0x0c),
    register(`ECAP${n}_CAP3`, base + 0x10),
    register(`ECAP${n}_CAP4`, base + 0x14),
    register(
      `ECAP${n}_ECCTL2`,
      base + 0x2a,
      { TSCTRSTOP: field(4), SYNCO_SEL: field(6, 2), CAP_APWM: field(9), APWMPOL: field(10) },
      16,
    ),
  ];
}
