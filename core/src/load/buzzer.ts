import { printHz, printSeconds, printUnit } from '../quantity/print.ts';
import { AMPS, VOLTS, type LoadModel, type LoadValues } from './model.ts';
import { pinChecks, switchText } from './switch.ts';

const fields = {
  currentA: { label: 'current', ...AMPS },
  through: { label: 'switched by', choices: ['pin', 'transistor', 'mosfet'], optional: true },
  pinV: { label: 'pin when high', ...VOLTS, optional: true },
} as const;

/** A buzzer with an oscillator of its own: only when it is on counts. */
export type BuzzerLoad = LoadValues<typeof fields>;

/** Above this rate one hears no beeps, but a tone that is switched on and off. */
const ROUGH_HZ = 20;

/** An active buzzer: its rhythm and its current. Left out: the time that its oscillator takes to start, some milliseconds. */
export const buzzer: LoadModel<BuzzerLoad, 'buzzer'> = {
  id: 'buzzer',
  name: 'Buzzer',
  suits: ['sound', 'rhythm'],
  sounds: true,
  demo: { kind: 'blink', target: { frequencyHz: 2, duty: 0.2 } },
  fields,
  starter: { currentA: 0.012 },
  report: ({ currentA, through = 'pin', pinV = 3.3 }, { frequencyHz, duty, pinA }) => {
    const fast = frequencyHz > ROUGH_HZ;
    return {
      headline: fast ? 'rough' : `${printHz(frequencyHz, 3)}`,
      aside: fast ? 'its own tone, chopped' : `beeps of ${printSeconds(duty / frequencyHz, 3)}`,
      facts: [
        {
          label: 'rhythm',
          text: fast
            ? `chopped ${printHz(frequencyHz, 4)}: a buzzer makes its own tone and wants a level`
            : `on for ${printSeconds(duty / frequencyHz, 4)} of ${printSeconds(1 / frequencyHz, 4)}`,
        },
        {
          label: 'current',
          text: `${printUnit(currentA, 'A', 3)} while on, mean ${printUnit(currentA * duty, 'A', 3)}`,
        },
      ],
      advice: [
        ...(fast ? ['For a tone of a certain pitch take a passive sounder.'] : []),
        ...(through === 'pin' && currentA > pinA
          ? [
              `${printUnit(currentA, 'A', 3)} is more than a pin carries: take ${switchText(pinV, currentA, pinA)}.`,
            ]
          : []),
      ],
      checks: pinChecks(through, pinV, currentA, pinA),
      picture: { kind: 'rhythm', frequencyHz, duty },
    };
  },
};
