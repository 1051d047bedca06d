import type { Mode } from '../part/types.ts';
import { beginOf, countsOf, grainOf, highCounts, togglesTwice } from '../timer/count.ts';
import type { EdgeList } from './edges.ts';

/** What a running counter and one PWM output of it are set to, and the count at which the counter begins if not at 0. */
export type Running = { top: number; compare: number; inverted: boolean; begin?: number };

/**
 * A change while the counter runs, at a time in compare steps from its start: a new top or compare value, or the end,
 * after which the pin is parked at a level.
 */
export type Change = { at: number; top?: number; compare?: number; park?: 0 | 1 };

/** A level that the output takes at a time. */
type Event = { at: number; level: 0 | 1 };

/**
 * Whether an output changes only at the match itself, so that a compare value behind the counter is missed; otherwise it
 * follows a comparison all the time.
 */
function changesAtMatch(mode: Mode): boolean {
  return mode.pwm?.changes !== undefined;
}

/** One run of the counter as it goes: where it started, where it will end, and what still will happen in it. */
type Pass = { start: number; end: number; events: Event[] };

/** The state of a simulation: values in force, values written and not yet taken over, and the level of the pin. */
type State = { now: Running; next: Partial<Running>; level: 0 | 1 };

function highLevel(now: Running): 0 | 1 {
  return now.inverted ? 0 : 1;
}

function lowLevel(now: Running): 0 | 1 {
  return now.inverted ? 1 : 0;
}

/** Where the output goes low and high again within a run, in compare steps from the bottom. */
function matchesOf(mode: Mode, now: Running): { clear: number; set: number; whole: number; high: number } {
  const whole = countsOf(mode, now.top) * grainOf(mode);
  const high = highCounts(mode, now.top, now.compare, false);
  const lag = mode.lag ?? 0;
  if (mode.count === 'up') return { clear: high, set: 0, whole, high };
  return { clear: now.compare + lag, set: whole - now.compare + lag, whole, high };
}

/** The events of a run from a position of it on. */
function eventsOf(mode: Mode, now: Running, start: number, from: number): Event[] {
  const { clear, set, whole, high } = matchesOf(mode, now);
  const events: Event[] = [];
  const add = (at: number, level: 0 | 1): void => {
    if (at >= from) events.push({ at: start + at, level });
  };
  if (high >= whole || (high === 0 && mode.count === 'updown')) {
    add(Math.max(from, 0), high === 0 ? lowLevel(now) : highLevel(now));
    return events;
  }
  if (mode.count === 'up') add(0, high > 0 ? highLevel(now) : lowLevel(now));
  else if (!changesAtMatch(mode)) add(0, highLevel(now));
  if (high > 0) add(clear, lowLevel(now));
  if (mode.count === 'updown') add(set, highLevel(now));
  return events;
}

function passFrom(mode: Mode, now: Running, start: number): Pass {
  return {
    start,
    end: start + countsOf(mode, now.top) * grainOf(mode),
    events: eventsOf(mode, now, start, 0),
  };
}

/** A change that takes effect at once, in the middle of a run. */
function changeNow(mode: Mode, max: number, state: State, pass: Pass, at: number, change: Change): void {
  const { now } = state;
  const grain = grainOf(mode);
  const position = at - pass.start;
  if (change.top !== undefined) {
    now.top = change.top;
    const passed = mode.count === 'up' && Math.floor(position / grain) > change.top;
    pass.end = passed ? pass.start + (max + 1) * grain : pass.start + countsOf(mode, now.top) * grain;
  }
  if (change.compare !== undefined) now.compare = change.compare;
  const later = eventsOf(mode, now, pass.start, position);
  if (changesAtMatch(mode)) {
    pass.events = [
      ...pass.events.filter((event) => event.at <= at),
      ...later.filter((event) => event.at > at),
    ];
    return;
  }
  const { clear, set, whole } = matchesOf(mode, now);
  const within =
    mode.count === 'up' ? position < clear : position < clear || position >= set || clear >= whole / 2;
  const follow: Event = { at, level: within ? highLevel(now) : lowLevel(now) };
  pass.events = [
    ...pass.events.filter((event) => event.at < at),
    follow,
    ...later.filter((event) => event.at > at),
  ];
}

/** Takes over what was written to wait for the end of the run. */
function takeOver({ now, next }: State, keys: readonly ('top' | 'compare')[]): void {
  for (const key of keys) {
    const value = next[key];
    if (value !== undefined) now[key] = value;
    delete next[key];
  }
}

/** Values that an up-down counter takes over at its top change the second half of the run. */
function takeOverAtTop(mode: Mode, state: State, pass: Pass): void {
  const keys = (['top', 'compare'] as const).filter((key) => mode.update[key] === 'top');
  if (mode.count !== 'updown' || keys.every((key) => state.next[key] === undefined)) return;
  const half = (pass.end - pass.start) / 2;
  takeOver(state, keys);
  const whole = countsOf(mode, state.now.top) * grainOf(mode);
  const second = passFrom(mode, state.now, pass.start + half - whole / 2);
  pass.end = pass.start + half + whole / 2;
  pass.events = [
    ...pass.events.filter((event) => event.at < pass.start + half),
    ...second.events.filter((event) => event.at >= pass.start + half),
  ];
}

function write(mode: Mode, max: number, state: State, pass: Pass, change: Change): void {
  const atOnce: Change = { at: change.at };
  for (const key of ['top', 'compare'] as const) {
    const value = change[key];
    if (value === undefined) continue;
    if (mode.update[key] === 'immediate') atOnce[key] = value;
    else state.next[key] = value;
  }
  if (atOnce.top !== undefined || atOnce.compare !== undefined) {
    changeNow(mode, max, state, pass, change.at, atOnce);
  }
}

function followed(state: State, events: readonly Event[], edges: number[]): void {
  for (const { at, level } of events) {
    if (level === state.level) continue;
    state.level = level;
    if (edges[edges.length - 1] === at) edges.pop();
    else edges.push(at);
  }
}

/**
 * Plays the changes of one pass, those from `from` on, and what a mode takes over in the middle of it; a change can move
 * the pass's end. Gives the place of the next change, and the one that parks the pin where there is one.
 */
function withChanges(
  mode: Mode,
  max: number,
  state: State,
  pass: Pass,
  changes: readonly Change[],
  from: number,
): { waiting: number; parked: Change | undefined } {
  const middle = pass.start + (pass.end - pass.start) / 2;
  let waiting = from;
  let turned = false;
  for (;;) {
    const change = changes[waiting];
    if (!turned && (change === undefined || change.at > middle)) {
      turned = true;
      takeOverAtTop(mode, state, pass);
      continue;
    }
    if (change === undefined || change.at >= pass.end) return { waiting, parked: undefined };
    waiting += 1;
    if (change.park !== undefined) return { waiting, parked: change };
    write(mode, max, state, pass, change);
  }
}

/**
 * The first run, from time 0 on, which begins at any of its counts. An output that changes at matches only is low until one
 * comes; one that match and overflow toggle rests until the first overflow; others have the level of their place at once.
 */
function firstPass(mode: Mode, now: Running): Pass {
  const pass = passFrom(mode, now, -beginOf(mode, now) * grainOf(mode));
  if (togglesTwice(mode)) return { ...pass, events: [{ at: 0, level: lowLevel(now) }] };
  const later = pass.events.filter((event) => event.at > 0);
  if (changesAtMatch(mode)) return { ...pass, events: later };
  const before = pass.events.filter((event) => event.at <= 0);
  const place = before.reduce<Event | undefined>(
    (last, event) => (last === undefined || event.at >= last.at ? event : last),
    undefined,
  );
  return { ...pass, events: place ? [{ ...place, at: 0 }, ...later] : later };
}

/**
 * The edges of a PWM output from the start of its counter up to (without) `until`, in compare steps, through any
 * changes on the way: buffered values are taken over at the top or the bottom as the mode says, immediate ones at once;
 * a top behind the counter lets it run around through its whole width, a compare value behind it is missed where the
 * output changes at matches only. The pin is low before the start; where it changes at matches only, its first run lacks
 * the change that comes with the counter's return to 0.
 * @param max the counter's highest count. Changes are in ascending order of time.
 */
export function simulateOutput(
  mode: Mode,
  max: number,
  running: Running,
  changes: readonly Change[],
  until: number,
): EdgeList {
  const state: State = { now: { ...running }, next: {}, level: 0 };
  const edges: number[] = [];
  let waiting = 0;
  let start = -beginOf(mode, running) * grainOf(mode);
  let first = true;
  let parked: Change | undefined;
  let carried: Event[] = [];
  while (start < until && !parked) {
    takeOver(state, ['top', 'compare']);
    const pass = first ? firstPass(mode, state.now) : passFrom(mode, state.now, start);
    first = false;
    pass.events.push(...carried);
    ({ waiting, parked } = withChanges(mode, max, state, pass, changes, waiting));
    const end = parked ? parked.at : Math.min(pass.end, until);
    const due = pass.events.filter((event) => event.at < end).sort((one, other) => one.at - other.at);
    followed(state, due, edges);
    carried = pass.events.filter((event) => event.at >= pass.end);
    start = pass.end;
  }
  if (parked && parked.at < until) followed(state, [{ at: parked.at, level: parked.park ?? 0 }], edges);
  return { start: 0, edges: Float64Array.from(edges), from: 0, to: until };
}
