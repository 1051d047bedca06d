import { clockOf, type ClockPath } from '../../clock/path.ts';
import type { Part } from '../../part/types.ts';
import { type Exact } from '../../quantity/exact.ts';
import type { Requirement } from '../../signal/requirement.ts';
import { canShareTick, computeOutcome } from '../../timer/drives/index.ts';
import { interruptCycles } from '../../timer/run.ts';
import type { InterruptSetting } from '../../timer/setting.ts';
import { sharedTicks } from './shared-tick.ts';
import {
  MAX_CPU,
  runFor,
  interruptSources,
  type CounterNumbers,
  type InterruptSource,
} from '../../timer/interrupt-sources.ts';

/** A signal that may share a tick: its requirement, and the pin its toggles go to; none for a tick of the program. */
export type TickUser = { requirement: Requirement; pin?: string };

/** What one signal gets from the tick: its setting, and what comes of it. */
type TickUse = { setting: InterruptSetting; frequency: Exact; errorPpm: number };

/** One timer's interrupt as the tick of several signals. */
export type SharedTimer = { counter: CounterNumbers; tickHz: Exact; cpu: number; uses: TickUse[] };

/** So many ticks are tried, from the slowest on. */
const TRIED = 256;

/** A timer's rate may be so far from a tick that is tried, as a share; what it makes then is judged by itself. */
const NEAR = 0.02;

function usesOf(
  part: Part,
  source: InterruptSource,
  counter: CounterNumbers,
  users: readonly TickUser[],
  tickHz: Exact,
  cpuHz: Exact,
): TickUse[] | undefined {
  const uses: TickUse[] = [];
  for (const { requirement, pin } of users) {
    const { frequency: wanted } = requirement;
    if (wanted.kind !== 'near') return undefined;
    const changes = wanted.ideal.mul(requirement.pin ? 2 : 1);
    const setting: InterruptSetting = {
      drive: 'interrupt',
      ...counter,
      ...(pin === undefined ? {} : { pin }),
      divider: Math.max(1, Math.round(tickHz.div(changes).valueOf())),
    };
    const { frequency } = computeOutcome(part, setting, source.clockHz, cpuHz);
    if (frequency.compare(wanted.low) < 0 || frequency.compare(wanted.high) > 0) return undefined;
    uses.push({ setting, frequency, errorPpm: frequency.div(wanted.ideal).sub(1).mul(1000000).valueOf() });
  }
  return uses;
}

function worst(uses: readonly TickUse[]): number {
  return Math.max(...uses.map((use) => Math.abs(use.errorPpm)));
}

/**
 * The slowest tick that one timer can make from which all users can be counted, each within its tolerance; of the
 * timers that can, the one whose worst error is least. Timers that are taken are left alone. Undefined where there is
 * none. @throws SettingError when a pin is not the program's to drive.
 */
export function shareTimer(
  part: Part,
  path: ClockPath,
  users: readonly TickUser[],
  taken: ReadonlySet<string> = new Set(),
): SharedTimer | undefined {
  if (users.length === 0 || !users.every(({ requirement }) => canShareTick(requirement))) return undefined;
  const cpuHz = clockOf(path, part.cpu.clock);
  const free = interruptSources(part, path).filter(
    ({ timer }) => !taken.has(timer.id) && !taken.has(timer.variantOf ?? ''),
  );
  let tried = 0;
  for (const { tickHz } of sharedTicks(users.map(({ requirement }) => requirement))) {
    let best: SharedTimer | undefined;
    for (const source of free) {
      const counter = runFor(source, tickHz.valueOf(), MAX_CPU, false);
      if (!counter) continue;
      const each = { drive: 'interrupt' as const, ...counter, divider: 1 };
      const made = computeOutcome(part, each, source.clockHz, cpuHz).frequency;
      if (Math.abs(tickHz.div(made).valueOf() - 1) > NEAR) continue;
      const uses = usesOf(part, source, counter, users, made, cpuHz);
      if (!uses || (best && worst(best.uses) <= worst(uses))) continue;
      const cpu = (made.valueOf() * interruptCycles(part.cpu)) / cpuHz.valueOf();
      best = { counter, tickHz: made, cpu, uses };
    }
    if (best) return best;
    tried += 1;
    if (tried >= TRIED) return undefined;
  }
  return undefined;
}
