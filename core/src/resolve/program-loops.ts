import type { Assignment } from '../assign/assign.ts';
import type { Request } from '../assign/request.ts';
import type { ClockPath } from '../clock/path.ts';
import { signalFit } from '../evaluate/choose.ts';
import type { Part } from '../part/types.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import { driveOf } from '../timer/drives/index.ts';
import { hasTimer, pinsOfSetting, type Setting } from '../timer/setting.ts';

/** What a loop of the program makes a signal with; undefined where it takes a timer, or nothing makes it. */
function loopOf(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  taken: ReadonlySet<string>,
  passes: (signal: PlanSignal, setting: Setting) => boolean,
): Setting | undefined {
  if (signal.locked && signal.setting) return hasTimer(signal.setting) ? undefined : signal.setting;
  if (!requirementOf(signal).alsoWidths) return undefined;
  // A timer that the program feeds stays: while a loop sends, interrupts wait.
  const { setting: own } = signal;
  if (own && hasTimer(own) && passes(signal, own)) return undefined;
  const { candidates } = signalFit(part, path, signal, 'all', taken);
  return candidates.find(({ setting }) => driveOf(setting).bits)?.setting;
}

/**
 * The signals of a plan that take a pin and no timer, each with its setting: those that are locked to a loop of the program, and
 * strings of bits that a loop can send and no timer is fed with. `passes` tells whether a signal's checks hold.
 */
export function programLoops(
  plan: Pick<Plan, 'signals'>,
  part: Part,
  path: ClockPath,
  passes: (signal: PlanSignal, setting: Setting) => boolean,
): Map<string, Setting> {
  const taken = new Set(plan.signals.flatMap(({ pin }) => pin ?? []));
  const found = new Map<string, Setting>();
  for (const signal of plan.signals) {
    const setting = loopOf(part, path, signal, taken, passes);
    if (!setting || !passes(signal, setting)) continue;
    for (const pin of pinsOfSetting(setting)) taken.add(pin);
    found.set(signal.id, setting);
  }
  return found;
}

/** The settings that an assignment found, with those of the loops beside it; none where it found none. */
export function withLoops(
  { feasible, settings }: Assignment,
  requests: readonly Request[],
  loops: ReadonlyMap<string, Setting>,
): { signal: string; setting: Setting }[] {
  if (!feasible) return [];
  return [
    ...settings.map((setting, at) => ({ signal: requests[at]?.id ?? '', setting })),
    ...[...loops].map(([signal, setting]) => ({ signal, setting })),
  ];
}
