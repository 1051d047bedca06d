import { assign, type Assignment } from '../assign/assign.ts';
import { clockOf, type ClockPath } from '../clock/path.ts';
import { evaluatePlan } from '../evaluate/evaluate.ts';
import { clockSettingsFor } from '../clock/search.ts';
import { withSettings } from '../plan/edit.ts';
import type { Plan } from '../plan/plan.ts';
import type { Part } from '../part/types.ts';
import { withLoops } from './program-loops.ts';
import type { Setting } from '../timer/setting.ts';
import { pathUnder, askedOf } from './assign-plan.ts';
import { infeasibilitiesOf } from './infeasible.ts';
import { reasonAlone } from './trial-reason.ts';
import { LEVELS } from '../assign/counter/quality.ts';
import { rootOf } from '../part/find.ts';

/** How a plan does on one part under one clock. */
export type PartTrial = {
  part: string;
  clock: Plan['clock'];
  /** What the processor runs at, in Hz. */
  cpuHz: number;
  /** Whether its signals can be assigned, and whether all checks pass then: with its interrupts and tasks, with its loads. */
  assigned: boolean;
  feasible: boolean;
  optimal: boolean;
  /** The smallest remaining share of any tolerance, from 0 (just) to 1 (amply). */
  margin: number;
  /** The share of the processor that handlers and tasks take. */
  cpu: number;
  timersUsed: number;
  timersLeft: number;
  settings: { signal: string; setting: Setting }[];
  /** Signals that this part cannot make at all, by their names. */
  unable: string[];
  /** Why it does not fit, a sentence with numbers for each signal or conflict, or what fails there. */
  reasons: string[];
};

/** A plan's signals with pins free where the part has no pin of that name. */
function signalsOn(plan: Plan, part: Part): Plan['signals'] {
  const pins = new Set(part.pins.map(({ id }) => id));
  return plan.signals.map((signal) => {
    const own = { ...signal };
    if (own.pin !== undefined && !pins.has(own.pin)) delete own.pin;
    if (own.complement && !pins.has(own.complement.pin)) delete own.complement;
    if (part.id !== plan.part) {
      delete own.setting;
      delete own.locked;
    }
    return own;
  });
}

/** The plan itself on another part: its signals, that part's clock, the settings that were found. */
export function planOn(plan: Plan, part: Part, trial: PartTrial): Plan {
  const rest = { ...plan };
  if (part.id !== plan.part) {
    delete rest.reserved;
    delete rest.pinNames;
  }
  const moved = { ...rest, part: part.id, clock: trial.clock, signals: signalsOn(plan, part) };
  return withSettings(moved, trial.settings);
}

/** Tries a plan on a part under a clock; undefined where that clock is not legal there. */
export function tryPart(
  plan: Plan,
  part: Part,
  clock: Plan['clock'],
  mayContinue?: () => boolean,
): PartTrial | undefined {
  const path = pathUnder(part, clock);
  if (!path) return undefined;
  const signals = signalsOn(plan, part);
  const own = {
    clock,
    signals,
    ...(part.id === plan.part && plan.reserved ? { reserved: plan.reserved } : {}),
  };
  const { loops, requests, rules } = askedOf(own, part, mayContinue);
  const unable = requests.filter((request) => {
    const alone = assign(part, path, [request], { reserved: rules.reserved, anyFeasible: true });
    return !alone.feasible && alone.optimal;
  });
  const found: Assignment =
    unable.length > 0
      ? { feasible: false, optimal: true, settings: [], nodes: 0 }
      : assign(part, path, requests, rules);
  const roots = new Set(part.timers.map(rootOf));
  const timersUsed = found.objective?.timers ?? 0;
  const settings = withLoops(found, requests, loops);
  const made = found.feasible
    ? evaluatePlan(withSettings({ ...plan, ...own, part: part.id }, settings), part)
    : undefined;
  return {
    part: part.id,
    clock,
    cpuHz: clockOf(path, part.cpu.clock).valueOf(),
    assigned: found.feasible,
    feasible: made?.failures.length === 0,
    optimal: found.optimal,
    margin: (found.objective?.level ?? 0) / LEVELS,
    cpu: made?.interrupts.utilisation ?? 0,
    timersUsed,
    timersLeft: roots.size - timersUsed,
    settings,
    unable: unable.map(({ name }) => name),
    reasons: made
      ? made.failures.map(({ name, text }) => `${name}: ${text}.`.replace(/\.\.$/, '.'))
      : unable.length > 0
        ? signals
            .filter(({ id }) => unable.some((request) => request.id === id))
            .map((signal) => reasonAlone(part, path, clock, signal))
        : !found.optimal
          ? []
          : infeasibilitiesOf(part, path, requests, rules).map(({ reason }) => reason),
  };
}

/** Clocks worth trying on a part: the plan's own on its part, else the part's usual one. */
export function clocksOf(plan: Plan, part: Part): Plan['clock'][] {
  return part.id === plan.part ? [plan.clock] : [part.defaultClock];
}

/** Processor clocks that a search over the clock settings tries, as shares of the present one. */
const SHARES = [1, 0.75, 0.5, 0.96, 0.8, 0.9, 0.857142857, 0.6, 0.4, 0.3, 0.25, 1.25, 1.5, 2];

/** What processor and timers run at: settings that agree in it are one to all signals. */
function ratesOf(part: Part, path: ClockPath): string {
  const nodes = new Set([part.cpu.clock, ...part.timers.map(({ clock }) => clock)]);
  return [...nodes].map((node) => path.clocks.get(node)?.hz.toFraction() ?? '').join();
}

/** A clock is better by less processor time, as a share of it and in all, or by more margin. */
const BETTER = { cpuShare: 0.9, cpu: 0.001, margin: 0.1 };

/** Whether another clock is worth proposing: it makes the plan fit, or it is markedly better. */
function helps(present: PartTrial | undefined, other: PartTrial): boolean {
  if (!other.feasible) return false;
  if (!present?.feasible) return true;
  const cheaper = other.cpu <= present.cpu * BETTER.cpuShare && present.cpu - other.cpu >= BETTER.cpu;
  const safer = other.margin >= present.margin + BETTER.margin;
  return (cheaper && other.margin >= present.margin) || (safer && other.cpu <= present.cpu + BETTER.cpu);
}

/**
 * Clock settings of a part that make a plan fit, or that are markedly better than the present one where it fits already;
 * the least CPU time first. Settings near some round shares of the present clock are tried, up to `max` that
 * processor and timers can tell from the present one and from each other.
 */
export function searchClocks(plan: Plan, part: Part, max = 24, mayContinue?: () => boolean): PartTrial[] {
  const path = pathUnder(part, plan.clock);
  if (!path) return [];
  const present = clockOf(path, part.cpu.clock).valueOf();
  const own = tryPart(plan, part, plan.clock, mayContinue);
  const seen = new Set([ratesOf(part, path)]);
  const found: PartTrial[] = [];
  for (const share of SHARES) {
    const wanted = present * share;
    if (wanted > part.limits.maxHz || seen.size > max) continue;
    for (const { setting } of clockSettingsFor(part, plan.clock, part.cpu.clock, wanted, 2)) {
      const under = pathUnder(part, setting);
      const key = under && ratesOf(part, under);
      if (key === undefined || seen.has(key) || mayContinue?.() === false) continue;
      seen.add(key);
      const trial = tryPart(plan, part, setting, mayContinue);
      if (trial && helps(own, trial)) found.push(trial);
    }
  }
  return found.sort(
    (one, other) =>
      Math.round(one.cpu * 1e4) - Math.round(other.cpu * 1e4) ||
      other.margin - one.margin ||
      Math.abs(Math.log(one.cpuHz / present)) - Math.abs(Math.log(other.cpuHz / present)),
  );
}
