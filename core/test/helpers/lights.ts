import type { PlanSignal } from '../../src/plan/plan.ts';

/** A light: what it does in a pass, in s lit and dark by turns as its chart says, and the signal that asks for it. */
export type Light = { name: string; times: readonly number[]; signal: PlanSignal };

function light(
  name: string,
  [onS, periodS]: readonly [number, number],
  steps: NonNullable<PlanSignal['sequence']>['steps'],
  times: readonly number[],
): Light {
  const signal = {
    id: 'light',
    name: 'Light',
    kind: 'blink',
    target: { periodS, onS },
    sequence: { steps },
  } as PlanSignal;
  return { name, times, signal };
}

/** So many flashes, each lit and dark for a time, the last dark one longer by a rest. */
function flashes(count: number, onS: number, offS: number, restS: number): number[] {
  return Array.from({ length: count }, (_, at) => [onS, offS + (at === count - 1 ? restS : 0)]).flat();
}

/** `count` flashes of a time, and a rest, so that the whole takes so long. */
function group(count: number, onS: number, offS: number, everyS: number): Light {
  const periodS = Number((onS + offS).toFixed(6));
  const restS = Number((everyS - count * periodS).toFixed(6));
  return light(
    `${count} flashes of ${onS} s, ${offS} s apart, every ${everyS} s`,
    [onS, periodS],
    [{ periods: count }, { rest: true, forS: restS }],
    flashes(count, onS, offS, restS),
  );
}

/** The word PARIS and the pause after it, on and off by turns in dots: 50 of them (ITU-R M.1677). */
const PARIS = [
  ...[1, 1, 3, 1, 3, 1, 1, 3],
  ...[1, 1, 3, 3],
  ...[1, 1, 3, 1, 1, 3],
  ...[1, 1, 1, 3],
  ...[1, 1, 1, 1, 1, 7],
];

/** PARIS in Morse code at 12 words a minute: a dot is 60 s / (12 x 50). */
export const MORSE: Light = light(
  'PARIS in Morse code',
  [0.05, 0.1],
  PARIS.map((dots, at) =>
    at % 2 === 0 ? { periods: dots, duty: 1 } : { rest: true, forS: Number((dots / 10).toFixed(1)) },
  ),
  PARIS.map((dots) => dots / 10),
);

/** Twenty lights of a coast that is not on any chart. */
export const LIGHTS: readonly Light[] = [
  group(3, 1, 1, 15),
  group(2, 0.5, 1, 10),
  group(4, 0.5, 1, 20),
  group(1, 2, 1, 10),
  group(5, 0.3, 0.7, 20),
  group(3, 0.3, 0.7, 10),
  group(9, 0.3, 0.7, 15),
  group(3, 0.2, 0.3, 5),
  group(9, 0.2, 0.3, 10),
  group(1, 1, 1, 6),
  group(4, 0.4, 0.6, 12),
  group(2, 1.2, 0.8, 9.7),
  group(3, 0.25, 0.5, 7.3),
  group(5, 0.2, 0.4, 11.1),
  group(10, 0.2, 0.2, 6.5),
  group(2, 2, 1, 8),
  group(1, 0.4, 0.6, 2.5),
  light(
    'two flashes and one',
    [0.5, 1.5],
    [{ periods: 2 }, { rest: true, forS: 2 }, { periods: 1 }, { rest: true, forS: 5.5 }],
    [0.5, 1, 0.5, 3, 0.5, 6.5],
  ),
  light(
    'a dot and a dash',
    [0.5, 1],
    [{ periods: 1 }, { periods: 1, frequencyHz: 0.5, widthS: 1.5 }, { rest: true, forS: 5 }],
    [0.5, 0.5, 1.5, 5.5],
  ),
  light(
    'six quick flashes and a long one',
    [0.3, 1],
    [{ periods: 6 }, { periods: 1, frequencyHz: 1 / 3, widthS: 2 }, { rest: true, forS: 6 }],
    [...flashes(6, 0.3, 0.7, 0), 2, 7],
  ),
];
