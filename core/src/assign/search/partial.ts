import type { ClockPath } from '../../clock/path.ts';
import type { Part } from '../../part/types.ts';
import { timerIdOf, type Setting } from '../../timer/setting.ts';
import type { Shared } from '../counter/context.ts';
import { isHardware } from './bounds.ts';
import { cpuSteps, LEVELS } from '../counter/quality.ts';
import { placesFor, type Unplaced } from '../place/places.ts';
import { refined } from '../counter/refine.ts';
import type { Option, Place, Request } from '../request.ts';
import { registersAgree, settingAt } from '../place/setting-at.ts';
import { obeying, type Seated } from '../place/variants.ts';
import { inOrder, useOf, type CounterSolver } from '../counter/counter-solver.ts';
import type { Objective } from '../objective.ts';
import { rootOf } from '../../part/find.ts';

/** A timer in use: how it counts, who uses it, and the numbers that serve them. */
export type TimerGroup = { timer: Option['timer']; mode: Option['mode']; members: number[]; shared: Shared };

/** How many signals could use each timer: those that few others want are taken first. */
export function wantedBy(options: readonly Option[][]): Map<string, number> {
  const wanted = new Map<string, number>();
  for (const list of options) {
    for (const root of new Set(list.map(({ timer }) => rootOf(timer))))
      wanted.set(root, (wanted.get(root) ?? 0) + 1);
  }
  return wanted;
}

/** A problem as the search sees it. */
export type Problem = {
  part: Part;
  path: ClockPath;
  requests: readonly Request[];
  options: Option[][];
  share: CounterSolver;
};

/** Some signals of a problem by themselves, if wanted on some timers only; what they share is known by their old numbers. */
export function partOf(problem: Problem, ats: readonly number[], roots?: ReadonlySet<string>): Problem {
  const share: CounterSolver = (option, uses, maxCpu) =>
    problem.share(
      option,
      uses.map((member) => ({ ...member, at: ats[member.at] ?? member.at })),
      maxCpu,
    );
  const allowed = ({ timer }: Option): boolean => !roots || roots.has(rootOf(timer));
  return {
    ...problem,
    requests: ats.flatMap((at) => problem.requests[at] ?? []),
    options: ats.map((at) => (problem.options[at] ?? []).filter(allowed)),
    share,
  };
}

/** Who uses what so far, with the option of each. */
export type PartialAssignment = { groups: Map<string, TimerGroup>; taken: (Option | undefined)[] };

/** What the timers in use are worth. */
export function objectiveOf({ groups }: PartialAssignment): Objective {
  let [cpu, level] = [0, LEVELS];
  for (const { shared } of groups.values()) {
    cpu += shared.cpu;
    level = Math.min(level, shared.level);
  }
  return { cpu, level, timers: groups.size };
}

/** The signals placed so far. */
export function unplacedOf({ requests }: Problem, { taken }: PartialAssignment): Unplaced[] {
  return taken.flatMap((option, at) => {
    const request = requests[at];
    return option && request ? [{ request, option }] : [];
  });
}

/** All signals' settings at their places, with the numbers of their timers; undefined if their registers conflict. */
function settingsAt(
  problem: Problem,
  { taken }: PartialAssignment,
  places: readonly Place[],
  sharedOf: (root: string) => Shared | undefined,
): Setting[] | undefined {
  const seats: Seated[] = [];
  for (const [at, option] of taken.entries()) {
    const request = problem.requests[at];
    const place = places[at];
    const shared = option && sharedOf(rootOf(option.timer));
    const setting =
      option &&
      request &&
      place &&
      shared &&
      settingAt(problem.part, problem.path, { request, option }, place, shared, shared.shares[at] ?? {});
    if (!setting) return undefined;
    seats.push({ request, option, place, setting });
  }
  const settings = obeying(problem.part, problem.path, seats);
  return settings && registersAgree(problem.part, settings) ? settings : undefined;
}

/** A timer's numbers brought nearer to what its signals want, as long as they are worth the same. */
function refinedGroup(
  { part, path, requests }: Problem,
  { taken }: PartialAssignment,
  group: TimerGroup,
): Shared {
  const { timer, mode, members, shared } = group;
  const uses = members.flatMap((at) => {
    const [request, option] = [requests[at], taken[at]];
    return request && option ? [useOf(request, option)] : [];
  });
  const own = { ...shared, shares: members.map((at) => shared.shares[at] ?? {}) };
  return inOrder(
    refined(part, path, { timer, mode }, uses, own),
    members.map((at) => ({ at })),
  );
}

/**
 * All signals' settings, or undefined if places or registers conflict. Timers are brought nearer to what is wanted all at once, as
 * signals in phase need the same frequency on each; else those that can be one by one.
 */
export function partialSettings(problem: Problem, partial: PartialAssignment): Setting[] | undefined {
  const { places } = placesFor(unplacedOf(problem, partial));
  if (!places) return undefined;
  const shared = new Map([...partial.groups].map(([root, group]) => [root, group.shared]));
  let settings = settingsAt(problem, partial, places, (root) => shared.get(root));
  if (!settings) return undefined;
  const finest = new Map(
    [...partial.groups].map(([root, group]) => [root, refinedGroup(problem, partial, group)]),
  );
  const together = settingsAt(problem, partial, places, (root) => finest.get(root));
  if (together) return together;
  for (const [root, finer] of finest) {
    const next = settingsAt(problem, partial, places, (other) =>
      other === root ? finer : shared.get(other),
    );
    if (!next) continue;
    shared.set(root, finer);
    settings = next;
  }
  return settings;
}

/** An option that a signal can take now, with what its timer becomes. */
export type Move = { option: Option; root: string; group: TimerGroup; fresh: boolean };

/** 0 for the timer and drive a signal has now, else 1. */
export function moving({ timer, drive }: Option, request: Request | undefined): number {
  const present = request?.present;
  return present && present.drive === drive && timerIdOf(present) === timer.id ? 0 : 1;
}

/** What the next signal could take of some options, the best for the whole first. */
export function movesOf(
  problem: Problem,
  partial: PartialAssignment,
  at: number,
  options: readonly Option[],
  wanted: Map<string, number>,
): Move[] {
  const moves = options.flatMap((option): Move[] => {
    const root = rootOf(option.timer);
    const before = partial.groups.get(root);
    if (before && (before.timer !== option.timer || before.mode !== option.mode)) return [];
    const uses = [...(before?.members ?? []), at].map((one) => ({
      at: one,
      option: one === at ? option : (partial.taken[one] ?? option),
    }));
    const shared = problem.share(option, uses);
    if (!shared) return [];
    const group = {
      timer: option.timer,
      mode: option.mode,
      members: [...(before?.members ?? []), at],
      shared,
    };
    return [{ option, root, group, fresh: before === undefined }];
  });
  const request = problem.requests[at];
  const cost = ({ root, group }: Move): number =>
    cpuSteps(group.shared.cpu - (partial.groups.get(root)?.shared.cpu ?? 0));
  return moves.sort(
    (one, other) =>
      cost(one) - cost(other) ||
      other.group.shared.level - one.group.shared.level ||
      Number(one.fresh) - Number(other.fresh) ||
      moving(one.option, request) - moving(other.option, request) ||
      (wanted.get(one.root) ?? 0) - (wanted.get(other.root) ?? 0),
  );
}

/** Whether a signal could still use some timer, channels and pins aside. */
export function canMove(
  { options, share }: Problem,
  { groups, taken }: PartialAssignment,
  at: number,
): boolean {
  return (options[at] ?? []).some((option) => {
    const before = groups.get(rootOf(option.timer));
    if (!before) return share(option, [{ at, option }]) !== undefined;
    if (before.timer !== option.timer || before.mode !== option.mode) return false;
    const uses = before.members.map((one) => ({ at: one, option: taken[one] ?? option }));
    return share(option, [...uses, { at, option }]) !== undefined;
  });
}

/** The moves of the hardware first; those of the program once these are done with, unless they can win nothing. */
export function* movesInTurn(
  problem: Problem,
  partial: PartialAssignment,
  at: number,
  wanted: Map<string, number>,
  settled: (at: number) => boolean,
): Generator<Move> {
  const list = problem.options[at] ?? [];
  yield* movesOf(problem, partial, at, list.filter(isHardware), wanted);
  if (settled(at)) return;
  yield* movesOf(
    problem,
    partial,
    at,
    list.filter((one) => !isHardware(one)),
    wanted,
  );
}
