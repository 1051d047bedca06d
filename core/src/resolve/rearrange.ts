import { clockPath, type ClockPath } from '../clock/path.ts';
import { signalFit } from '../evaluate/choose.ts';
import { passesAlone } from '../evaluate/deliverable.ts';
import { evaluatePlan, type Failure } from '../evaluate/evaluate.ts';
import { evaluationMemory } from '../evaluate/memory.ts';
import { rootOf, timerOf } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import { withSettings } from '../plan/edit.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { pinsTakenBy } from '../timer/drives/index.ts';
import { claimedWrites } from '../timer/encode.ts';
import { channelsOfSetting, hasTimer, type Setting } from '../timer/setting.ts';

type Placed = { signal: string; setting: Setting };

/** How many settings of a signal are tried, of one way at most, and how many whole plans are evaluated. */
const SETTINGS = 24;
const OF_A_WAY = 3;
const EVALUATIONS = 100;

/** A way out of the part, whatever its numbers. */
function wayOf(setting: Setting): string {
  const { drive, timer, mode, channel } = { ...setting } as Record<string, unknown>;
  return [drive, timer, mode, channel].join(' ');
}

/** What a setting holds that no other one can have as well. */
function placesOf(part: Part, setting: Setting): string[] {
  const channels = hasTimer(setting)
    ? channelsOfSetting(setting).map((id) => `${rootOf(timerOf(part, setting.timer))} ${id}`)
    : [];
  return [...pinsTakenBy(part, setting), ...channels];
}

/** Whether a setting can be in force beside some others. */
function agreesWith(part: Part, setting: Setting, others: readonly Setting[]): boolean {
  const own = new Map(claimedWrites(part, setting).map((one) => [`${one.register} ${one.field}`, one.value]));
  const places = new Set(placesOf(part, setting));
  return others.every(
    (other) =>
      !placesOf(part, other).some((place) => places.has(place)) &&
      claimedWrites(part, other).every(({ register, field, value }) => {
        const mine = own.get(`${register} ${field}`);
        return mine === undefined || mine === value;
      }),
  );
}

/** The best settings of each way that a signal has and that pass by themselves, on pins and timers that are free for it. */
function waysOf(plan: Plan, part: Part, path: ClockPath, signal: PlanSignal, taken: Set<string>): Setting[] {
  const reserved = new Set(plan.reserved ?? []);
  const seen = new Map<string, number>();
  const found: Setting[] = [];
  for (const { setting } of signalFit(part, path, signal, 'all', taken).candidates) {
    if (found.length === SETTINGS) break;
    const before = seen.get(wayOf(setting)) ?? 0;
    if (!hasTimer(setting) || before === OF_A_WAY) continue;
    seen.set(wayOf(setting), before + 1);
    const timer = timerOf(part, setting.timer);
    if (reserved.has(timer.id) || reserved.has(rootOf(timer))) continue;
    if (passesAlone(part, path, signal, setting)) found.push(setting);
  }
  return found;
}

/** The signals whose settings may change: those that are not locked and have a timer. */
function movableIn(plan: Plan, settings: readonly Placed[]): PlanSignal[] {
  return plan.signals.filter(({ id, locked }) => {
    const own = settings.find(({ signal }) => signal === id);
    return !locked && own && hasTimer(own.setting);
  });
}

/** One or two settings put in the place of others; a signal changes once. */
function* changesOf(
  ways: ReadonlyMap<string, readonly Setting[]>,
  first: readonly string[],
): Generator<Placed[]> {
  const ids = [...first, ...[...ways.keys()].filter((id) => !first.includes(id))];
  const single = ids.flatMap((signal) =>
    (ways.get(signal) ?? []).map((setting): Placed => ({ signal, setting })),
  );
  for (const one of single) yield [one];
  for (const [at, one] of single.entries())
    for (const other of single.slice(at + 1)) if (one.signal !== other.signal) yield [one, other];
}

/**
 * Other arrangements of a plan whose signals fail under each other's interrupts although each passes by itself: one or two of them in
 * another way, the failing ones first, until the whole plan passes. Gives the one with the fewest failures, if fewer than now, after at
 * most 100 evaluations; undefined where none is better. Locked signals and reserved timers stay.
 */
export function rearranged(
  plan: Plan,
  part: Part,
  now: { settings: readonly Placed[]; failing: readonly Failure[] },
  mayContinue?: () => boolean,
): { settings: Placed[]; failing: Failure[] } | undefined {
  const path = clockPath(part, plan.clock);
  const memory = evaluationMemory();
  let best = { settings: [...now.settings], failing: [...now.failing] };
  let evaluations = 0;
  /** The first change that leaves fewer failures. */
  const step = (): typeof best | undefined => {
    const ways = new Map(
      movableIn(plan, best.settings).map((signal) => {
        const others = best.settings.filter((one) => one.signal !== signal.id);
        const taken = new Set(others.flatMap(({ setting }) => pinsTakenBy(part, setting)));
        return [signal.id, waysOf(plan, part, path, signal, taken)];
      }),
    );
    const failing = best.failing.flatMap(({ signal }) => (signal && ways.has(signal) ? [signal] : []));
    for (const changes of changesOf(ways, [...new Set(failing)])) {
      if (evaluations === EVALUATIONS || mayContinue?.() === false) return undefined;
      const settings = best.settings.map((one) => changes.find(({ signal }) => signal === one.signal) ?? one);
      const agree = changes.every(({ signal, setting }) => {
        const others = settings.filter((one) => one.signal !== signal);
        return agreesWith(
          part,
          setting,
          others.map((one) => one.setting),
        );
      });
      if (!agree) continue;
      evaluations += 1;
      const { failures } = evaluatePlan(withSettings(plan, settings), part, memory);
      if (failures.length < best.failing.length) return { settings, failing: failures };
    }
    return undefined;
  };
  for (let next = step(); next; next = next.failing.length === 0 ? undefined : step()) best = next;
  return best.failing.length < now.failing.length ? best : undefined;
}
