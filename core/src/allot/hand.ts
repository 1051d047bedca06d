import type { ClockPath } from '../clock/path.ts';
import type { Part } from '../part/schema.ts';
import type { Setting } from '../timer/setting.ts';
import type { Shared } from './bench.ts';
import { isHardware } from './bounds.ts';
import { cpuSteps, LEVELS } from './quality.ts';
import { placesFor, type Seated } from './place.ts';
import { polished } from './polish.ts';
import { rootOf, type Option, type Place, type Request } from './request.ts';
import { agreeing, seatedSetting } from './seat.ts';
import { inOrder, useOf, type Sharer } from './sharer.ts';
import type { Worth } from './worth.ts';

/** A timer in use: how it counts, who uses it, and the numbers that serve them. */
export type Desk = { timer: Option['timer']; mode: Option['mode']; seated: number[]; shared: Shared };

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
export type Searched = {
  part: Part;
  path: ClockPath;
  requests: readonly Request[];
  options: Option[][];
  share: Sharer;
};

/** Some signals of a problem by themselves, if wanted on some timers only; what they share is known by their old numbers. */
export function partOf(searched: Searched, ats: readonly number[], roots?: ReadonlySet<string>): Searched {
  const share: Sharer = (option, uses, mostCpu) =>
    searched.share(
      option,
      uses.map((seat) => ({ ...seat, at: ats[seat.at] ?? seat.at })),
      mostCpu,
    );
  const allowed = ({ timer }: Option): boolean => !roots || roots.has(rootOf(timer));
  return {
    ...searched,
    requests: ats.flatMap((at) => searched.requests[at] ?? []),
    options: ats.map((at) => (searched.options[at] ?? []).filter(allowed)),
    share,
  };
}

/** Who uses what so far, with the option of each. */
export type Hand = { desks: Map<string, Desk>; taken: (Option | undefined)[] };

/** What the timers in use are worth. */
export function worthOf({ desks }: Hand): Worth {
  let [cpu, level] = [0, LEVELS];
  for (const { shared } of desks.values()) {
    cpu += shared.cpu;
    level = Math.min(level, shared.level);
  }
  return { cpu, level, timers: desks.size };
}

/** The signals placed so far. */
export function seatedOf({ requests }: Searched, { taken }: Hand): Seated[] {
  return taken.flatMap((option, at) => {
    const request = requests[at];
    return option && request ? [{ request, option }] : [];
  });
}

/** All signals' settings at their places, with the numbers of their timers; undefined where registers stand against them. */
function settingsAt(
  searched: Searched,
  { taken }: Hand,
  places: readonly Place[],
  sharedOf: (root: string) => Shared | undefined,
): Setting[] | undefined {
  const settings: Setting[] = [];
  for (const [at, option] of taken.entries()) {
    const request = searched.requests[at];
    const place = places[at];
    const shared = option && sharedOf(rootOf(option.timer));
    const setting =
      option &&
      request &&
      place &&
      shared &&
      seatedSetting(
        searched.part,
        searched.path,
        { request, option },
        place,
        shared,
        shared.shares[at] ?? {},
      );
    if (!setting) return undefined;
    settings.push(setting);
  }
  return agreeing(searched.part, settings) ? settings : undefined;
}

/** A timer's numbers brought nearer to what its signals want, as long as they are worth the same. */
function polishedDesk({ part, path, requests }: Searched, { taken }: Hand, desk: Desk): Shared {
  const { timer, mode, seated, shared } = desk;
  const uses = seated.flatMap((at) => {
    const [request, option] = [requests[at], taken[at]];
    return request && option ? [useOf(request, option)] : [];
  });
  const own = { ...shared, shares: seated.map((at) => shared.shares[at] ?? {}) };
  return inOrder(
    polished(part, path, { timer, mode }, uses, own),
    seated.map((at) => ({ at })),
  );
}

/** All signals' settings, or undefined where places or registers stand against them. */
export function dealt(searched: Searched, hand: Hand): Setting[] | undefined {
  const { places } = placesFor(seatedOf(searched, hand));
  if (!places) return undefined;
  const shared = new Map([...hand.desks].map(([root, desk]) => [root, desk.shared]));
  let settings = settingsAt(searched, hand, places, (root) => shared.get(root));
  if (!settings) return undefined;
  for (const [root, desk] of hand.desks) {
    const finer = polishedDesk(searched, hand, desk);
    const next = settingsAt(searched, hand, places, (other) => (other === root ? finer : shared.get(other)));
    if (!next) continue;
    shared.set(root, finer);
    settings = next;
  }
  return settings;
}

/** An option that a signal can take now, with what its timer becomes. */
export type Move = { option: Option; root: string; desk: Desk; fresh: boolean };

/** 0 for the timer and drive a signal has now, else 1. */
export function moving({ timer, drive }: Option, request: Request | undefined): number {
  const present = request?.present;
  return present && present.drive === drive && present.timer === timer.id ? 0 : 1;
}

/** What the next signal could take of some options, the best for the whole first. */
export function movesOf(
  searched: Searched,
  hand: Hand,
  at: number,
  options: readonly Option[],
  wanted: Map<string, number>,
): Move[] {
  const moves = options.flatMap((option): Move[] => {
    const root = rootOf(option.timer);
    const before = hand.desks.get(root);
    if (before && (before.timer !== option.timer || before.mode !== option.mode)) return [];
    const uses = [...(before?.seated ?? []), at].map((one) => ({
      at: one,
      option: one === at ? option : (hand.taken[one] ?? option),
    }));
    const shared = searched.share(option, uses);
    if (!shared) return [];
    const desk = { timer: option.timer, mode: option.mode, seated: [...(before?.seated ?? []), at], shared };
    return [{ option, root, desk, fresh: before === undefined }];
  });
  const request = searched.requests[at];
  const cost = ({ root, desk }: Move): number =>
    cpuSteps(desk.shared.cpu - (hand.desks.get(root)?.shared.cpu ?? 0));
  return moves.sort(
    (one, other) =>
      cost(one) - cost(other) ||
      other.desk.shared.level - one.desk.shared.level ||
      Number(one.fresh) - Number(other.fresh) ||
      moving(one.option, request) - moving(other.option, request) ||
      (wanted.get(one.root) ?? 0) - (wanted.get(other.root) ?? 0),
  );
}

/** Whether a signal could still use some timer, channels and pins aside. */
export function canMove({ options, share }: Searched, { desks, taken }: Hand, at: number): boolean {
  return (options[at] ?? []).some((option) => {
    const before = desks.get(rootOf(option.timer));
    if (!before) return share(option, [{ at, option }]) !== undefined;
    if (before.timer !== option.timer || before.mode !== option.mode) return false;
    const uses = before.seated.map((one) => ({ at: one, option: taken[one] ?? option }));
    return share(option, [...uses, { at, option }]) !== undefined;
  });
}

/** The moves of the hardware first; those of the program once these are done with, unless they can win nothing. */
export function* movesInTurn(
  searched: Searched,
  hand: Hand,
  at: number,
  wanted: Map<string, number>,
  settled: (at: number) => boolean,
): Generator<Move> {
  const list = searched.options[at] ?? [];
  yield* movesOf(searched, hand, at, list.filter(isHardware), wanted);
  if (settled(at)) return;
  yield* movesOf(
    searched,
    hand,
    at,
    list.filter((one) => !isHardware(one)),
    wanted,
  );
}
