import { clockOf, type ClockPath } from '../../clock/path.ts';
import type { Part } from '../../part/types.ts';
import { countsAlike, dividesAlike } from './counter-solver.ts';
import { rootOf } from '../../part/find.ts';

/** All of a timer that an assignment depends on, but for the pins its channels come out at; variants of it go along. */
export function shapeOf(part: Part, path: ClockPath, root: string): string {
  const variants = part.timers.filter((timer) => rootOf(timer) === root);
  return JSON.stringify(
    variants.map((timer) => [
      clockOf(path, timer.clock).toString(),
      path.clocks.get(timer.clock)?.tolerancePpm,
      timer.width,
      dividesAlike(timer.prescaler),
      timer.modes.map((mode) => countsAlike(timer, mode)),
      timer.channels.map(({ outputs }) => outputs.map((out) => [out.drive, out.polarity])),
      timer.channels.map(({ interrupt, complement }) => [interrupt !== undefined, complement?.length ?? 0]),
      timer.captures?.length ?? 0,
      Object.keys(timer.interrupts),
    ]),
  );
}
