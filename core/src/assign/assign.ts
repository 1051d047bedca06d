import type { ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import { pinsOfSetting, type Setting } from '../timer/setting.ts';
import type { Limits } from './counter/context.ts';
import { boundsOf } from './search/bounds.ts';
import { exactAssignment, impossible, type Covered } from './search/exact-search.ts';
import type { Problem } from './search/partial.ts';
import { improved } from './search/local-search.ts';
import { optionsOf, type Option, type Place, type Request } from './request.ts';
import { settingAt } from './place/setting-at.ts';
import { ownRulesHold } from './place/variants.ts';
import { shapeOf } from './counter/timer-shape.ts';
import { counterSolver, type CounterSolver } from './counter/counter-solver.ts';
import { searchTree } from './search/tree-search.ts';
import { compareObjectives, type Objective } from './objective.ts';
import { rootOf } from '../part/find.ts';

/** Which signal gets which setting. `optimal` only where nothing better can exist, by proof. */
export type Assignment = {
  feasible: boolean;
  optimal: boolean;
  /** In the order of the requests; empty where it does not fit. */
  settings: Setting[];
  objective?: Objective;
  /** Places in the search that were looked at. */
  nodes: number;
};

/** What a search may do: timers and pins that are not free, and whether it may still go on (asked from time to time). */
export type AssignRules = {
  reserved?: ReadonlySet<string>;
  /** Pins that something else has. */
  pins?: ReadonlySet<string>;
  mayContinue?: () => boolean;
  anyFeasible?: boolean;
};

/** Whether two signals must have one pin, or one of them a pin that is taken. */
function samePin(requests: readonly Request[], taken: ReadonlySet<string>): boolean {
  const pins = requests.flatMap(({ pin, locked, opposite }) => [
    ...(locked ? pinsOfSetting(locked) : pin === undefined ? [] : [pin]),
    ...(opposite && !locked ? [opposite.pin] : []),
  ]);
  return new Set(pins).size < pins.length || pins.some((pin) => taken.has(pin));
}

/** Options without the places at pins that are taken. Lists of places are shared among options, and stay so. */
function withoutPins(options: Option[], taken: ReadonlySet<string>): Option[] {
  if (taken.size === 0) return options;
  const kept = new Map<readonly Place[], Place[]>();
  return options.flatMap((option) => {
    const places =
      kept.get(option.places) ?? option.places.filter(({ pin }) => pin === undefined || !taken.has(pin));
    kept.set(option.places, places);
    return places.length === 0 ? [] : [{ ...option, places }];
  });
}

/**
 * The options of a signal with rules beyond its requirement (a sequence, a first edge) on which it obeys them by itself; none
 * where it is locked to a setting that breaks its rules.
 * With the numbers of another signal beside it an option might do after all, so leaving some out proves nothing, unless no
 * numbers would do; where all are left out, the signal fits nowhere.
 */
function obeyingOptions(
  part: Part,
  path: ClockPath,
  { request, at, share, limits }: { request: Request; at: number; share: CounterSolver; limits: Limits },
  options: Option[],
): Option[] {
  if (request.locked) return request.accepts?.(request.locked) === false ? [] : options;
  if (!request.strict) return options;
  let unproven = false;
  const able = options.filter((option) => {
    const shared = share(option, [{ at, option }]);
    const [place] = option.places;
    const setting =
      shared && place && settingAt(part, path, { request, option }, place, shared, shared.shares[at] ?? {});
    const obeys = setting && ownRulesHold(part, path, { request, option, place, setting });
    if (!obeys && !(setting && request.never?.(setting))) unproven = true;
    return obeys;
  });
  if (able.length > 0 && unproven) limits.hit = true;
  return able;
}

/**
 * An assignment of drive, timer, channel and pin to every signal, with one prescaler and top for each timer, such that
 * all requirements hold with the oscillator's tolerance on top; of all of them the best by `compareObjectives`. First every
 * group of signals that a timer can serve, and the best cover by them (`exactAssignment`); if that is too much, or pins and
 * registers conflict, branch and bound (`searchTree`). `optimal` is true only if nothing better can exist.
 */
export function assign(
  part: Part,
  path: ClockPath,
  requests: readonly Request[],
  rules: AssignRules = {},
): Assignment {
  const reserved = rules.reserved ?? new Set<string>();
  const taken = rules.pins ?? new Set<string>();
  const limits: Limits = { hit: false };
  const share = counterSolver(part, path, requests, limits);
  const options = requests.map((request, at) =>
    obeyingOptions(
      part,
      path,
      { request, at, share, limits },
      withoutPins(optionsOf(part, path, request, reserved), taken),
    ),
  );
  const problem: Problem = {
    part,
    path,
    requests,
    options,
    share,
  };
  if (samePin(requests, taken)) return { feasible: false, optimal: true, settings: [], nodes: 0 };
  if (options.some((list) => list.length === 0))
    return { feasible: false, optimal: !limits.hit, settings: [], nodes: 0 };
  const shapes = new Map(part.timers.map((timer) => [rootOf(timer), shapeOf(part, path, rootOf(timer))]));
  const mayContinue = (): boolean => rules.mayContinue?.() !== false;
  if (impossible(problem, shapes, mayContinue))
    return { feasible: false, optimal: !limits.hit, settings: [], nodes: 0 };
  const bounds = boundsOf(problem);
  const boundSure = !limits.hit;
  const exact: Covered = rules.anyFeasible
    ? { kind: 'unknown' }
    : exactAssignment(problem, shapes, bounds, mayContinue);
  if (exact.kind === 'none') return { feasible: false, optimal: !limits.hit, settings: [], nodes: 0 };
  if (exact.kind === 'best') {
    const { settings, objective, columns: nodes } = exact;
    return { feasible: true, optimal: !limits.hit, settings, objective, nodes };
  }
  const objective = exact.kind === 'bound' ? exact.objective : bounds.objective();
  // Where sets are too many, any way is looked for and then made better.
  const anyFeasible = rules.anyFeasible === true || exact.kind === 'unknown';
  const found = searchTree(problem, shapes, { bounds, objective }, { mayContinue, anyFeasible });
  if (!found.best)
    return { feasible: false, optimal: found.whole && !limits.hit, settings: [], nodes: found.nodes };
  const best =
    anyFeasible && !rules.anyFeasible ? improved(problem, shapes, found.best, mayContinue) : found.best;
  const sure = exact.kind === 'bound' ? !limits.hit : boundSure;
  const met = compareObjectives(best.objective, objective) <= 0;
  return {
    feasible: true,
    optimal: (found.whole && !anyFeasible && !limits.hit) || (sure && met),
    settings: best.settings,
    objective: best.objective,
    nodes: found.nodes,
  };
}
