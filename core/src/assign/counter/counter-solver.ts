import { clockOf, type ClockPath } from '../../clock/path.ts';
import type { Mode, Part, Timer } from '../../part/types.ts';
import type { Option, Request } from '../request.ts';
import { isInputUse, type Limits, type Shared, type Use } from './context.ts';
import { shareCounter } from './share-counter.ts';

/** A signal, by its number, that uses a counter in one of its ways. */
export type Member = { at: number; option: Option };

/** The numbers of a counter for a set of its users; undefined where it cannot serve them all at that price. */
export type CounterSolver = (
  option: Pick<Option, 'timer' | 'mode'>,
  uses: readonly Member[],
  maxCpu?: number,
) => Shared | undefined;

const polarities = new WeakMap<Option, ('normal' | 'inverted')[]>();

/** The polarities that some place of an option has. */
function polaritiesOf(option: Option): ('normal' | 'inverted')[] {
  const known = polarities.get(option);
  if (known) return known;
  const found = (['normal', 'inverted'] as const).filter((one) =>
    option.places.some(({ outputs }) => outputs.some(({ polarity }) => polarity === one)),
  );
  polarities.set(option, found);
  return found;
}

const uses = new WeakMap<Option, WeakMap<Request, Use>>();

/** A request in one of its ways, at any of its places. */
export function useOf(request: Request, option: Option): Use {
  const known = uses.get(option) ?? new WeakMap<Request, Use>();
  uses.set(option, known);
  const before = known.get(request);
  if (before) return before;
  const { drive, places } = option;
  const all = places.flatMap((place) => place.outputs);
  const outputs = polaritiesOf(option).flatMap((one) => all.find(({ polarity }) => polarity === one) ?? []);
  const channel = places.find((place) => place.channel !== undefined)?.channel;
  const use: Use = { request, drive, outputs, ...(channel === undefined ? {} : { channel }) };
  known.set(request, use);
  return use;
}

/** A prescaler without its registers. */
export function dividesAlike(prescaler: Timer['prescaler']): unknown {
  return prescaler.kind === 'list'
    ? prescaler.options.map((one) => one.divide)
    : [prescaler.min, prescaler.max, prescaler.scale];
}

/** All of a mode that numbers depend on: no names, no registers, channels by their place among the timer's. */
export function countsAlike(timer: Timer, mode: Mode): unknown {
  const place = (id: string): number | string => {
    const at = timer.channels.findIndex((one) => one.id === id);
    return at < 0 ? id : at;
  };
  const { pwm, toggle, top, tick } = mode;
  return {
    ...mode,
    id: 0,
    name: 0,
    writes: 0,
    same: 0,
    tick: tick === undefined ? 0 : place(tick),
    pwm: pwm && { ...pwm, channels: pwm.channels.map(place) },
    toggle: toggle?.channels.map(place),
    top: { ...top, writes: 0, ...(top.kind === 'channel' ? { channel: place(top.channel) } : {}) },
  };
}

/** Counters that can do the same give the same numbers; they are computed once. */
export function counterSolver(
  part: Part,
  path: ClockPath,
  requests: readonly Request[],
  limits: Limits,
): CounterSolver {
  /** What was found; where nothing was, up to which price it was looked for. */
  const known = new Map<string, { shared?: Shared; upTo: number }>();
  const shapes = new Map<string, number>();
  const numbers = new Map<string, number>();
  /** Modes that count alike have one number. */
  const shapeOf = ({ timer, mode }: Pick<Option, 'timer' | 'mode'>): number => {
    const id = `${timer.id} ${mode.id}`;
    const before = shapes.get(id);
    if (before !== undefined) return before;
    const text = JSON.stringify([
      clockOf(path, timer.clock).toString(),
      path.clocks.get(timer.clock)?.tolerancePpm,
      timer.width,
      dividesAlike(timer.prescaler),
      countsAlike(timer, mode),
    ]);
    const shape = numbers.get(text) ?? numbers.size;
    numbers.set(text, shape);
    shapes.set(id, shape);
    return shape;
  };
  return (option, uses, maxCpu = Infinity) => {
    const locked = uses.some(({ at }) => requests[at]?.locked);
    const captures = uses.some(({ option: one }) => isInputUse(one));
    const own = locked || captures ? option.timer.id : '';
    const names = uses.map(({ at, option: one }) => `${at}${one.drive}${polaritiesOf(one).join('')}`);
    const key = `${own}${shapeOf(option)}|${names.sort().join()}`;
    const before = known.get(key);
    if (before && (before.shared || before.upTo >= maxCpu))
      return before.shared && before.shared.cpu <= maxCpu ? before.shared : undefined;
    const list = uses.flatMap(({ at, option: one }) => {
      const request = requests[at];
      return request ? [useOf(request, one)] : [];
    });
    const found = shareCounter(part, path, option, list, limits, maxCpu);
    const shared = found && inOrder(found, uses);
    known.set(key, { ...(shared ? { shared } : {}), upTo: maxCpu });
    return shared && shared.cpu <= maxCpu ? shared : undefined;
  };
}

/** The shares of a counter by the number of their signal, so that a cached one suits any order of its users. */
export function inOrder(shared: Shared, uses: readonly { at: number }[]): Shared {
  const shares: Shared['shares'] = [];
  uses.forEach(({ at }, index) => {
    shares[at] = shared.shares[index] ?? {};
  });
  return { ...shared, shares };
}
