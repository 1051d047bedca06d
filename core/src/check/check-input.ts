import { exact, ratio, type Exact } from '../quantity/exact.ts';
import { exactText } from '../quantity/exact.ts';
import { printHz, printPercent } from '../quantity/print.ts';
import type { Requirement } from '../signal/requirement.ts';
import type { Check } from './check.ts';

/**
 * Holds a measurement against what is asked of it: the slowest signal whose period fits a run of the counter, and the
 * share of the shortest period that is the error of a reading: one count, and the oscillator's tolerance (ppm) on top.
 * @param slowestHz one run of the counter. @param countHz counts in a second.
 */
export function checkInput(
  { slowest, fastest, resolution }: NonNullable<Requirement['input']>,
  slowestHz: Exact,
  countHz: Exact,
  tolerancePpm: number,
): Check[] {
  const room = slowest.sub(slowestHz);
  const reaches = room.compare(0) >= 0;
  const counts = Math.floor(countHz.div(fastest).valueOf() + 1e-9);
  const share = counts > 0 ? ratio(1, counts) : ratio(1, 1);
  const left = exact(resolution).sub(share).sub(exact(tolerancePpm).div(1000000));
  const fine = left.compare(0) >= 0;
  return [
    {
      property: 'range',
      unit: 'Hz',
      label: 'slowest',
      value: slowestHz.valueOf(),
      valueExact: exactText(slowestHz),
      high: slowest.valueOf(),
      margin: room.valueOf(),
      verdict: reaches ? 'pass' : 'fail',
      ...(reaches
        ? {}
        : {
            note: `Below ${printHz(slowestHz.valueOf())} the counter wraps between two edges and reads too fast.`,
          }),
    },
    {
      property: 'resolution',
      unit: 'fraction',
      value: share.valueOf(),
      valueExact: exactText(share),
      high: resolution,
      margin: left.valueOf(),
      verdict: fine ? 'pass' : 'fail',
      ...(fine
        ? {}
        : {
            note: `At ${printHz(fastest.valueOf())} a period is ${counts} counts: one is ${printPercent(share.valueOf(), 3)}, and the oscillator adds ${tolerancePpm} ppm.`,
          }),
    },
  ];
}
