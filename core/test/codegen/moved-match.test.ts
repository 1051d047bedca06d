import type { Part } from '../../src/part/types.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { imagesOf } from '../helpers/chip-image.ts';
import { runTogether, tryOut } from '../helpers/chip.ts';
import { planOn } from '../helpers/plan.ts';
import { shipped } from '../helpers/parts.ts';

/** A tick each 5,000 counts of a free counter of microseconds: the counter, the match, and its handler. */
const CASES = [
  ['bcm2835', 'ST_CLO', 'ST_C1', 'system_timer_1_handler();'],
  ['rp2040', 'TIMER_TIMERAWL', 'TIMER_ALARM0', 'TIMER_IRQ_0_Handler();'],
] as const;

/** Where the counter stands as the handler runs, and where the next match must be: the next count of the grid that is still to come. */
const LATE = [
  { stands: 5_003, next: 10_000 },
  { stands: 31_234, next: 35_000 },
  { stands: 35_000, next: 40_000 },
  // The counter stands at the next match already, which may have been missed.
  { stands: 45_000, next: 50_000 },
  { stands: 50_001, next: 55_000 },
] as const;

const plans = CASES.map(([id, counter, match, handler]): [string, Part, Plan, string, string, string] => {
  const part = shipped(id);
  const plan = planOn(part, { id: 'beat', name: 'Beat', kind: 'tick', target: { frequencyHz: 200 } });
  return [part.name, part, plan, counter, match, handler];
});

const ran = runTogether(
  new Map(
    plans.map(([, part, plan, counter, , handler]) => [
      plan,
      tryOut(
        part,
        plan,
        LATE.map(({ stands }) => `${counter}.value = ${stands}u; ${handler}`),
      ),
    ]),
  ),
);

describe('a match that its handler moves on', () => {
  it.each(plans)('%s: is never left behind the counter, and stays on its grid', (_, __, plan, ___, match) => {
    const images = imagesOf(ran(plan));
    expect(LATE.map((_late, at) => images[at]?.get(match))).toEqual(LATE.map(({ next }) => next));
  });
});
