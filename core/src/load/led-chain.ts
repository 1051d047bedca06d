import { printNumber, printSeconds, printUnit } from '../quantity/print.ts';
import { lightnessOf, shareOfLightness } from './lightness.ts';
import { AMPS, PART_OF_ONE, VOLTS, type LoadModel, type LoadValues } from './model.ts';

const fields = {
  supplyV: { label: 'supply', ...VOLTS },
  ledA: { label: 'current of an LED at full white', ...AMPS },
  brightness: { label: 'brightness', ...PART_OF_ONE, optional: true },
  supplyA: { label: 'supply carries', ...AMPS, optional: true },
} as const;

/** The LEDs of a string. */
export type LedChainLoad = LoadValues<typeof fields>;

/** Bits of the colours of an LED, and steps of one colour. */
const BITS = 24;
const STEPS = 255;

/** Time of a frame in s: 24 bits an LED and the pause that lets the string take it over. */
export function frameS({ leds, bitS, pauseS }: { leds: number; bitS: number; pauseS: number }): number {
  return leds * BITS * bitS + pauseS;
}

/** An LED string: time of a frame, current, brightness steps. Left out: the voltage that the string's own wires lose. */
export const ledChain: LoadModel<LedChainLoad, 'led-chain'> = {
  id: 'led-chain',
  name: 'LED string',
  suits: ['bits'],
  demo: { kind: 'string', target: { bitS: 1.25e-6, zeroS: 4e-7, oneS: 8e-7, leds: 40 } },
  fields,
  starter: { supplyV: 5, ledA: 0.06 },
  report: ({ supplyV, ledA, brightness = 1, supplyA }, { string, frequencyHz }) => {
    const { leds, bitS, pauseS } = string ?? { leds: 1, bitS: 1 / frequencyHz, pauseS: 0 };
    const frame = frameS({ leds, bitS, pauseS });
    const amps = leds * ledA;
    const first = lightnessOf(1 / STEPS);
    const last = Math.round(STEPS * (1 - shareOfLightness(100 - first)));
    return {
      headline: printUnit(amps * brightness, 'A', 3),
      aside: `all white, ${printUnit(amps * brightness * supplyV, 'W', 3)}`,
      facts: [
        {
          label: 'frame',
          text: `${leds} × 24 bits of ${printSeconds(bitS, 3)} + ${printSeconds(pauseS, 3)} = ${printSeconds(frame, 4)}, ${printNumber(Math.floor(1 / frame))} a second at most`,
        },
        {
          label: 'current',
          text: `${leds} × ${printUnit(ledA, 'A', 3)}${brightness < 1 ? ` × ${printNumber(brightness * 100, 3)} %` : ''}`,
        },
        {
          label: 'brightness',
          text: `${STEPS} steps a colour; the first is L* ${printNumber(first, 2)}, as much as the last ${last} together`,
        },
      ],
      advice: ['The string’s current comes from a supply of its own; join the grounds.'],
      checks:
        supplyA === undefined
          ? []
          : [{ label: 'supply current', unit: 'A', value: amps * brightness, high: supplyA }],
      picture: { kind: 'string', leds, share: brightness },
    };
  },
};
