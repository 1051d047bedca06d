import { printHz, printNumber, printPercent, printSeconds, printUnit } from '../quantity/print.ts';
import { flickerLimitHz, FLICKER_LIMITS, flickerText } from './flicker.ts';
import { lightnessOf } from './lightness.ts';
import { AMPS, OHMS, VOLTS, type Driven, type LoadCheck, type LoadModel, type LoadValues } from './model.ts';
import { E12, E24, standardAround, standardAbove } from './standard-values.ts';
import { baseDrive, gateOhm, pinChecks, switchText } from './switch.ts';

const fields = {
  supplyV: { label: 'supply', ...VOLTS },
  forwardV: { label: 'forward voltage', ...VOLTS },
  currentA: { label: 'wanted current', ...AMPS },
  resistorOhm: { label: 'resistor fitted', ...OHMS, optional: true },
  through: { label: 'switched by', choices: ['pin', 'transistor', 'mosfet'], optional: true },
  pinV: { label: 'pin when high', ...VOLTS, optional: true },
  flicker: { label: 'flicker limit', choices: ['none', ...FLICKER_LIMITS], optional: true },
} as const;

/** An LED with its series resistor. */
export type LedLoad = LoadValues<typeof fields>;

/** Voltage of a pin where a load does not say. */
const PIN_V = 3.3;

/** The series resistor that gives a current: R = (V supply - V forward) / I. Zero or less where the supply is too low. */
export function seriesOhm({ supplyV, forwardV, currentA }: LedLoad): number {
  return (supplyV - forwardV) / currentA;
}

/** The current through an LED with the resistor that is fitted, or else with the next higher one of E12. */
export function ledCurrent(load: LedLoad): { ohm: number; amps: number } | undefined {
  const wanted = seriesOhm(load);
  if (wanted <= 0) return undefined;
  const ohm = load.resistorOhm ?? standardAbove(wanted, E12);
  return { ohm, amps: (load.supplyV - load.forwardV) / ohm };
}

function resistorFacts(load: LedLoad): { label: string; text: string }[] {
  const wanted = seriesOhm(load);
  const { below, above } = standardAround(wanted, E24);
  const around = [...new Set([below, above])].map(
    (ohm) => `${printUnit(ohm, 'Ω', 3)} gives ${printUnit((load.supplyV - load.forwardV) / ohm, 'A', 3)}`,
  );
  return [
    {
      label: 'resistor',
      text: `(${printUnit(load.supplyV, 'V')} − ${printUnit(load.forwardV, 'V')}) / ${printUnit(load.currentA, 'A')} = ${printUnit(wanted, 'Ω', 4)}`,
    },
    { label: 'from E24', text: around.join(', ') },
  ];
}

function switchAdvice(load: LedLoad, amps: number, pinA: number): string[] {
  const { through = 'pin', pinV = PIN_V } = load;
  if (through === 'transistor') {
    const base = baseDrive(pinV, amps, pinA);
    return base
      ? [`Base resistor from ${printUnit(pinV, 'V')}: ${printUnit(base.ohm, 'Ω', 3)}.`]
      : [`No base resistor fits: take ${switchText(pinV, amps, pinA)}.`];
  }
  if (through === 'mosfet')
    return [`The gate wants ${printUnit(gateOhm(pinV, pinA), 'Ω', 3)}, and 100 kΩ to its source.`];
  return amps > pinA
    ? [
        `${printUnit(amps, 'A', 3)} is more than a pin carries (${printUnit(pinA, 'A')}): take ${switchText(pinV, amps, pinA)}.`,
      ]
    : [];
}

function checksOf(load: LedLoad, amps: number, driven: Driven): LoadCheck[] {
  const limit = flickerLimitHz(load.flicker, driven.duty);
  return [
    ...pinChecks(load.through ?? 'pin', load.pinV ?? PIN_V, amps, driven.pinA),
    ...(limit === undefined
      ? []
      : [
          {
            label: 'flicker',
            unit: 'Hz' as const,
            value: driven.frequencyHz,
            low: limit,
            byRate: true as const,
            note: flickerText(load.flicker, limit),
          },
        ]),
  ];
}

/** Slower changes than this are seen one by one, and mean to be. */
const BLINK_HZ = 10;

function flickerFact(hz: number, duty: number): string {
  if (duty <= 0 || duty >= 1) return 'steady light';
  if (hz < BLINK_HZ) return 'seen as blinking';
  if (hz >= 3000) return 'no effect by IEEE 1789 (from 3 kHz)';
  return hz >= 1250 ? 'low risk by IEEE 1789 (from 1.25 kHz)' : 'low risk by IEEE 1789 begins at 1.25 kHz';
}

/**
 * An LED: current, resistor, perceived lightness (taking light as proportional to the mean current) and flicker. Left out:
 * the forward voltage moves with current and temperature, a pin's output drops some tenths of a volt under load, and
 * efficiency falls with current.
 */
export const led: LoadModel<LedLoad, 'led'> = {
  id: 'led',
  name: 'LED',
  suits: ['rhythm', 'brightness', 'power', 'flash'],
  demo: { kind: 'dim', target: { minHz: 300, minSteps: 100, duty: 0.35 } },
  fields,
  starter: { supplyV: 3.3, forwardV: 2, currentA: 0.005 },
  report: (load, driven) => {
    const { duty, frequencyHz } = driven;
    const made = ledCurrent(load);
    const lightness = lightnessOf(duty);
    const picture = { kind: 'glow', lightness, duty } as const;
    if (!made) {
      const text = `${printUnit(load.supplyV, 'V')} is not above the forward voltage ${printUnit(load.forwardV, 'V')}: the LED stays dark.`;
      const check: LoadCheck = {
        label: 'supply',
        unit: 'V',
        value: load.supplyV,
        low: load.forwardV,
        note: text,
      };
      return {
        headline: 'dark',
        facts: [],
        advice: [text],
        checks: [check],
        picture: { ...picture, lightness: 0 },
      };
    }
    const { ohm, amps } = made;
    const current = {
      label: 'current',
      text: `${printUnit(amps, 'A', 3)} with ${printUnit(ohm, 'Ω', 3)}, mean ${printUnit(amps * duty, 'A', 3)}`,
    };
    const flicker = {
      label: 'flicker',
      text: `${printHz(frequencyHz, 4)}, ${flickerFact(frequencyHz, duty)}`,
    };
    const rest = {
      advice: switchAdvice(load, amps, driven.pinA),
      checks: checksOf(load, amps, driven),
    };
    if (frequencyHz < BLINK_HZ && duty > 0 && duty < 1) {
      return {
        headline: printUnit(amps, 'A', 3),
        aside: `lit for ${printSeconds(duty / frequencyHz, 4)} of ${printSeconds(1 / frequencyHz, 4)}`,
        facts: [...resistorFacts(load), current, flicker],
        ...rest,
        picture: { kind: 'glow', lightness: 100, duty: 1 },
      };
    }
    const step = lightnessOf(Math.min(1, duty + driven.stepS * frequencyHz)) - lightness;
    const steps = step < 0.001 ? 'less than 0.001 of L*' : `${printNumber(step, 2)} of L*; 1 is just seen`;
    return {
      headline: `L* ${printNumber(lightness, 3)}`,
      aside: `lightness at ${printPercent(duty, 4)} of the light`,
      facts: [...resistorFacts(load), current, { label: 'one step', text: steps }, flicker],
      ...rest,
      picture,
    };
  },
};
