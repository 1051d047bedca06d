import { unsignedFor } from '../program/step.ts';
import { exact, type Exact } from '../quantity/exact.ts';
import type { Ends } from '../signal/requirement.ts';
import { maxCompare, countsOf, grainOf, highCounts, togglesTwice } from '../timer/count.ts';
import type { Adjustable, Resolved } from '../timer/drives/index.ts';

/** A value that goes into a setter: a time in µs or a share in percent, what it is called in C, and its ends. */
type Unit = { name: 'us' | 'percent'; of: string; perCount: Exact; min: number; max: number };

/** The least period that is set in µs; below it a µs is too much of it. */
const SHORTEST_US = 100;

/** Values beyond this do not fit a type of 32 bits. */
const LARGEST = 2 ** 31;

/** What can be set of an output's compare value; nothing where it decides nothing, or more than this output. */
export function outputAdjustable({ mode, setting, timer }: Resolved): Adjustable | undefined {
  const inverted = setting.polarity === 'inverted';
  const max = maxCompare(mode, setting.top, timer.width);
  const first = highCounts(mode, setting.top, 0, inverted);
  const step = highCounts(mode, setting.top, Math.min(1, max), inverted) - first;
  if (step === 0 || setting.complement || mode.pwm?.spread || togglesTwice(mode)) return undefined;
  return { first, step, max, whole: countsOf(mode, setting.top) * grainOf(mode) };
}

/** The ends of a unit: those of the target's span, else what the compare values reach, in whole units. */
function bounded(
  unit: Pick<Unit, 'name' | 'of' | 'perCount'>,
  { first, step, max }: Adjustable,
  span: { low: Exact; high: Exact } | undefined,
): Unit | undefined {
  const ends = [first, first + step * max].map((counts) => unit.perCount.mul(Math.max(0, counts)));
  const [one, other] = ends;
  if (!one || !other) return undefined;
  const [low, high] = one.compare(other) <= 0 ? [one, other] : [other, one];
  const min = Math.ceil((span && span.low.compare(low) > 0 ? span.low : low).valueOf() - 1e-9);
  const most = Math.floor((span && span.high.compare(high) < 0 ? span.high : high).valueOf() + 1e-9);
  return most > min && most < LARGEST ? { ...unit, min, max: most } : undefined;
}

function unitsOf(adjustable: Adjustable, frequency: Exact, span: Ends | undefined): Unit[] {
  const { whole } = adjustable;
  const periodUs = frequency.inverse().mul(1_000_000);
  const share = exact(100).div(whole);
  const scaled = (factor: number): { low: Exact; high: Exact } | undefined =>
    span && { low: span.low.mul(factor), high: span.high.mul(factor) };
  return [
    periodUs.compare(SHORTEST_US) < 0
      ? undefined
      : bounded(
          { name: 'us', of: 'time high in us', perCount: periodUs.div(whole) },
          adjustable,
          span?.of === 'width' ? scaled(1_000_000) : undefined,
        ),
    // What moves over a span of widths is not safe at any share of its period.
    span?.of === 'width'
      ? undefined
      : bounded(
          { name: 'percent', of: 'time high in percent', perCount: share },
          adjustable,
          span?.of === 'duty' ? scaled(100) : undefined,
        ),
  ].filter((unit) => unit !== undefined);
}

/** A setter in a unit: clamped to its ends, turned into the nearest compare value with whole numbers alone. */
function setterLines(label: string, unit: Unit, { first, step }: Adjustable, type: string): string[] {
  const counts = unit.perCount.inverse();
  const [n, d] = [Number(counts.n), Number(counts.d) * Math.abs(step)];
  const offset = step > 0 ? -first * Number(counts.d) : first * Number(counts.d);
  const largest = unit.max * n + Math.abs(offset) + d;
  if (largest >= Number.MAX_SAFE_INTEGER) return [];
  const wide = largest < 2 ** 31 ? 'int32_t' : 'int64_t';
  const upper = `${label.toUpperCase()}_${unit.name.toUpperCase()}`;
  const value = n === 1 ? `(${wide})${unit.name}` : `(${wide})${unit.name} * ${n}`;
  // Half of the divisor rounds to the nearest; the counts that are high at compare 0 come off.
  const rest = offset + Math.floor(d / 2);
  const added = rest === 0 ? value : `${value} ${rest < 0 ? '-' : '+'} ${Math.abs(rest)}`;
  const sum = step > 0 ? added : `${rest} - ${value}`;
  const whole = d === 1 ? sum : `(${sum}) / ${d}`;
  // One more than the greatest, so that no type makes the comparison with it redundant.
  const unitType = unsignedFor(unit.max + 1);
  const tooLow = unit.min > 0 ? [`    if (${unit.name} < ${upper}_MIN) ${unit.name} = ${upper}_MIN;`] : [];
  return [
    `#define ${upper}_MIN ${unit.min}u`,
    `#define ${upper}_MAX ${unit.max}u`,
    `/* Sets the ${unit.of}, clamped to ${unit.min} to ${unit.max}; the nearest that the counter can make. */`,
    `static inline void ${label}_set_${unit.name}(${unitType} ${unit.name})`,
    '{',
    ...tooLow,
    `    if (${unit.name} > ${upper}_MAX) ${unit.name} = ${upper}_MAX;`,
    `    ${label}_set((${type})(${whole}));`,
    '}',
  ];
}

/** Setters in the units that people think in, over the one that takes counts. */
export function unitSetters(
  label: string,
  adjustable: Adjustable,
  frequency: Exact,
  span: Ends | undefined,
  type: string,
): string[] {
  return unitsOf(adjustable, frequency, span).flatMap((unit) => setterLines(label, unit, adjustable, type));
}
