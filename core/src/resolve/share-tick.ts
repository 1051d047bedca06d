import { exactText } from '../quantity/exact.ts';
import { clockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import { canShareTick } from '../timer/drives/index.ts';
import { shareTimer, type TickUser } from '../fit/software/shared-timer.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import { hasTimer, type Setting } from '../timer/setting.ts';
import type { CounterNumbers } from '../timer/interrupt-sources.ts';

/** Signals of a plan that can share a tick. */
export function tickSharers(plan: Plan): string[] {
  return plan.signals.filter((signal) => canShareTick(requirementOf(signal))).map((signal) => signal.id);
}

/** Pins that change faster than this are better left to the hardware, in Hz. */
const SLOW_HZ = 100;

/** Those of them that are worth it: ticks, and pins that change slowly. */
export function slowSharers(plan: Plan): string[] {
  const able = new Set(tickSharers(plan));
  return plan.signals.flatMap((signal) => {
    const { pin, frequency } = requirementOf(signal);
    const slow = !pin || frequency.low.compare(SLOW_HZ) < 0;
    return slow && able.has(signal.id) ? [signal.id] : [];
  });
}

/** One tick for several signals of a plan, in plain data: the timer, the tick, and what each gets from it. */
export type TickProposal = {
  counter: CounterNumbers;
  tickHz: number;
  tickExact: string;
  cpu: number;
  uses: {
    signal: string;
    divider: number;
    setting: Setting;
    frequencyHz: number;
    frequencyExact: string;
    errorPpm: number;
  }[];
};

/** The pin for a signal's toggles: its own, the one it is on if no other is, or the first of the program's that is free. */
function pinFor(part: Part, signal: PlanSignal, taken: Set<string>): string | undefined {
  const able = part.pins.filter((pin) => pin.software).map((pin) => pin.id);
  if (signal.pin !== undefined) return able.includes(signal.pin) ? signal.pin : undefined;
  const present = signal.setting?.pin;
  if (present !== undefined && able.includes(present) && !taken.has(present)) {
    taken.add(present);
    return present;
  }
  const free = able.find((pin) => !taken.has(pin));
  if (free !== undefined) taken.add(free);
  return free;
}

/**
 * The slowest tick from which all of the named signals can be counted, on a timer that no other signal uses. Undefined
 * where there is none, or where one of them cannot be made by counting ticks.
 */
export function shareTick(plan: Plan, part: Part, ids: readonly string[]): TickProposal | undefined {
  const sharing = plan.signals.filter((signal) => ids.includes(signal.id));
  const others = plan.signals.filter((signal) => !ids.includes(signal.id));
  const timers = new Set(
    others.flatMap(({ setting }) => (setting && hasTimer(setting) ? [setting.timer] : [])),
  );
  const pins = new Set([
    ...others.flatMap(({ pin, setting }) => setting?.pin ?? pin ?? []),
    ...sharing.flatMap(({ pin }) => pin ?? []),
  ]);
  const users: TickUser[] = [];
  for (const signal of sharing) {
    const requirement = requirementOf(signal);
    const pin = requirement.pin ? pinFor(part, signal, pins) : undefined;
    if (requirement.pin && pin === undefined) return undefined;
    users.push({ requirement, ...(pin === undefined ? {} : { pin }) });
  }
  const found = shareTimer(part, clockPath(part, plan.clock), users, timers);
  if (!found) return undefined;
  return {
    counter: found.counter,
    tickHz: found.tickHz.valueOf(),
    tickExact: exactText(found.tickHz),
    cpu: found.cpu,
    uses: found.uses.map(({ setting, frequency, errorPpm }, at) => ({
      signal: sharing[at]?.id ?? '',
      divider: setting.divider,
      setting,
      frequencyHz: frequency.valueOf(),
      frequencyExact: exactText(frequency),
      errorPpm,
    })),
  };
}
