import { kindOf } from '../signal/kinds/index.ts';
import { numberNamed } from '../signal/wish/units.ts';
import { readWish, type WishedSignal } from '../signal/wish/read.ts';
import { freeId, freeName } from './edit.ts';
import type { PlanSignal } from './plan.ts';

/** No part has more signals than this tried on it. */
const MOST = 40;

const ITEM = /^(\d{1,2}|[a-z]+) (.+)$/i;

function countOf(word: string): number | undefined {
  if (/^an?$/i.test(word)) return 1;
  return numberNamed(word) ?? (/^\d+$/.test(word) ? Number(word) : undefined);
}

/** One thing of a list with how many of it: "four servos" is 4 and the signal of a servo. */
function itemOf(text: string): { count: number; signal: WishedSignal } | undefined {
  const [, first = '', rest = ''] = ITEM.exec(text) ?? [];
  const count = countOf(first);
  const [reading, ...others] = readWish(count === undefined ? text : rest, { pins: [] }).readings;
  // A dead time needs pins, which the part decides.
  const known =
    reading && others.length === 0 && reading.left.length === 0 && reading.signal.deadS === undefined;
  return known ? { count: count ?? 1, signal: reading.signal } : undefined;
}

/**
 * What a part must do, said as a list of things: "four servos and a tone", "2 fans 25 kHz, 3 LEDs at 30 %". Usual values
 * are taken for what is not said. Undefined where the text is no such list, the name of a part for example.
 */
export function needsIn(text: string): WishedSignal[] | undefined {
  const items = text
    .split(/,|;|\+|&|\band\b/i)
    .map((item) => item.trim())
    .filter(Boolean)
    .map(itemOf);
  const known = items.filter((item) => item !== undefined);
  if (items.length === 0 || known.length < items.length) return undefined;
  const all = known.flatMap(({ count, signal }) =>
    Array.from({ length: Math.min(count, MOST + 1) }, () => signal),
  );
  return all.length > MOST ? undefined : all;
}

/** The signals of such a list, each with an id of its own and named after its kind. */
export function signalsOfNeeds(needs: readonly WishedSignal[]): PlanSignal[] {
  const signals: PlanSignal[] = [];
  for (const signal of needs) {
    const taken = signals.map(({ name }) => name);
    const { name } = kindOf(signal);
    signals.push({ ...signal, id: freeId({ signals }, name), name: freeName(name, taken) } as PlanSignal);
  }
  return signals;
}
