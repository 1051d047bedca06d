import { pinsOfSetting } from '../../timer/setting.ts';
import type { Timer } from '../../part/types.ts';
import { isToggled } from '../../timer/drives/index.ts';
import type { Option, Place, Request } from '../request.ts';
import { rootOf } from '../../part/find.ts';

/** A signal on a timer that still needs its channel and pin. */
export type Unplaced = { request: Request; option: Option };

/** Steps that looking for places may take before it is abandoned. */
const MAX_STEPS = 20_000;

/** What stands for a channel: its compare registers, as one that several timers can feed is one channel all the same. */
function keyOf(timer: Timer, channel: string): string {
  const compare = timer.channels.find(({ id }) => id === channel)?.compare ?? {};
  return Object.keys(compare).join() || `${rootOf(timer)} ${channel}`;
}

function channelKey({ option }: Unplaced, { channel }: Place): string | undefined {
  return channel === undefined ? undefined : keyOf(option.timer, channel);
}

/** What stands for all channels of a place: its own, and one that makes its opposite. */
function channelKeys({ option }: Unplaced, { channel, second }: Place): string[] {
  return [channel, second].flatMap((id) => (id === undefined ? [] : [keyOf(option.timer, id)]));
}

/** Channels whose match a mode uses as its top, or whose interrupt makes the tick, are not there for others. */
function lostChannels({ option: { timer, mode } }: Unplaced): string[] {
  const top = mode.top.kind === 'channel' ? [mode.top.channel] : [];
  return top.map((channel) => keyOf(timer, channel));
}

/** A mode's own top channel can still toggle its pin, as its compare value is the top. */
function mayTake(members: Unplaced, key: string, lost: ReadonlySet<string>): boolean {
  return !lost.has(key) || isToggled(members.option.drive) || members.request.locked !== undefined;
}

/** The pins that a place takes: its own, and those that its output drives besides, one of which may be the opposite's. */
function pinsAt({ pin, outputs }: Place, { opposite }: Request): string[] {
  const besides = outputs.flatMap(({ takes = [] }) => takes).filter((other) => other !== opposite?.pin);
  return pin === undefined ? [] : [...new Set([pin, ...besides])];
}

/** Pins that some signal must have, whatever else is free. */
function fixedPins(members: readonly Unplaced[]): Map<string, number> {
  const owners = new Map<string, number>();
  members.forEach(({ request }, at) => {
    const own = request.locked
      ? pinsOfSetting(request.locked)
      : request.pin === undefined
        ? []
        : [request.pin];
    for (const pin of own) owners.set(pin, at);
    if (request.opposite) owners.set(request.opposite.pin, at);
  });
  return owners;
}

/** The channels a signal could take, whatever their pins; none if it needs no channel. */
function channelsOf(members: Unplaced, lost: ReadonlySet<string>): string[] {
  const keys = members.option.places.flatMap((place) => channelKey(members, place) ?? []);
  return [...new Set(keys)].filter((key) => mayTake(members, key, lost));
}

/**
 * Whether every signal that needs a channel can have one of its own, pins aside: a matching grown along paths on which
 * those before move on.
 */
export function channelsSuffice(members: readonly Unplaced[]): boolean {
  const lost = new Set(members.flatMap(lostChannels));
  const needing = members.filter(({ option }) => option.places.every(({ channel }) => channel !== undefined));
  const able = needing.map((one) => channelsOf(one, lost));
  const holder = new Map<string, number>();
  const grow = (at: number, tried: Set<string>): boolean =>
    (able[at] ?? []).some((key) => {
      if (tried.has(key)) return false;
      tried.add(key);
      const other = holder.get(key);
      if (other !== undefined && !grow(other, tried)) return false;
      holder.set(key, at);
      return true;
    });
  return needing.every((_, at) => grow(at, new Set()));
}

/**
 * A channel and a pin for every signal, no channel and no pin twice: the first that are free, with steps back where that
 * leads nowhere. Undefined where there are none. `spent` tells whether it was abandoned before all were tried.
 */
export function placesFor(members: readonly Unplaced[]): { places?: Place[]; spent: boolean } {
  const order = members.map((_, at) => at);
  order.sort(
    (one, other) => (members[one]?.option.places.length ?? 0) - (members[other]?.option.places.length ?? 0),
  );
  const fixed = fixedPins(members);
  const lost = new Set(members.flatMap(lostChannels));
  const channels = new Set<string>();
  const pins = new Set<string>();
  const chosen: Place[] = [];
  let steps = 0;
  /** What a place takes, each with the set that remembers it. */
  const held = (keys: readonly string[], taken: readonly string[]): [Set<string>, string][] => [
    ...keys.map((key) => [channels, key] as [Set<string>, string]),
    ...taken.map((pin) => [pins, pin] as [Set<string>, string]),
  ];
  const go = (depth: number): boolean => {
    const at = order[depth];
    const own = at === undefined ? undefined : members[at];
    if (at === undefined || !own) return true;
    for (const place of own.option.places) {
      if (steps >= MAX_STEPS) return false;
      steps += 1;
      const keys = channelKeys(own, place);
      const taken = pinsAt(place, own.request);
      if (keys.some((key) => channels.has(key) || !mayTake(own, key, lost))) continue;
      if (taken.some((pin) => pins.has(pin) || (fixed.get(pin) ?? at) !== at)) continue;
      for (const [set, one] of held(keys, taken)) set.add(one);
      chosen[at] = place;
      if (go(depth + 1)) return true;
      for (const [set, one] of held(keys, taken)) set.delete(one);
    }
    return false;
  };
  const found = go(0);
  return { ...(found ? { places: chosen } : {}), spent: steps >= MAX_STEPS };
}
