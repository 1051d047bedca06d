import { clockOf, type ClockPath } from '../../clock/path.ts';
import { phaseBetween, riseOf } from '../../check/check-phase.ts';
import { rootOf, timerOf } from '../../part/find.ts';
import { divisionOf } from '../../part/division.ts';
import type { Part } from '../../part/types.ts';
import type { Phase } from '../../signal/sequence.ts';
import { countsOf, grainOf } from '../../timer/count.ts';
import { isOutput, isToggled } from '../../timer/drives/index.ts';
import { hasTimer, isTopChannel, type OutputSetting, type Setting } from '../../timer/setting.ts';
import type { Place, Request } from '../request.ts';
import { outputSetting } from './setting-at.ts';
import type { Unplaced } from './places.ts';

/** A signal at its place with the setting that its timer's numbers give it. */
export type Seated = Unplaced & { place: Place; setting: Setting };

/** Combinations that are tried for signals with phases to each other. */
const MAX_TRIES = 4000;

/** A toggled output whose match is moved so that it rises at a moment, with each polarity; none on the channel that is the top. */
function movedToggles(
  part: Part,
  path: ClockPath,
  { option: { mode, timer }, place }: Seated,
  setting: OutputSetting,
  riseS: number,
): OutputSetting[] {
  const division = divisionOf(timer.prescaler, setting.prescaler);
  if (!division || isTopChannel(mode, setting.channel)) return [];
  const countS = division.n / division.scale / grainOf(mode) / clockOf(path, timer.clock).valueOf();
  const run = countsOf(mode, setting.top);
  const wanted = Math.round(riseS / countS) - (mode.lag ?? 0);
  return place.outputs.flatMap(({ polarity, drive }): OutputSetting[] => {
    if (drive !== setting.drive) return [];
    const at = (((wanted - (polarity === 'inverted' ? run : 0)) % (2 * run)) + 2 * run) % (2 * run);
    if (at > setting.top) return [];
    const plain: OutputSetting = { ...setting, compare: at };
    delete plain.polarity;
    return [polarity === 'inverted' ? { ...plain, polarity } : plain];
  });
}

/** The timer that a setting counts with, whatever use of it; undefined where none counts. */
function timerOfSetting(part: Part, setting: Setting): string | undefined {
  return hasTimer(setting) ? rootOf(timerOf(part, setting.timer)) : undefined;
}

/** The counts at which a counter may begin, for an output that has to rise at some moments; 0 alone where it cannot choose. */
function begins(
  part: Part,
  path: ClockPath,
  { option: { mode, timer } }: Seated,
  setting: OutputSetting,
  risesS: readonly number[],
): number[] {
  const division = divisionOf(timer.prescaler, setting.prescaler);
  const own = riseOf(part, path, setting);
  if (!timer.preset || mode.count !== 'up' || mode.start || !division || !own) return [0];
  const run = setting.top + mode.base;
  const countS = division.n / division.scale / clockOf(path, timer.clock).valueOf();
  return risesS.map((riseS) => ((Math.round((own.riseS - riseS) / countS) % run) + run) % run);
}

/**
 * The settings a signal can have at its place with the numbers of its timer, the usual one first: each polarity there, and
 * where it must rise at a moment (s from the start of its timer), a toggled output with its match moved there, or a counter
 * that begins at another count. `begin` is the count at which its timer has to begin, where others on it say so.
 */
function variantsOf(
  part: Part,
  path: ClockPath,
  seated: Seated,
  risesS: readonly number[],
  begin?: number,
): Setting[] {
  const plain = plainVariants(part, path, seated, risesS);
  if (seated.request.locked) return plain;
  const outputs = plain.filter((one): one is OutputSetting => isOutput(one) && !isToggled(one.drive));
  const at = (one: OutputSetting, count: number): Setting => (count === 0 ? one : { ...one, begin: count });
  if (begin !== undefined && begin !== 0) return outputs.map((one) => at(one, begin));
  if (begin === 0) return plain;
  const later = outputs.flatMap((one) =>
    begins(part, path, seated, one, risesS).map((count) => at(one, count)),
  );
  return [...plain, ...later.filter((one) => !plain.includes(one))];
}

function plainVariants(part: Part, path: ClockPath, seated: Seated, risesS: readonly number[]): Setting[] {
  const { request, place, setting } = seated;
  if (request.locked || !isOutput(setting)) return [setting];
  const others = place.outputs.filter(
    ({ drive, polarity }) => drive === setting.drive && polarity !== (setting.polarity ?? 'normal'),
  );
  if (isToggled(setting.drive)) {
    const turned = others.map(({ polarity }): OutputSetting => ({ ...setting, polarity }));
    return [
      setting,
      ...turned,
      ...risesS.flatMap((riseS) => movedToggles(part, path, seated, setting, riseS)),
    ];
  }
  const turned = others.flatMap(
    (output) => outputSetting(part, path, seated, { ...place, outputs: [output] }, setting) ?? [],
  );
  return [setting, ...turned];
}

/** The signals that have a phase to another one, or to which one has, each after the one that its phase refers to. */
function inPhaseOrder(requests: readonly Request[]): number[] {
  const ids = new Map(requests.map(({ id }, at) => [id, at]));
  const order: number[] = [];
  const visit = (at: number, depth: number): void => {
    const to = ids.get(requests[at]?.phase?.to ?? '');
    if (to !== undefined && depth < requests.length && !order.includes(to)) visit(to, depth + 1);
    if (!order.includes(at)) order.push(at);
  };
  requests.forEach(({ phase }, at) => {
    if (phase && ids.has(phase.to)) visit(at, 0);
  });
  return order;
}

/** Where a signal would have to rise, against those that are settled, in s from the start of its timer. */
function wantedRises(
  part: Part,
  path: ClockPath,
  request: Request,
  settled: ReadonlyMap<string, Setting>,
): number[] {
  const other = request.phase && settled.get(request.phase.to);
  const theirs = other && riseOf(part, path, other);
  return theirs && request.phase ? [theirs.riseS + request.phase.degrees / 360 / theirs.hz] : [];
}

/**
 * Where a signal that others refer to could rise so that one of them may keep its own match, in s from the start of its timer: of
 * two toggled matches of a counter either may be the moved one.
 */
function yieldingRises(
  part: Part,
  path: ClockPath,
  { request, setting }: Seated,
  all: readonly Request[],
): number[] {
  const own = riseOf(part, path, setting);
  if (!own || request.phase) return [];
  const followers = all.flatMap(({ phase }) => (phase?.to === request.id ? [phase.degrees] : []));
  return followers.map((degrees) => own.riseS - degrees / 360 / own.hz);
}

function inPhase(
  part: Part,
  path: ClockPath,
  phase: Phase | undefined,
  own: { name: string; setting: Setting },
  settled: ReadonlyMap<string, Setting>,
): boolean {
  const other = phase && settled.get(phase.to);
  if (!other) return true;
  return phaseBetween(part, path, phase, own, { name: phase.to, setting: other }).verdict === 'pass';
}

/**
 * The settings of all signals at their places such that every rule is obeyed that is for one of them or for the phase of
 * two; undefined where the variants of their settings allow none.
 */
export function obeying(part: Part, path: ClockPath, seats: readonly Seated[]): Setting[] | undefined {
  const requests = seats.map(({ request }) => request);
  const order = inPhaseOrder(requests);
  const chosen = seats.map(({ setting }) => setting);
  const accepted = ({ request }: Seated, setting: Setting): boolean => request.accepts?.(setting) !== false;
  // A signal that keeps its setting says at which count its timer begins.
  const kept = new Map(
    seats.flatMap(({ request, setting }) =>
      request.locked ? [[timerOfSetting(part, setting), 'begin' in setting ? (setting.begin ?? 0) : 0]] : [],
    ),
  );
  for (const [at, seat] of seats.entries()) {
    if (order.includes(at)) continue;
    const begin = kept.get(timerOfSetting(part, seat.setting));
    const own = variantsOf(part, path, seat, [], begin).find((one) => accepted(seat, one));
    if (!own) return undefined;
    chosen[at] = own;
  }
  // A timer begins at one count for all its signals: with those that have no phase it begins where it always does.
  const free = new Set(
    seats.flatMap(({ setting }, at) => (order.includes(at) ? [] : [timerOfSetting(part, setting)])),
  );
  const beginIn = (setting: Setting, settled: ReadonlyMap<string, Setting>): number | undefined => {
    const timer = timerOfSetting(part, setting);
    const other = [...settled.values()].find((one) => timerOfSetting(part, one) === timer);
    if (other) return 'begin' in other ? (other.begin ?? 0) : 0;
    return kept.get(timer) ?? (free.has(timer) ? 0 : undefined);
  };
  let tries = 0;
  const settled = new Map<string, Setting>();
  const settle = (depth: number): boolean => {
    const at = order[depth];
    const seat = at === undefined ? undefined : seats[at];
    if (at === undefined || !seat) return true;
    const { request } = seat;
    const rises = [
      ...wantedRises(part, path, request, settled),
      ...yieldingRises(part, path, seat, requests),
    ];
    for (const setting of variantsOf(part, path, seat, rises, beginIn(seat.setting, settled))) {
      tries += 1;
      if (tries > MAX_TRIES) return false;
      if (!accepted(seat, setting)) continue;
      if (!inPhase(part, path, request.phase, { name: request.name, setting }, settled)) continue;
      // A ring of phases comes back to a signal that was settled before this one.
      settled.set(request.id, setting);
      const others = requests.every(
        ({ id, name, phase }) =>
          phase?.to !== request.id ||
          !settled.has(id) ||
          inPhase(part, path, phase, { name, setting: settled.get(id) as Setting }, settled),
      );
      chosen[at] = setting;
      if (others && settle(depth + 1)) return true;
      settled.delete(request.id);
    }
    return false;
  };
  return settle(0) ? chosen : undefined;
}

/** Whether a signal obeys its own rules at some place of an option, with numbers that the timer would have for it alone. */
export function ownRulesHold(part: Part, path: ClockPath, seat: Seated): boolean {
  return variantsOf(part, path, seat, []).some((one) => seat.request.accepts?.(one) !== false);
}
