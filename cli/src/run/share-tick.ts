import { printNumber, shareTick, slowSharers, tickSharers } from '@herzschlag/core';
import { loadPlan } from '../plan.ts';
import { UsageError } from '../usage-error.ts';
import { json, table } from '../table.ts';

/**
 * One tick for several signals of a plan: the slowest that a free timer can make, and how many ticks each signal counts.
 * Without ids all slow signals that can be counted share it.
 */
export async function shareTickCommand(
  file: string,
  ids: readonly string[],
  options: { table?: boolean },
): Promise<string> {
  const { plan, part } = await loadPlan(file);
  const able = tickSharers(plan);
  const wrong = ids.find((id) => !able.includes(id));
  if (wrong !== undefined) {
    throw new UsageError(
      `${file}: ${wrong} cannot be made by counting interrupts; ${able.join(', ') || 'no signal'} can.`,
    );
  }
  const chosen = ids.length > 0 ? ids : slowSharers(plan);
  if (chosen.length === 0)
    throw new UsageError(`${file}: no slow signal can be made by counting interrupts.`);
  const proposal = shareTick(plan, part, chosen);
  if (!proposal)
    throw new UsageError(`${file}: no free timer has an interrupt rate that suits ${chosen.join(', ')}.`);
  if (!options.table) return json(proposal);
  const { counter, tickHz, uses } = proposal;
  return table(
    ['signal', 'timer', 'numbers', 'tick Hz', 'ticks', 'Hz', 'ppm'],
    uses.map(({ signal, divider, frequencyHz, errorPpm }) => [
      signal,
      counter.timer,
      `${counter.mode} ÷ ${counter.prescaler}, top ${counter.top}`,
      printNumber(tickHz, 9),
      String(divider),
      printNumber(frequencyHz, 9),
      printNumber(errorPpm, 4),
    ]),
  );
}
