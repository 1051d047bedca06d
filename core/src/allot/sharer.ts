import { clockOf, type ClockPath } from '../clock/path.ts';
import type { Part } from '../part/schema.ts';
import type { Option, Request } from './request.ts';
import { shareCounter, type Shared, type Use } from './share.ts';

/** A signal, by its number, that uses a counter in one of its ways. */
export type Seat = { at: number; option: Option };

/** The numbers of a counter for a set of its users; undefined where it cannot serve them all. */
export type Sharer = (option: Pick<Option, 'timer' | 'mode'>, uses: readonly Seat[]) => Shared | undefined;

/** The polarities that some place of an option has. */
function polaritiesOf({ places }: Option): ('normal' | 'inverted')[] {
  const outputs = places.flatMap((place) => place.outputs);
  return (['normal', 'inverted'] as const).filter((one) => outputs.some(({ polarity }) => polarity === one));
}

function useOf(request: Request, option: Option): Use {
  const { drive, places } = option;
  const all = places.flatMap((place) => place.outputs);
  const outputs = polaritiesOf(option).flatMap((one) => all.find(({ polarity }) => polarity === one) ?? []);
  const channel = places.find((place) => place.channel !== undefined)?.channel;
  return { request, drive, outputs, ...(channel === undefined ? {} : { channel }) };
}

/** Counters that can do the same give the same numbers; they are computed once. */
export function sharer(part: Part, path: ClockPath, requests: readonly Request[]): Sharer {
  const known = new Map<string, Shared | undefined>();
  const shapes = new Map<Option['mode'], string>();
  const shapeOf = ({ timer, mode }: Pick<Option, 'timer' | 'mode'>): string => {
    const shape =
      shapes.get(mode) ??
      JSON.stringify([
        clockOf(path, timer.clock).toString(),
        path.clocks.get(timer.clock)?.tolerancePpm,
        timer.width,
        { ...timer.prescaler, writes: 0 },
        {
          ...mode,
          writes: 0,
          compare: { ...mode.compare, channels: 0 },
          toggle: 0,
          top: { ...mode.top, writes: 0 },
        },
      ]);
    shapes.set(mode, shape);
    return shape;
  };
  return (option, uses) => {
    const stays = uses.some(({ at }) => requests[at]?.stays);
    const captures = uses.some(({ option: one }) => one.drive === 'capture');
    const own = stays || captures ? option.timer.id : '';
    const names = uses.map(
      ({ at, option: one }) => `${at} ${one.drive} ${one.places[0]?.outputs.length ?? 0}`,
    );
    const key = `${own}${shapeOf(option)}|${names.sort().join()}`;
    if (known.has(key)) return known.get(key);
    const list = uses.flatMap(({ at, option: one }) => {
      const request = requests[at];
      return request ? [useOf(request, one)] : [];
    });
    const shared = shareCounter(part, path, option, list);
    known.set(key, shared && inOrder(shared, uses));
    return known.get(key);
  };
}

/** The shares of a counter by the number of their signal, so that a cached one suits any order of its users. */
function inOrder(shared: Shared, uses: readonly { at: number }[]): Shared {
  const shares: Shared['shares'] = [];
  uses.forEach(({ at }, index) => {
    shares[at] = shared.shares[index] ?? {};
  });
  return { ...shared, shares };
}
