import { printHz, printPercent, printSeconds, printUnit } from '../quantity/print.ts';
import { rippleShare } from './exponential.ts';
import { OHMS, PART_OF_ONE, VOLTS, type LoadModel, type LoadValues } from './model.ts';

const fields = {
  supplyV: { label: 'supply', ...VOLTS },
  ohm: { label: 'winding', ...OHMS },
  henry: { label: 'inductance', dimension: 'henries', above: 0, max: 1000 },
  startDuty: { label: 'least duty at which it starts', ...PART_OF_ONE, optional: true },
  runDuty: { label: 'least duty at which it keeps turning', ...PART_OF_ONE, optional: true },
} as const;

/** A motor or fan behind a switch, with a diode across it. */
export type MotorLoad = LoadValues<typeof fields>;

/** The frequencies at which a switched winding can be heard. */
const HEARD = { lowHz: 20, highHz: 18_000 } as const;

/** Peak-to-peak ripple of the current in A, the motor blocked: V / R times the ripple of a store with tau = L / R. */
export function rippleAmps({ supplyV, ohm, henry }: MotorLoad, frequencyHz: number, duty: number): number {
  return (supplyV / ohm) * rippleShare(duty, 1 / frequencyHz, henry / ohm);
}

/**
 * A motor or fan: mean voltage, current while blocked, ripple, whine, and the duties at which it starts and keeps turning.
 * Left out: the voltage that a turning motor induces (its current is lower than said here), and the drop of switch and diode.
 */
export const motor: LoadModel<MotorLoad, 'motor'> = {
  id: 'motor',
  name: 'Motor or fan',
  suits: ['power', 'brightness'],
  seen: 'rpm',
  demo: { kind: 'pwm', target: { frequencyHz: 4000, duty: 0.42, minSteps: 100 } },
  fields,
  starter: { supplyV: 12, ohm: 8, henry: 0.002, startDuty: 0.3, runDuty: 0.15 },
  report: (load, { frequencyHz, duty }) => {
    const { supplyV, ohm, henry, startDuty, runDuty } = load;
    const ripple = rippleAmps(load, frequencyHz, duty);
    const mean = (duty * supplyV) / ohm;
    const whines = frequencyHz >= HEARD.lowHz && frequencyHz <= HEARD.highHz;
    const turns = duty >= (runDuty ?? startDuty ?? 0) && duty > 0;
    const kept = startDuty !== undefined && duty < startDuty && turns;
    return {
      headline: printUnit(duty * supplyV, 'V', 4),
      aside:
        duty === 0
          ? 'stands'
          : !turns
            ? 'too little to turn'
            : kept
              ? 'keeps turning, does not start'
              : 'mean voltage',
      facts: [
        {
          label: 'current',
          text: `${printUnit(mean, 'A', 3)} while blocked, ${printUnit(ripple, 'A', 3)} peak to peak of ripple`,
        },
        {
          label: 'time constant',
          text: `${printUnit(henry, 'H', 3)} / ${printUnit(ohm, 'Ω', 3)} = ${printSeconds(henry / ohm, 3)}, a period is ${printSeconds(1 / frequencyHz, 3)}`,
        },
        {
          label: 'whine',
          text: whines
            ? `heard at ${printHz(frequencyHz, 4)}; above ${printHz(HEARD.highHz)} hardly anybody does`
            : `${printHz(frequencyHz, 4)} is inaudible`,
        },
        ...(startDuty === undefined
          ? []
          : [
              {
                label: 'starts from',
                text: `${printPercent(startDuty, 4)}${runDuty === undefined ? '' : `, turns on down to ${printPercent(runDuty, 4)}`}`,
              },
            ]),
      ],
      advice: [
        ...(kept ? [`Start it with ${printPercent(startDuty, 4)} or more, then go down.`] : []),
        'No pin drives a motor: a switch that carries its blocked current, and a diode across the winding.',
      ],
      checks:
        startDuty === undefined || duty === 0
          ? []
          : [{ label: 'starting duty', unit: 'fraction', value: duty, low: startDuty }],
      picture: {
        kind: 'spin',
        meanShare: duty,
        rippleShare: mean === 0 ? 0 : Math.min(1, ripple / (supplyV / ohm)),
        turns,
      },
    };
  },
};
