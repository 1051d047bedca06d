/**
 * A counter and its output pin, stepped clock by clock after the datasheet's wording, with none of the product's
 * formulas: the output changes on the clock after the counter equals the compare value; a fast mode sets at the bottom.
 */
export type Machine = {
  kind: 'fast' | 'updown' | 'clear';
  output: 'normal' | 'inverted' | 'toggle';
  top: number;
  compare: number;
  /** Where the counter begins, if not at 0. */
  begin?: number;
};

/** The pin's level after each of so many clocks, the first being the clock on which the counter leaves its first count. */
export function runCounter({ kind, output, top, compare, begin = 0 }: Machine, clocks: number): (0 | 1)[] {
  const on: 0 | 1 = output === 'inverted' ? 0 : 1;
  const off: 0 | 1 = output === 'inverted' ? 1 : 0;
  let count = begin;
  let up = true;
  let level: 0 | 1 = 0;
  const levels: (0 | 1)[] = [];
  for (let clock = 0; clock < clocks; clock += 1) {
    levels.push(level);
    const before = count;
    const matched = before === compare;
    if (kind === 'updown') {
      if (before === top) up = false;
      if (before === 0) up = true;
      count += up ? 1 : -1;
      if (matched && output === 'toggle') level = level === 1 ? 0 : 1;
      else if (matched) level = up ? off : on;
      continue;
    }
    count = before === top ? 0 : before + 1;
    if (matched && output === 'toggle') level = level === 1 ? 0 : 1;
    else if (matched && kind === 'fast') level = off;
    if (kind === 'fast' && output !== 'toggle' && count === 0) level = on;
  }
  return levels;
}

/**
 * A 32-bit timer that counts up to its overflow and starts again at its load value; overflow and match toggle the output, no
 * match before the first overflow does. The pin rests at a level until then. Gives its level after each clock.
 */
export function runGeneralTimer(
  load: number,
  match: number,
  first: number,
  rest: 0 | 1,
  clocks: number,
): (0 | 1)[] {
  let count = first;
  let level = rest;
  let overflowed = false;
  return Array.from({ length: clocks }, () => {
    const now = level;
    const toggles = count === 0xffffffff || (overflowed && count === match);
    if (count === 0xffffffff) overflowed = true;
    count = count === 0xffffffff ? load : count + 1;
    if (toggles) level = level === 1 ? 0 : 1;
    return now;
  });
}
