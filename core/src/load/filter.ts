import { printHz, printNumber, printSeconds, printUnit } from '../quantity/print.ts';
import { rippleShare, settlingS } from './exponential.ts';
import { OHMS, VOLTS, type LoadModel, type LoadValues } from './model.ts';
import { cornerPair } from './standard-values.ts';

const fields = {
  supplyV: { label: 'supply', ...VOLTS },
  ohm: { label: 'resistor', ...OHMS },
  farad: { label: 'capacitor', dimension: 'farads', above: 0, max: 100 },
  rippleV: { label: 'most ripple', ...VOLTS, optional: true },
  loadOhm: { label: 'what hangs on it', ...OHMS, optional: true },
} as const;

/** What a pin has of resistance by itself, about. */
const PIN_OHM = 30;

/** A resistor and a capacitor behind a pin, or a meter that averages. */
export type FilterLoad = LoadValues<typeof fields>;

/**
 * A low-pass of one resistor and one capacitor: mean, exact ripple, settling, effective bits, corner 1 / (2 pi R C). A load
 * divides the mean by 1 + R / R load and shortens the time constant. Left out: the pin's own resistance (some 30 ohms).
 */
export const filter: LoadModel<FilterLoad, 'filter'> = {
  id: 'filter',
  name: 'RC filter',
  suits: ['voltage', 'power', 'brightness'],
  demo: { kind: 'level', target: { volts: 1.8, supplyV: 3.3 } },
  fields,
  starter: { supplyV: 3.3, ohm: 10_000, farad: 0.000001 },
  report: (load, { frequencyHz, duty, steps }) => {
    const { supplyV, ohm, farad, rippleV, loadOhm } = load;
    const share = loadOhm === undefined ? 1 : loadOhm / (loadOhm + ohm);
    const full = supplyV * share;
    const tau = ohm * share * farad;
    const ripple = full * rippleShare(duty, 1 / frequencyHz, tau);
    const stepV = full / steps;
    const bits = Math.log2(full / Math.max(stepV, ripple));
    const corner = 1 / (2 * Math.PI * tau);
    const aimV = rippleV ?? stepV;
    const wanted = (frequencyHz * aimV) / full / (Math.PI / 2);
    const pair = cornerPair(Math.max(1e-4, wanted), loadOhm === undefined ? {} : { loadOhm });
    return {
      headline: printUnit(full * duty, 'V', 4),
      aside: `± ${printUnit(ripple / 2, 'V', 2)} of ripple`,
      facts: [
        {
          label: 'time constant',
          text: `${printUnit(ohm * share, 'Ω', 3)} × ${printUnit(farad, 'F', 3)} = ${printSeconds(tau, 3)}, corner ${printHz(corner, 3)}`,
        },
        {
          label: 'settles',
          text: `to 1 % in ${printSeconds(settlingS(tau, 0.01), 3)}, to half a step in ${printSeconds(settlingS(tau, 0.5 / steps), 3)}`,
        },
        {
          label: 'effective',
          text: `${printNumber(Math.max(0, bits), 3)} bit: a step is ${printUnit(stepV, 'V', 2)}, the ripple ${printUnit(ripple, 'V', 2)}`,
        },
        {
          label: 'a meter',
          text: `shows ${printUnit(full * duty, 'V', 4)} on DC; one for true RMS at the pin ${printUnit(supplyV * Math.sqrt(duty), 'V', 4)}`,
        },
        {
          label: rippleV === undefined ? 'ripple of a step' : `ripple of ${printUnit(rippleV, 'V', 3)}`,
          text: `needs a corner of ${printHz(wanted, 2)} or less: ${printUnit(pair.ohm, 'Ω', 3)} and ${printUnit(pair.farad, 'F', 3)} make ${printHz(pair.hz, 3)}${loadOhm === undefined ? '' : ' with this load'}`,
        },
        {
          label: 'left out',
          text: `the pin’s own resistance, some ${PIN_OHM} Ω: ${printNumber((100 * PIN_OHM) / ohm, 2)} % of the resistor`,
        },
      ],
      advice: share < 1 ? [`The load takes ${printNumber(100 * (1 - share), 3)} % of the voltage.`] : [],
      checks:
        rippleV === undefined
          ? []
          : [{ label: 'ripple', unit: 'V', value: ripple, high: rippleV, byRate: true }],
      picture: { kind: 'level', volts: full * duty, ripple, supplyV },
    };
  },
};
