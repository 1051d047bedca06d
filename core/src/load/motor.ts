import { printHz, printPercent, printSeconds, printUnit } from '../quantity/print.ts';
import { rippleShare } from './exponential.ts';
import { OHMS, PART_OF_ONE, VOLTS, type LoadModel, type LoadValues } from './model.ts';

const fields = {
  supplyV: { label: 'supply', ...VOLTS },
  ohm: { label: 'winding', ...OHMS },
  henry: { label: 'inductance', dimension: 'henries', above: 0, max: 1000 },
  startDuty: { label: 'least duty at which it starts', ...PART_OF_ONE, optional: true },
  runDuty: { label: 'least duty at which it keeps turning', ...PART_OF_ONE, optional: true },
  diodeV: { label: 'drop of the diode', dimension: 'volts', min: 0, max: 5, optional: true },
} as const;

/** What a silicon diode drops, where a load does not say. */
const DIODE_V = 0.7;

/** A motor or fan behind a switch, with a diode across it. */
export type MotorLoad = LoadValues<typeof fields>;

/** The frequencies at which a switched winding can be heard. */
const HEARD = { lowHz: 20, highHz: 18_000 } as const;

/**
 * The mean voltage across a blocked winding in V, and the peak-to-peak ripple of its current in A. While the switch is off, the current
 * goes on through the diode, against its drop: d V - (1 - d) Vd, and (V + Vd) / R times the ripple of a store with tau = L / R. A current
 * that comes to rest after t = tau ln(1 + I R / Vd), before the next period, has no drop from then on, and ripples from zero to its peak I.
 */
export function windingAt(
  { supplyV, ohm, henry, diodeV = DIODE_V }: MotorLoad,
  frequencyHz: number,
  duty: number,
): { meanV: number; ripple: number } {
  const tau = henry / ohm;
  const periodS = 1 / frequencyHz;
  const peak = (supplyV / ohm) * -Math.expm1((-duty * periodS) / tau);
  const fallS = diodeV === 0 ? Infinity : tau * Math.log1p((peak * ohm) / diodeV);
  if (fallS < (1 - duty) * periodS)
    return { meanV: duty * supplyV - (fallS / periodS) * diodeV, ripple: peak };
  return {
    meanV: duty * supplyV - (1 - duty) * diodeV,
    ripple: ((supplyV + diodeV) / ohm) * rippleShare(duty, periodS, tau),
  };
}

/**
 * A motor or fan: mean voltage, current while blocked, ripple, whine, and the duties at which it starts and keeps turning.
 * Left out: the voltage that a turning motor induces (its current is lower than said here), and the drop of the switch.
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
    const { supplyV, ohm, henry, startDuty, runDuty, diodeV = DIODE_V } = load;
    const { meanV, ripple } = windingAt(load, frequencyHz, duty);
    const mean = meanV / ohm;
    const whines = frequencyHz >= HEARD.lowHz && frequencyHz <= HEARD.highHz;
    const turns = duty >= (runDuty ?? startDuty ?? 0) && duty > 0;
    const kept = startDuty !== undefined && duty < startDuty && turns;
    return {
      headline: printUnit(meanV, 'V', 4),
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
        {
          label: 'diode',
          text:
            diodeV === 0
              ? 'drops nothing'
              : `drops ${printUnit(diodeV, 'V')} while the switch is off: ${printUnit(duty * supplyV - meanV, 'V', 2)} of the mean`,
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
        meanShare: meanV / supplyV,
        rippleShare: mean === 0 ? 0 : Math.min(1, ripple / (supplyV / ohm)),
        turns,
      },
    };
  },
};
