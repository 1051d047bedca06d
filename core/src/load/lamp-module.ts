import { printNumber, printPercent, printUnit } from '../quantity/print.ts';
import { lightnessOf } from './lightness.ts';
import { PART_OF_ONE, VOLTS, type LoadModel, type LoadValues } from './model.ts';

const fields = {
  supplyV: { label: 'level at 100 %', ...VOLTS },
  low: { label: 'usable from', ...PART_OF_ONE },
  high: { label: 'usable to', ...PART_OF_ONE },
  sense: { label: 'sense', choices: ['direct', 'inverted'], optional: true },
} as const;

/** A lamp behind a module that cuts the phase of the mains by a level. */
export type LampModuleLoad = LoadValues<typeof fields>;

/**
 * Share of the full power that a resistive lamp gets from a sine that is switched on at an angle (0 to pi) of each half
 * wave: 1 - a / pi + sin(2a) / (2 pi).
 */
export function phasePower(angle: number): number {
  return 1 - angle / Math.PI + Math.sin(2 * angle) / (2 * Math.PI);
}

/** How bright the module sets the lamp, 0 to 1 of its range, for a level as a share of the supply. */
export function modulePosition({ low, high, sense }: LampModuleLoad, level: number): number {
  const place = high === low ? 0 : Math.max(0, Math.min(1, (level - low) / (high - low)));
  return sense === 'inverted' ? 1 - place : place;
}

/**
 * A phase-controlled lamp module, its firing angle moving evenly over its usable range. Left out: filament and ballast;
 * light is taken as proportional to power, which a filament falls short of when dim.
 */
export const lampModule: LoadModel<LampModuleLoad, 'lamp-module'> = {
  id: 'lamp-module',
  name: 'Lamp module',
  suits: ['voltage', 'brightness'],
  seen: '%',
  demo: { kind: 'dim', target: { minHz: 300, minSteps: 100, duty: 0.7 } },
  fields,
  starter: { supplyV: 5, low: 0.14, high: 0.86 },
  report: (load, { duty, stepS, frequencyHz }) => {
    const place = modulePosition(load, duty);
    const power = phasePower((1 - place) * Math.PI);
    const usable = Math.round((load.high - load.low) / (stepS * frequencyHz));
    return {
      headline: printPercent(power, 3),
      aside: `of its power, L* ${printNumber(lightnessOf(power), 3)}`,
      facts: [
        {
          label: 'level',
          text: `${printUnit(duty * load.supplyV, 'V', 3)} = ${printPercent(duty, 4)}, usable from ${printPercent(load.low, 3)} to ${printPercent(load.high, 3)}`,
        },
        { label: 'fires at', text: `${printNumber((1 - place) * 180, 4)}° of each half wave` },
        {
          label: 'sense',
          text: load.sense === 'inverted' ? 'inverted: more level is less light' : 'more level is more light',
        },
        { label: 'steps', text: `${printNumber(usable)} within the usable range` },
      ],
      advice: ['The module is on the mains: only an isolated input belongs to a pin.'],
      checks: [{ label: 'usable range', unit: 'fraction', value: duty, low: load.low, high: load.high }],
      picture: { kind: 'glow', lightness: lightnessOf(power), duty: power },
    };
  },
};
