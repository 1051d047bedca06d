import { printNumber, printSeconds } from '../quantity/print.ts';
import type { LoadCheck, LoadModel, LoadValues } from './model.ts';

const seconds = { dimension: 'time', above: 0, max: 1 } as const;

const fields = {
  moves: { label: 'moves', choices: ['arm', 'thrust'], optional: true },
  minS: { label: 'width at one end', ...seconds },
  maxS: { label: 'width at the other end', ...seconds },
  degrees: { label: 'turn between them', dimension: 'degrees', above: 0, max: 36_000 },
  neutralS: { label: 'neutral', ...seconds, optional: true },
  deadBandS: { label: 'dead band', ...seconds, optional: true },
  armS: { label: 'width that arms it', ...seconds, optional: true },
} as const;

/** A servo, or a speed controller that takes the same pulses. */
export type ServoLoad = LoadValues<typeof fields>;

/** Counts of a register of eight bits that spans the whole frame. */
const EIGHT_BITS = 256;

/** Where a width puts the arm, in degrees from the end of the shortest pulse; beyond its ends it goes on outside. */
export function armDegrees({ minS, maxS, degrees }: ServoLoad, widthS: number): number {
  return ((widthS - minS) / (maxS - minS)) * degrees;
}

/** How far a speed controller is open, -1 to 1 around its neutral width, or 0 to 1 where it has none. */
export function thrust({ minS, maxS, neutralS, deadBandS = 0 }: ServoLoad, widthS: number): number {
  const zero = neutralS ?? minS;
  if (Math.abs(widthS - zero) <= deadBandS / 2) return 0;
  const end = widthS > zero ? maxS - zero : zero - minS;
  return end === 0 ? 0 : Math.max(-1, Math.min(1, (widthS - zero) / end));
}

/** The width that is furthest outside of the servo's ends, or nearest to them, of all that the signal can be set to. */
function rangeCheck(
  { minS, maxS }: ServoLoad,
  widthS: number,
  reach: { min: number; max: number },
): LoadCheck {
  const [low, high] = [Math.min(minS, maxS), Math.max(minS, maxS)];
  const value = reach.min - low < high - reach.max ? reach.min : reach.max;
  const check = { label: 'servo range', unit: 's', value, low, high } as const;
  if (reach.min >= low && reach.max <= high) return check;
  const moves =
    reach.min === reach.max && reach.min === widthS
      ? `Its width is ${printSeconds(widthS, 4)}`
      : `It can be set to ${printSeconds(reach.min, 4)} to ${printSeconds(reach.max, 4)}`;
  const note = `${moves}; the servo’s ends are ${printSeconds(low, 4)} and ${printSeconds(high, 4)}. Beyond them it presses against its stops and draws its blocked current.`;
  return { ...check, note };
}

/**
 * A servo: its angle by a straight line between its ends, steps and dead band; or a speed controller's thrust. Left out:
 * how fast it moves, load, and play of the gear.
 */
export const servo: LoadModel<ServoLoad, 'servo'> = {
  id: 'servo',
  name: 'Servo',
  suits: ['position'],
  seen: '°',
  demo: { kind: 'pulse', target: { frameHz: 50, widthS: 0.0013, minS: 0.001, maxS: 0.002 } },
  fields,
  ends: { low: 'minS', high: 'maxS' },
  starter: { minS: 0.001, maxS: 0.002, degrees: 90 },
  report: (load, { frequencyHz, duty, stepS, widthsS }) => {
    const { minS, maxS, degrees, deadBandS, armS, neutralS, moves = 'arm' } = load;
    const widthS = duty / frequencyHz;
    const at = armDegrees(load, widthS);
    const perSecond = degrees / (maxS - minS);
    const coarse = 1 / frequencyHz / EIGHT_BITS;
    const reach = {
      min: Math.min(widthS, widthsS?.min ?? widthS),
      max: Math.max(widthS, widthsS?.max ?? widthS),
    };
    const inside = widthS >= Math.min(minS, maxS) && widthS <= Math.max(minS, maxS);
    const open = thrust(load, widthS);
    const facts = [
      {
        label: 'width',
        text: `${printSeconds(widthS, 5)} of ${printSeconds(minS, 4)} to ${printSeconds(maxS, 4)}`,
      },
      {
        label: 'one step',
        text: `${printSeconds(stepS, 3)} = ${printNumber(stepS * perSecond, 3)}°, ${printNumber(degrees / (stepS * perSecond), 4)} over its turn`,
      },
      ...(deadBandS === undefined
        ? []
        : [
            {
              label: 'dead band',
              text: `${printSeconds(deadBandS, 3)} = ${printNumber(deadBandS * perSecond, 3)}°, ${printNumber(deadBandS / stepS, 3)} steps that it does not answer`,
            },
          ]),
      {
        label: 'with 8 bits',
        text: `a step of ${printSeconds(coarse, 3)} = ${printNumber(coarse * perSecond, 3)}°: ${Math.floor((maxS - minS) / coarse)} positions`,
      },
      ...(armS === undefined
        ? []
        : [{ label: 'arming', text: `wants ${printSeconds(armS, 4)} before it listens` }]),
    ];
    return {
      headline: moves === 'arm' ? `${printNumber(at, 4)}°` : `${printNumber(open * 100, 3)} %`,
      aside:
        moves === 'arm'
          ? `of ${printNumber(degrees)}°`
          : open === 0 && neutralS !== undefined
            ? 'neutral'
            : 'of full thrust',
      facts,
      advice: [
        ...(inside
          ? []
          : [
              `${printSeconds(widthS, 4)} is beyond its ends: it presses against the stop, hums and draws current.`,
            ]),
        'Its supply is not the pin’s: feed it by itself and join the grounds.',
      ],
      checks: [rangeCheck(load, widthS, reach)],
      picture: { kind: 'arm', degrees: at, from: 0, to: degrees, inside },
    };
  },
};
