import { exact, exactText, type Exact } from '../quantity/exact.ts';
import { printHz, printPercent, printSeconds } from '../quantity/print.ts';
import type { Check } from '../check/check.ts';
import { spanReport } from '../fit/span.ts';
import type { Span } from '../signal/requirement.ts';
import type { PlacedSetting } from './placed.ts';

const PRINT: Record<Span['of'], (value: number) => string> = {
  frequency: printHz,
  width: printSeconds,
  duty: (value) => printPercent(value, 4),
};

const UNIT = { frequency: 'Hz', width: 's', duty: 'fraction' } as const;

/** The least and the greatest that a setting makes without another prescaler; undefined for frequencies of other drives. */
function reachOf({ requirement: { span }, outcome }: PlacedSetting): [Exact, Exact] | undefined {
  const { reach, frequency } = outcome;
  if (span?.of === 'duty') return [reach.min, reach.max];
  if (span?.of === 'width') return [reach.min.div(frequency), reach.max.div(frequency)];
  return undefined;
}

/** Whether a setting reaches both ends of its span of duties or widths with the prescaler and top it has. */
function endChecks(placed: PlacedSetting): Check[] {
  const { span } = placed.requirement;
  const reached = reachOf(placed);
  if (!span || !reached) return [];
  const [least, most] = reached;
  const ends = [
    { label: `least ${span.of}`, value: least, wanted: span.low, margin: span.low.sub(least), above: true },
    {
      label: `greatest ${span.of}`,
      value: most,
      wanted: span.high,
      margin: most.sub(span.high),
      above: false,
    },
  ];
  return ends.map(({ label, value, wanted, margin, above }): Check => {
    const limit = above ? { high: wanted.valueOf() } : { low: wanted.valueOf() };
    const base = { property: 'range', unit: UNIT[span.of], label, ...limit, value: value.valueOf() } as const;
    const note = `The ${label} that the compare values reach is ${PRINT[span.of](value.valueOf())}.`;
    const whole = { ...base, valueExact: exactText(value), margin: margin.valueOf() };
    return margin.compare(0) >= 0 ? { ...whole, verdict: 'pass' } : { ...whole, verdict: 'fail', note };
  });
}

/**
 * How far the worst place of a span may be off: half a step between two values the registers can make, and what the
 * oscillator takes or adds on top. Widths: s/2 (1 + d) + high d; frequencies, as a share: (1 + 1/2n) (1 + d) - 1 with the n
 * counts of the fastest one, where steps are coarsest. Duties have a target in steps instead.
 */
function worstPlace(placed: PlacedSetting): Check[] {
  const { part, path, setting, requirement, outcome, tolerancePpm } = placed;
  const { span } = requirement;
  if (!span || span.of === 'duty') return [];
  const off = exact(tolerancePpm).div(1000000);
  let worst: number;
  if (span.of === 'width') {
    const half = exact(outcome.stepTicks).div(outcome.tickHz).div(2);
    worst = half.mul(off.add(1)).add(span.high.mul(off)).valueOf();
  } else {
    const report = spanReport(part, path, setting, requirement);
    if (!report) return [];
    if (!report.reached) {
      const ends = `${printHz(span.low.valueOf())} … ${printHz(span.high.valueOf())}`;
      const note = `With this prescaler the period has no room for all of ${ends}.`;
      return [{ property: 'range', unit: 'Hz', label: 'span of frequencies', verdict: 'fail', note }];
    }
    worst = (1 + report.worstPpm / 1e6) * (1 + off.valueOf()) - 1;
  }
  const high = span.within.valueOf();
  const unit = span.of === 'width' ? 's' : 'fraction';
  const base = {
    property: 'resolution',
    label: 'worst place',
    unit,
    value: worst,
    high,
    margin: high - worst,
  } as const;
  if (worst <= high) return [{ ...base, verdict: 'pass' }];
  const print = span.of === 'width' ? printSeconds : (value: number) => printPercent(value, 3);
  const note = `A ${span.of} within the span can be ${print(worst)} off: half a step, and the oscillator by ±${printPercent(tolerancePpm / 1e6, 3)}.`;
  return [{ ...base, verdict: 'fail', note }];
}

/** Whether a setting serves the whole span of its target: both ends, and the place that comes out worst. */
export function spanChecks(placed: PlacedSetting): Check[] {
  return [...endChecks(placed), ...worstPlace(placed)];
}
