import { pinsOfSetting } from '../timer/setting.ts';
import { rootOf, type Option, type Place, type Request } from './request.ts';

/** A signal on a timer that still needs its channel and pin. */
export type Seated = { request: Request; option: Option };

/** Steps that looking for places may take before it is given up. */
const MOST_STEPS = 20_000;

function channelKey({ option }: Seated, { channel }: Place): string | undefined {
  return channel === undefined ? undefined : `${rootOf(option.timer)} ${channel}`;
}

/** Channels whose match a mode uses as its top, or whose interrupt makes the tick, are not there for others. */
function lostChannels({ option: { timer, mode } }: Seated): string[] {
  const top = mode.top.kind === 'channel' ? [mode.top.channel] : [];
  return top.map((channel) => `${rootOf(timer)} ${channel}`);
}

/** A mode's own top channel can still toggle its pin, as its compare value is the top. */
function mayTake(seated: Seated, key: string, lost: ReadonlySet<string>): boolean {
  return !lost.has(key) || seated.option.drive === 'toggle' || seated.request.stays !== undefined;
}

/** Pins that some signal must have, whatever else is free. */
function fixedPins(seated: readonly Seated[]): Map<string, number> {
  const owners = new Map<string, number>();
  seated.forEach(({ request }, at) => {
    const own = request.stays ? pinsOfSetting(request.stays) : request.pin === undefined ? [] : [request.pin];
    for (const pin of own) owners.set(pin, at);
    if (request.opposite) owners.set(request.opposite.pin, at);
  });
  return owners;
}

/** The channels a seat could take, whatever their pins; none where it needs no channel. */
function channelsOf(seated: Seated, lost: ReadonlySet<string>): string[] {
  const keys = seated.option.places.flatMap((place) => channelKey(seated, place) ?? []);
  return [...new Set(keys)].filter((key) => mayTake(seated, key, lost));
}

/**
 * Whether every signal that needs a channel can have one of its own, pins aside: a matching grown along paths on which
 * those before move on.
 */
export function channelsSuffice(seated: readonly Seated[]): boolean {
  const lost = new Set(seated.flatMap(lostChannels));
  const needing = seated.filter(({ option }) => option.places.every(({ channel }) => channel !== undefined));
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
 * leads nowhere. Undefined where there are none. `spent` tells whether it was given up before all were tried.
 */
export function placesFor(seated: readonly Seated[]): { places?: Place[]; spent: boolean } {
  const order = seated.map((_, at) => at);
  order.sort(
    (one, other) => (seated[one]?.option.places.length ?? 0) - (seated[other]?.option.places.length ?? 0),
  );
  const fixed = fixedPins(seated);
  const lost = new Set(seated.flatMap(lostChannels));
  const channels = new Set<string>();
  const pins = new Set<string>();
  const chosen: Place[] = [];
  let steps = 0;
  const go = (depth: number): boolean => {
    const at = order[depth];
    const own = at === undefined ? undefined : seated[at];
    if (at === undefined || !own) return true;
    for (const place of own.option.places) {
      if (steps >= MOST_STEPS) return false;
      steps += 1;
      const key = channelKey(own, place);
      const { pin } = place;
      if (key !== undefined && (channels.has(key) || !mayTake(own, key, lost))) continue;
      if (pin !== undefined && (pins.has(pin) || (fixed.get(pin) ?? at) !== at)) continue;
      if (key !== undefined) channels.add(key);
      if (pin !== undefined) pins.add(pin);
      chosen[at] = place;
      if (go(depth + 1)) return true;
      if (key !== undefined) channels.delete(key);
      if (pin !== undefined) pins.delete(pin);
    }
    return false;
  };
  const found = go(0);
  return { ...(found ? { places: chosen } : {}), spent: steps >= MOST_STEPS };
}
