import type { ClockPath } from '../clock/path.ts';
import type { Part } from '../part/schema.ts';
import { pinsOfSetting, type Setting } from '../timer/setting.ts';
import type { Limits } from './bench.ts';
import { boundsOf } from './bounds.ts';
import { exactAllotment, impossible, type Covered } from './exact.ts';
import type { Searched } from './hand.ts';
import { improved } from './improve.ts';
import { optionsOf, rootOf, type Request } from './request.ts';
import { shapeOf } from './shape.ts';
import { sharer } from './sharer.ts';
import { searchTree } from './tree.ts';
import { compareWorth, type Worth } from './worth.ts';

/** Which signal gets which setting. `optimal` only where nothing better can exist, by proof. */
export type Allotment = {
  feasible: boolean;
  optimal: boolean;
  /** In the order of the requests; empty where it does not go. */
  settings: Setting[];
  worth?: Worth;
  /** Places in the search that were looked at. */
  nodes: number;
};

/** What a search may do: timers nobody may have, and whether it may still go on (asked from time to time). */
export type AllotRules = { reserved?: ReadonlySet<string>; goOn?: () => boolean; anyWill?: boolean };

/** Whether two signals must have one pin. */
function samePin(requests: readonly Request[]): boolean {
  const pins = requests.flatMap(({ pin, stays, opposite }) => [
    ...(stays ? pinsOfSetting(stays) : pin === undefined ? [] : [pin]),
    ...(opposite && !stays ? [opposite.pin] : []),
  ]);
  return new Set(pins).size < pins.length;
}

/**
 * An assignment of drive, timer, channel and pin to every signal, with one prescaler and top for each timer, such that
 * all goals hold with the oscillator's tolerance on top; of all of them the best by `Worth`. First every group of signals
 * that a timer can serve, and the best cover by them (`exact.ts`); where that is too much, or pins and registers stand
 * against it, branch and bound (`tree.ts`). `optimal` is true only where nothing better can exist.
 */
export function allot(
  part: Part,
  path: ClockPath,
  requests: readonly Request[],
  rules: AllotRules = {},
): Allotment {
  const reserved = rules.reserved ?? new Set<string>();
  const options = requests.map((request) => optionsOf(part, path, request, reserved));
  const limits: Limits = { hit: false };
  const searched: Searched = { part, path, requests, options, share: sharer(part, path, requests, limits) };
  if (options.some((list) => list.length === 0) || samePin(requests))
    return { feasible: false, optimal: true, settings: [], nodes: 0 };
  const shapes = new Map(part.timers.map((timer) => [rootOf(timer), shapeOf(part, path, rootOf(timer))]));
  const goOn = (): boolean => rules.goOn?.() !== false;
  if (impossible(searched, shapes, goOn))
    return { feasible: false, optimal: !limits.hit, settings: [], nodes: 0 };
  const bounds = boundsOf(searched);
  const boundSure = !limits.hit;
  const exact: Covered = rules.anyWill ? { kind: 'unknown' } : exactAllotment(searched, shapes, bounds, goOn);
  if (exact.kind === 'none') return { feasible: false, optimal: !limits.hit, settings: [], nodes: 0 };
  if (exact.kind === 'best') {
    const { settings, worth, columns: nodes } = exact;
    return { feasible: true, optimal: !limits.hit, settings, worth, nodes };
  }
  const worth = exact.kind === 'bound' ? exact.worth : bounds.worth();
  // Where sets are too many, any way is looked for and then made better.
  const anyWill = rules.anyWill === true || exact.kind === 'unknown';
  const found = searchTree(searched, shapes, { bounds, worth }, { goOn, anyWill });
  if (!found.best)
    return { feasible: false, optimal: found.whole && !limits.hit, settings: [], nodes: found.nodes };
  const best = anyWill && !rules.anyWill ? improved(searched, shapes, found.best, goOn) : found.best;
  const sure = exact.kind === 'bound' ? !limits.hit : boundSure;
  const met = compareWorth(best.worth, worth) <= 0;
  return {
    feasible: true,
    optimal: (found.whole && !anyWill && !limits.hit) || (sure && met),
    settings: best.settings,
    worth: best.worth,
    nodes: found.nodes,
  };
}
