import type { Part } from '../part/types.ts';
import { planFault } from '../plan/check-plan.ts';
import { easedSignal } from '../plan/ease.ts';
import { freeId, freeName } from '../plan/edit.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { clockPath } from '../clock/path.ts';
import { amountOf } from '../quantity/exact.ts';
import { isInput, isOutput, outcomeUnder } from '../timer/drives/index.ts';
import type { Effect } from '../timer/outcome.ts';
import { hasTimer } from '../timer/setting.ts';
import type { Decoded } from './decode.ts';

/** What a signal that was read out of code is called: after its pin, or after the timer that ticks. */
function nameOf(part: Part, { setting }: Effect): string {
  if (isOutput(setting)) return setting.pin;
  const timer = hasTimer(setting) ? part.timers.find(({ id }) => id === setting.timer) : undefined;
  return timer ? `Tick of ${timer.name}` : 'Tick';
}

/** Whether a signal can be made of an effect: pins that stay as they are, and inputs, have no target that the code tells. */
function tells({ setting, outcome }: Effect): boolean {
  const { frequency, duty } = outcome;
  if (isInput(setting) || frequency.compare(0) <= 0) return false;
  return !isOutput(setting) || (duty.compare(0) > 0 && duty.compare(1) < 0);
}

/**
 * Signals for what code does, each with the target that it meets and its setting: pulses on pins, ticks of the processor. What
 * its handler makes of a tick has no setting of its own. Signals on pins that the plan uses already, and what the plan
 * could not hold, are left out.
 */
export function decodedSignals({ timers }: Decoded, plan: Plan, part: Part): PlanSignal[] {
  const path = clockPath(part, plan.clock);
  let grown = plan;
  const made: PlanSignal[] = [];
  for (const effect of timers.flatMap(({ effects }) => effects).filter(tells)) {
    const { setting, outcome } = effect;
    const pin = isOutput(setting) ? setting.pin : undefined;
    if (pin !== undefined && grown.signals.some((one) => one.pin === pin)) continue;
    const frequencyHz = amountOf(outcome.frequency);
    const target = pin === undefined ? { frequencyHz } : { frequencyHz, duty: amountOf(outcome.duty) };
    const name = freeName(
      nameOf(part, effect),
      grown.signals.map((one) => one.name),
    );
    const own = outcomeUnder(part, path, setting).frequency.equals(outcome.frequency);
    const plain = { kind: pin === undefined ? 'tick' : 'pwm', target };
    const signal = {
      id: freeId(grown, name),
      name,
      ...(pin === undefined ? {} : { pin }),
      ...easedSignal(plain, part, plan.clock).signal,
      ...(own ? { setting } : {}),
    } as PlanSignal;
    const next = { ...grown, signals: [...grown.signals, signal] };
    if (planFault(next, [part])) continue;
    grown = next;
    made.push(signal);
  }
  return made;
}
