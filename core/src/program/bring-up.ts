import type { ClockPath } from '../clock/path.ts';
import type { BringUpStep, Part, Writes } from '../part/types.ts';
import { bringUpGroups, bringUpWrites } from '../timer/bring-up.ts';
import type { FieldWrite } from '../timer/fields.ts';
import type { Setting } from '../timer/setting.ts';
import type { Step } from './step.ts';

function plain(writes: readonly FieldWrite[]): Writes {
  return Object.fromEntries(
    writes.map(({ register, field, value }) => [field === null ? register : `${register}.${field}`, value]),
  );
}

function stepOf(path: ClockPath, step: BringUpStep): Step {
  if ('until' in step) return { do: 'wait', until: step.until };
  if ('waitUs' in step) return { do: 'delay', us: step.waitUs };
  const writes = bringUpWrites(path, step);
  return step.whole ? { do: 'order', order: plain(writes) } : { do: 'change', writes };
}

/** The steps that bring the clock path up from the state after reset; undefined where the part's data has none. */
export function bringUpSteps(part: Part, path: ClockPath, settings: readonly Setting[]): Step[] | undefined {
  const groups = bringUpGroups(part, path, settings);
  if (groups?.length === 0) return [{ do: 'say', text: 'Nothing to set: this clock runs from reset on.' }];
  return groups?.flatMap(({ say, steps }): Step[] => [
    { do: 'say', text: say },
    ...steps.map((step) => stepOf(path, step)),
    { do: 'gap' },
  ]);
}
