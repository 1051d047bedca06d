import { amountOf, exact, type Exact } from '../../quantity/exact.ts';
import type { Amount } from '../kinds/shape.ts';
import type { Facts, Role } from './facts.ts';

const PERIODS: ReadonlySet<Role> = new Set<Role>(['every', 'period', 'time']);

/** A rate as it was said: in Hz, or as a period in s. */
export type Rated = { frequencyHz: Amount } | { periodS: Amount };

/** The rate of a wish: "2 Hz", "twice a second", "every 500 ms", "period 2 s", "120 rpm"; a bare time last, where `bare` is set. */
export function rateIn(facts: Facts, bare: boolean): Rated | undefined {
  const said = facts.take('hz', 'rate', 'rpm', 'every', 'period') ?? (bare ? facts.take('time') : undefined);
  if (!said) return undefined;
  const value = amountOf(said.value);
  return PERIODS.has(said.role) ? { periodS: value } : { frequencyHz: value };
}

/** The frequency of a wish in Hz, however it was said. */
export function hzIn(facts: Facts, bare: boolean): Amount | undefined {
  const rated = rateIn(facts, bare);
  if (!rated) return undefined;
  return 'frequencyHz' in rated ? rated.frequencyHz : amountOf(exact(rated.periodS).inverse());
}

/** The period of a rate, in s. */
export function periodOf(rated: Rated): Exact {
  return 'periodS' in rated ? exact(rated.periodS) : exact(rated.frequencyHz).inverse();
}

/** The tolerance of a frequency in ppm, where one was said. */
export function ppmIn(facts: Facts): { frequencyTolerancePpm: number } | Record<string, never> {
  const ppm = facts.number('within');
  return ppm === undefined ? {} : { frequencyTolerancePpm: Number(ppm.toPrecision(12)) };
}
