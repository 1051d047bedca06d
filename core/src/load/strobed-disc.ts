import { printHz, printNumber, printSeconds } from '../quantity/print.ts';
import type { LoadModel, LoadValues } from './model.ts';

const fields = {
  rpm: { label: 'speed, rpm', dimension: 'number', above: 0, max: 1e6 },
  marks: { label: 'equal marks', dimension: 'count', min: 1, max: 1000 },
} as const;

/** A disc or wheel with equal marks in the light of a strobe. */
export type StrobedDiscLoad = LoadValues<typeof fields>;

/** Images beyond this blend into a grey ring. */
const MOST_IMAGES = 24;

/** Drift slower than this share of a turn in a second is still taken for an image. */
const STANDING = 0.5;

/** What one sees: images that stand or drift, in turns a second (positive with the disc). */
export type StrobeView = { images: number; driftTurnsPerS: number };

/**
 * What a disc of m marks shows that turns n times a second under f flashes: between flashes a mark moves m n / f of the
 * distance of two marks. Near a fraction p/q of it one sees m q images, which drift by (m n / f - p/q) f / m turns a second.
 * The fewest images whose drift is slow are what the eye takes.
 */
export function strobeView(rpm: number, marks: number, flashHz: number): StrobeView {
  const moved = (marks * rpm) / 60 / flashHz;
  let best: StrobeView | undefined;
  for (let q = 1; q * marks <= Math.max(MOST_IMAGES, marks); q += 1) {
    const off = moved - Math.round(moved * q) / q;
    const view = { images: marks * q, driftTurnsPerS: (off * flashHz) / marks };
    if (Math.abs(view.driftTurnsPerS) <= STANDING / q) return view;
    if (!best || Math.abs(view.driftTurnsPerS) < Math.abs(best.driftTurnsPerS)) best = view;
  }
  return best ?? { images: marks, driftTurnsPerS: rpm / 60 };
}

/** Speeds next to a given one at which a disc of m marks stands as it is: whole multiples of f / m turns a second, in rpm. */
export function frozenRpm(flashHz: number, marks: number, around: number): number[] {
  const unit = (60 * flashHz) / marks;
  const at = Math.max(1, Math.round(around / unit));
  return [at - 2, at - 1, at, at + 1, at + 2].filter((one) => one >= 1).map((one) => one * unit);
}

/** How far a mark moves while a flash lasts, in degrees: 360 n t. */
export function blurDegrees(rpm: number, onS: number): number {
  return (360 * rpm * onS) / 60;
}

function driftText({ driftTurnsPerS }: StrobeView): string {
  const turns = Math.abs(driftTurnsPerS);
  if (turns < 1e-9) return 'stand still';
  const way = driftTurnsPerS > 0 ? 'forward' : 'backward';
  return turns > STANDING
    ? `run ${way}, ${printNumber(turns, 3)} turns a second`
    : `drift ${way}, a turn in ${printSeconds(1 / turns, 3)}`;
}

/** A strobed disc. Left out: light that is there besides, and what remains in the eye between slow flashes. */
export const strobedDisc: LoadModel<StrobedDiscLoad, 'strobed-disc'> = {
  id: 'strobed-disc',
  name: 'Strobed disc',
  suits: ['flash'],
  demo: { kind: 'strobe', target: { frequencyHz: 25, onS: 0.0005 } },
  fields,
  starter: { rpm: 1500, marks: 4 },
  report: ({ rpm, marks }, { frequencyHz, duty }) => {
    const view = strobeView(rpm, marks, frequencyHz);
    const onS = duty / frequencyHz;
    const blur = blurDegrees(rpm, onS);
    return {
      headline: `${view.images} ${view.images === 1 ? 'image' : 'images'}`,
      aside: driftText(view),
      facts: [
        {
          label: 'between flashes',
          text: `${printNumber((rpm * 360) / 60 / frequencyHz, 5)}° at ${printHz(frequencyHz, 5)} and ${printNumber(rpm)} rpm`,
        },
        {
          label: 'blur',
          text: `${printNumber(blur, 3)}° in ${printSeconds(onS, 3)}, ${printNumber((100 * blur * view.images) / 360, 3)} % of the distance of two images`,
        },
        {
          label: 'also frozen',
          text: `${frozenRpm(frequencyHz, marks, rpm)
            .map((one) => printNumber(one, 5))
            .join(', ')} rpm`,
        },
      ],
      advice: [
        ...(frequencyHz >= 3 && frequencyHz <= 60
          ? ['Flashes of 3 to 60 Hz can provoke seizures in photosensitive people: warn them.']
          : []),
        ...(rpm > 60 ? ['A disc that appears to stand still is turning: guard it.'] : []),
      ],
      checks: [],
      picture: { kind: 'disc', rpm, marks, flashHz: frequencyHz, onS, images: view.images },
    };
  },
};
