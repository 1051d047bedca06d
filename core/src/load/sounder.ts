import { nearestNote } from '../quantity/note.ts';
import { printHz, printNumber, printUnit } from '../quantity/print.ts';
import { OHMS, VOLTS, type LoadModel, type LoadValues } from './model.ts';
import { pinChecks, switchText } from './switch.ts';

const fields = {
  supplyV: { label: 'supply', ...VOLTS },
  resonanceHz: { label: 'resonance', dimension: 'frequency', above: 0, max: 1e6, optional: true },
  quality: {
    label: 'sharpness of the resonance, Q',
    dimension: 'number',
    above: 0,
    max: 1000,
    optional: true,
  },
  coilOhm: { label: 'coil', ...OHMS, optional: true },
  through: { label: 'switched by', choices: ['pin', 'transistor', 'mosfet'], optional: true },
  pinV: { label: 'pin when high', ...VOLTS, optional: true },
} as const;

/** A sounder without a circuit of its own: the pin makes the tone. */
export type SounderLoad = LoadValues<typeof fields>;

/** Sharpness of a small sounder in its case where a load does not say. */
const QUALITY = 6;

/** Harmonics that are looked at: those that are heard. */
const HIGHEST_HZ = 16_000;

/**
 * Level of a resonance off its centre against the centre, in dB: a band-pass of the second order,
 * -10 log10(1 + Q^2 (f/f0 - f0/f)^2).
 */
export function resonanceDb(hz: number, resonanceHz: number, quality: number): number {
  const off = quality * (hz / resonanceHz - resonanceHz / hz);
  return -10 * Math.log10(1 + off * off);
}

/** Amplitude of the n-th harmonic of a rectangle of duty d, as a share of its height: 2 |sin(n pi d)| / (n pi). */
export function harmonicShare(n: number, duty: number): number {
  return (2 * Math.abs(Math.sin(n * Math.PI * duty))) / (n * Math.PI);
}

/** The level of each harmonic of a rectangle behind a resonance, in dB against a sine at the resonance. */
function heard(
  hz: number,
  duty: number,
  resonanceHz: number | undefined,
  quality: number,
): { n: number; db: number }[] {
  const count = Math.max(1, Math.min(40, Math.floor(HIGHEST_HZ / hz)));
  return Array.from({ length: count }, (_, at) => {
    const n = at + 1;
    const level = 20 * Math.log10(Math.max(1e-9, harmonicShare(n, duty)) / harmonicShare(1, 0.5));
    return { n, db: level + (resonanceHz === undefined ? 0 : resonanceDb(n * hz, resonanceHz, quality)) };
  });
}

function loudness(db: number): string {
  if (db > -3) return 'at its loudest';
  if (db > -10) return 'loud';
  return db > -20 ? 'clearly quieter than at its resonance' : 'expect it quiet';
}

/**
 * A passive sounder: the note it makes, how far its resonance lifts or drops it, the harmonics of the duty, and its current.
 * Left out: the case, the direction, and how the ear weighs frequencies.
 */
export const sounder: LoadModel<SounderLoad, 'sounder'> = {
  id: 'sounder',
  name: 'Sounder',
  suits: ['sound'],
  sounds: true,
  demo: { kind: 'tone', target: { frequencyHz: 880 } },
  fields,
  starter: { supplyV: 3.3, resonanceHz: 2300 },
  report: (load, { frequencyHz, duty, pinA }) => {
    const { supplyV, resonanceHz, quality = QUALITY, coilOhm, through = 'pin', pinV = 3.3 } = load;
    const { name, cents } = nearestNote(frequencyHz);
    const parts = heard(frequencyHz, duty, resonanceHz, quality);
    const own = parts[0] ?? { n: 1, db: 0 };
    const strongest = parts.reduce((best, one) => (one.db > best.db ? one : best), own);
    const amps = coilOhm === undefined ? undefined : supplyV / coilOhm;
    const alone = harmonicShare(2, duty) < 0.02 ? 'odd harmonics alone' : 'all harmonics';
    const driver =
      amps !== undefined && through === 'pin' && amps > pinA
        ? [`${printUnit(amps, 'A', 3)} is more than a pin carries: take ${switchText(pinV, amps, pinA)}.`]
        : [];
    return {
      headline: name,
      aside: `${cents < 0 ? '−' : '+'}${printNumber(Math.abs(Number(cents.toFixed(2))), 4)} cents, ${printHz(frequencyHz, 6)}`,
      facts: [
        ...(resonanceHz === undefined
          ? []
          : [
              {
                label: 'loudness',
                text: `${printNumber(Math.round(own.db * 10) / 10 + 0, 4)} dB against a sine at ${printHz(resonanceHz)}: ${loudness(own.db)}`,
              },
            ]),
        {
          label: 'sound',
          text: `${alone}${strongest.n === 1 ? '' : `; the ${ordinal(strongest.n)} at ${printHz(strongest.n * frequencyHz, 4)} is louder than the note`}`,
        },
        ...(amps === undefined
          ? []
          : [
              {
                label: 'current',
                text: `${printUnit(amps, 'A', 3)} while high, mean ${printUnit(amps * duty, 'A', 3)} at most`,
              },
            ]),
      ],
      advice: [
        ...driver,
        ...(coilOhm === undefined ? [] : ['A coil wants a diode across it, cathode to the supply.']),
      ],
      checks: amps === undefined ? [] : pinChecks(through, pinV, amps, pinA),
      picture: {
        kind: 'note',
        frequencyHz,
        levelDb: own.db,
        ...(resonanceHz === undefined ? {} : { resonanceHz }),
      },
    };
  },
};

function ordinal(n: number): string {
  const rest = n % 100 > 10 && n % 100 < 14 ? 0 : n % 10;
  return `${n}${['th', 'st', 'nd', 'rd'][rest] ?? 'th'} harmonic`;
}
