import { clockOf, type ClockPath } from '../clock/path.ts';
import type { Interrupt, Part, Queue } from '../part/types.ts';
import type { PlanSignal } from '../plan/plan.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import { outcomeUnder } from '../timer/drives/index.ts';
import { sendingOf, type Sending } from '../timer/sending.ts';
import type { Holder } from './conflicts.ts';
import { interruptsOf } from './priorities.ts';

/** How the bits of a signal are handed to its timer, by itself: whatever else the plan does. Undefined where it has none, or a loop sends them. */
export function sendingAlone(
  part: Part,
  path: ClockPath,
  { signal, setting }: Holder,
): Sending | { reason: string } | undefined {
  const { frequency } = outcomeUnder(part, path, setting);
  return sendingOf(part, setting, requirementOf(signal), frequency, clockOf(path, part.cpu.clock));
}

/** The interrupts of other signals that come by the same flag. */
function sharesFlag(
  part: Part,
  path: ClockPath,
  own: PlanSignal,
  tick: Interrupt,
  all: readonly Holder[],
): boolean {
  return all.some(
    (other) => other.signal !== own && interruptsOf(part, path, other).some(({ flag }) => flag === tick.flag),
  );
}

/** Other signals whose bits go through the same queue. */
function sharesQueue(
  part: Part,
  path: ClockPath,
  own: PlanSignal,
  queue: Queue,
  all: readonly Holder[],
): boolean {
  return all.some((other) => {
    const sending = other.signal === own ? undefined : sendingAlone(part, path, other);
    return sending && 'by' in sending && 'queue' in sending.by && sending.by.queue.data === queue.data;
  });
}

/** How the code hands the bits of a signal to its timer, or why it does not; undefined where the signal has none, or a loop sends them. */
export function senderOf(
  part: Part,
  path: ClockPath,
  holder: Holder,
  all: readonly Holder[],
): Sending | { reason: string } | undefined {
  const alone = sendingAlone(part, path, holder);
  if (!alone || 'reason' in alone) return alone;
  if (holder.signal.sequence) return { reason: 'its sequence decides the widths' };
  const { by } = alone;
  if ('tick' in by && sharesFlag(part, path, holder.signal, by.tick, all))
    return { reason: 'the end of its periods is the interrupt of another signal' };
  if ('queue' in by && sharesQueue(part, path, holder.signal, by.queue, all))
    return { reason: 'another signal takes its bits from the same queue' };
  return alone;
}
