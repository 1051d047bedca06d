import type { Exact } from '../quantity/exact.ts';
import type { Part } from '../part/types.ts';
import { withDuty, withFrequency } from '../signal/edit.ts';
import type { Requirement } from '../signal/requirement.ts';
import type { Signal } from '../signal/signal.ts';
import { adjust, computeOutcome, driveOf } from '../timer/drives/index.ts';
import type { Setting } from '../timer/setting.ts';

/** A target moved to the next value that the hardware can really make, with the setting that makes it. */
export type Step = { signal: Signal; setting: Setting };

function numberOf(setting: Setting, field: 'top' | 'compare'): number {
  if (field === 'top') return setting.top;
  return 'compare' in setting ? setting.compare : 0;
}

/**
 * The next frequency or duty up (`by` above zero) or down that this setting's timer can make with its prescaler, `by`
 * counts away. Undefined if there is no such value: a fixed top, the end of the range, the duty of a toggled output.
 */
export function stepTarget(
  part: Part,
  signal: Signal,
  requirement: Requirement,
  setting: Setting,
  clockHz: Exact,
  token: 'frequency' | 'duty',
  by: number,
  cpuHz: Exact = clockHz,
): Step | undefined {
  const movable = driveOf(setting).movable(part, setting)[token];
  if (!movable) return undefined;
  const { field, min, max, falling } = movable;
  const now = numberOf(setting, field);
  const value = Math.min(max, Math.max(min, now + (falling ? -by : by)));
  if (value === now) return undefined;
  const share = requirement.duty.ideal.valueOf();
  const next =
    field === 'top'
      ? adjust(part, setting, share, 'top', value)
      : ({ ...setting, compare: value } as Setting);
  const { duty, frequency } = computeOutcome(part, next, clockHz, cpuHz);
  const moved = token === 'frequency' ? withFrequency(signal, frequency) : withDuty(signal, duty, frequency);
  return moved && { setting: next, signal: moved };
}
