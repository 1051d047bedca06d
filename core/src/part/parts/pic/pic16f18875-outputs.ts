import type { Channel, Output } from '../../types.ts';

/** Bits of a port. */
export const EIGHT = [0, 1, 2, 3, 4, 5, 6, 7];

/** The PWM blocks: base address, code of the pin selection, field that chooses the timer, and the ports they reach. */
export const BLOCKS = [
  { n: 6, base: 0x38c, code: 0x0e, select: 'P6TSEL', ports: ['A', 'D'] },
  { n: 7, base: 0x390, code: 0x0f, select: 'P7TSEL', ports: ['A', 'C'] },
] as const;

/** The capture, compare and PWM blocks, of which the PWM is here (datasheet sections 13 and 18). */
export const CCPS = [
  { n: 1, base: 0x30c, code: 0x09, select: 'CCPTMRS0.C1TSEL', ports: ['B', 'C'] },
  { n: 2, base: 0x310, code: 0x0a, select: 'CCPTMRS0.C2TSEL', ports: ['B', 'C'] },
  { n: 3, base: 0x314, code: 0x0b, select: 'CCPTMRS0.C3TSEL', ports: ['B', 'D'] },
  { n: 4, base: 0x318, code: 0x0c, select: 'CCPTMRS0.C4TSEL', ports: ['B', 'D'] },
  { n: 5, base: 0x31c, code: 0x0d, select: 'CCPTMRS1.C5TSEL', ports: ['A'] },
] as const;

/** All blocks with a PWM output, each of which may follow any of the period timers. */
export const CHANNELS = [...CCPS.map(({ n }) => `CCP${n}`), ...BLOCKS.map(({ n }) => `PWM${n}`)];

/** PWM mode, the ten bits of the duty at the right end of their two registers. */
const CCP_PWM = 0xc;

function outputsOf({ n, code, select, ports }: (typeof BLOCKS)[number], timer: number): Output[] {
  return ports.flatMap((port) =>
    EIGHT.flatMap((bit) =>
      (['normal', 'inverted'] as const).map((polarity): Output => ({
        pin: `R${port}${bit}`,
        drive: 'pwm',
        polarity,
        writes: {
          [`R${port}${bit}PPS.PPS`]: code,
          [`CCPTMRS1.${select}`]: timer / 2,
          [`PWM${n}CON.POL`]: polarity === 'inverted' ? 1 : 0,
          [`PWM${n}CON.EN`]: 1,
        },
      })),
    ),
  );
}

/** The PWM of a capture, compare and PWM block on one of the timers. */
export function ccpOf({ n, code, select, ports }: (typeof CCPS)[number], timer: number): Channel {
  return {
    id: `CCP${n}`,
    name: `CCP ${n}`,
    compare: { [`CCPR${n}L`]: { of: 'compare', keep: 8 }, [`CCPR${n}H`]: { of: 'compare', shift: 8 } },
    // Aligned to the left, the upper register has eight bits and the lower one the last two (datasheet, PWM duty cycle alignment).
    forms: [
      {
        when: { [`CCP${n}CON.FMT`]: 1 },
        compare: {
          [`CCPR${n}L.DC`]: { of: 'compare', keep: 2 },
          [`CCPR${n}H`]: { of: 'compare', shift: 2 },
        },
      },
    ],
    outputs: ports.flatMap((port) =>
      EIGHT.map((bit): Output => ({
        pin: `R${port}${bit}`,
        drive: 'pwm',
        polarity: 'normal',
        writes: {
          [`R${port}${bit}PPS.PPS`]: code,
          [select]: timer / 2,
          [`CCP${n}CON.MODE`]: CCP_PWM,
          [`CCP${n}CON.FMT`]: 0,
          [`CCP${n}CON.EN`]: 1,
        },
        // MODE is 11xx, and the width is found at either alignment.
        same: [0, 1].flatMap((aligned) =>
          [0, 1, 2, 3].map((low) => ({
            [`CCP${n}CON.MODE`]: CCP_PWM + low,
            [`CCP${n}CON.FMT`]: aligned,
          })),
        ),
      })),
    ),
  };
}

/** A PWM block on one of the timers. */
export function channelOf(block: (typeof BLOCKS)[number], timer: number): Channel {
  const { n } = block;
  return {
    id: `PWM${n}`,
    name: `PWM ${n}`,
    compare: {
      [`PWM${n}DCH`]: { of: 'compare', shift: 2 },
      [`PWM${n}DCL.DC`]: { of: 'compare', keep: 2 },
    },
    outputs: outputsOf(block, timer),
  };
}
