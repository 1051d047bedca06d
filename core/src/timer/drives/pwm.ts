import type { ClockPath } from '../../clock/path.ts';
import { channelOf, modeOf, timerOf } from '../../part/find.ts';
import type { Part } from '../../part/types.ts';
import {
  compareFor,
  countsOf,
  grainOf,
  highCounts,
  maxCompare,
  minCompare,
  neverMatches,
  reachedShares,
  stepsOf,
} from '../count.ts';
import { highTicksOf, type Cycle, type Outcome } from '../outcome.ts';
import { written, type Rung } from '../rungs.ts';
import { isTopChannel, type OutputSetting } from '../setting.ts';
import type { Drive } from './drive.ts';
import { outcomeUnder } from './outcome-under.ts';
import { cycleOutcome, movableTop, OUTPUT, outputPlaces, outputRungs } from './output.ts';
import { resolveSetting, type Resolved } from './output-setting.ts';
import { COUNT, ID, optional } from './setting-fields.ts';

function pwmCycle({ mode, setting, division }: Resolved): Cycle {
  const whole = countsOf(mode, setting.top) * grainOf(mode);
  const inverted = setting.polarity === 'inverted';
  const periodTicks = whole * division.n;
  if (neverMatches(mode, setting.top, setting.compare)) return { periodTicks, edges: { level: 0 } };
  const plain = highCounts(mode, setting.top, setting.compare, false);
  if (plain === 0 || plain === whole) {
    return { periodTicks, edges: { level: (plain === 0) === inverted ? 1 : 0 } };
  }
  if (mode.pwm?.spread) {
    const high = inverted ? whole - plain : plain;
    return { periodTicks, edges: { spread: { high, whole, count: division.n } } };
  }
  const up = mode.count === 'up';
  const lag = mode.lag ?? 0;
  const clear = (up ? plain : setting.compare + lag) * division.n;
  const set = (up ? 0 : (whole - setting.compare + lag) % whole) * division.n;
  return { periodTicks, edges: inverted ? { rise: clear, fall: set } : { rise: set, fall: clear } };
}

/** By how much the hardware delays the rises of a setting with its opposite, in ticks of its outcome. */
function deadTicks({ mode, division, opposite }: Resolved): number {
  return opposite?.second ? 0 : (opposite?.deadTicks ?? 0) * division.scale * grainOf(mode);
}

/** A cycle whose rise comes so much later; low for good where the pulse is no longer than that. */
function delayed(cycle: Cycle, ticks: number): Cycle {
  if (!('rise' in cycle.edges)) return cycle;
  const { periodTicks } = cycle;
  if (highTicksOf(cycle) <= ticks) return { periodTicks, edges: { level: 0 } };
  const { rise, fall } = cycle.edges;
  return { periodTicks, edges: { rise: (rise + ticks) % periodTicks, fall } };
}

/**
 * What the pin with the opposite does: high while the output is low, but each rise of either comes a dead time after the
 * other's fall. Undefined where a setting has none.
 */
export function oppositeCycle(part: Part, setting: OutputSetting): Cycle | undefined {
  if (!setting.complement) return undefined;
  const resolved = resolveSetting(part, setting);
  const second = resolved.opposite?.second;
  if (second) return pwmCycle(resolveSetting(part, second));
  const { periodTicks, edges } = pwmCycle(resolved);
  if ('spread' in edges) return undefined;
  if ('level' in edges) return { periodTicks, edges: { level: edges.level === 1 ? 0 : 1 } };
  return delayed({ periodTicks, edges: { rise: edges.fall, fall: edges.rise } }, deadTicks(resolved));
}

function reachOf({ mode, setting, timer }: Resolved): Outcome['reach'] {
  return reachedShares(mode, setting.top, timer.width, setting.polarity === 'inverted');
}

function compareRung(part: Part, { mode, setting, channel, timer }: Resolved, hz: Rung['hz']): Rung {
  const whole = countsOf(mode, setting.top) * grainOf(mode);
  const inverted = setting.polarity === 'inverted';
  const high = highCounts(mode, setting.top, setting.compare, inverted);
  const of = grainOf(mode) === 1 ? `of ${whole}` : `of ${whole} (1/${grainOf(mode)} counts)`;
  const doubled = mode.count === 'updown' ? '2 × ' : '';
  const extra = mode.pwm?.high === 'compare+1' && mode.count === 'up' ? '+ 1 ' : '';
  const register = written(part, channel.compare, OUTPUT.numbers(part, setting));
  return {
    id: 'compare',
    label: inverted ? 'Compare, inverted' : 'Compare',
    before: inverted ? `low for ${doubled}` : `high for ${doubled}`,
    value: setting.compare,
    after: inverted ? `${extra}${of}, high ${high}` : `${extra}${of}`,
    choices: { min: minCompare(mode), max: maxCompare(mode, setting.top, timer.width) },
    ...(register ? { register } : {}),
    hz,
  };
}

/** Where the counter begins, if not at 0. */
function beginRungs(part: Part, { setting, timer, mode }: Resolved, hz: Rung['hz']): Rung[] {
  if (!setting.begin || timer.counter === undefined) return [];
  const register = written(part, { [timer.counter]: { of: 'begin' } }, OUTPUT.numbers(part, setting));
  const rung: Rung = {
    id: 'begin',
    label: 'Counter begins',
    before: 'at',
    value: setting.begin,
    after: `of ${countsOf(mode, setting.top)} counts`,
    hz,
  };
  return [register ? { ...rung, register } : rung];
}

/** Where a second channel that makes the opposite changes. */
function oppositeRungs(part: Part, { opposite, timer }: Resolved, hz: Rung['hz']): Rung[] {
  if (!opposite?.second) return [];
  const { second, deadTicks } = opposite;
  const { compare } = channelOf(timer, second.channel);
  const register = written(part, compare, OUTPUT.numbers(part, second));
  const rung: Rung = {
    id: 'opposite',
    label: 'Opposite',
    before: `${second.channel}${second.polarity === 'inverted' ? ', inverted,' : ''} at`,
    value: second.compare,
    after: `both low for ${deadTicks} clocks at each edge`,
    hz,
  };
  return [register ? { ...rung, register } : rung];
}

/** The timer's PWM output: top decides the frequency, compare the duty. */
export const pwm: Drive<OutputSetting> = {
  ...OUTPUT,
  id: 'pwm',
  name: 'PWM output',
  short: 'PWM',
  duty: 'match',
  start: 'simulated',
  fields: {
    ...OUTPUT.fields,
    complement: optional({
      is: 'group',
      fields: { pin: ID, deadTicks: { ...COUNT, max: 2 ** 24 }, channel: optional(ID) },
    }),
    begin: optional(COUNT),
  },
  places: (timer, mode) => outputPlaces('pwm', timer, mode),
  canMeet: ({ pin, input }) => pin && !input,
  runsPerPeriod: () => 1,
  outcome: (part, setting, clockHz): Outcome => {
    const resolved = resolveSetting(part, setting);
    const cycle = delayed(pwmCycle(resolved), deadTicks(resolved));
    return cycleOutcome(resolved, cycle, clockHz, stepsOf(resolved.mode, setting.top), reachOf(resolved));
  },
  ladder: (part: Part, path: ClockPath, setting) => {
    const resolved = resolveSetting(part, setting);
    const { frequency } = outcomeUnder(part, path, setting);
    return [
      ...outputRungs(part, path, setting),
      compareRung(part, resolved, frequency),
      ...beginRungs(part, resolved, frequency),
      ...oppositeRungs(part, resolved, frequency),
    ];
  },
  adjust: (part, setting, share, field, value) => {
    const timer = timerOf(part, setting.timer);
    if (field !== 'top') return { ...setting, [field]: value };
    const mode = modeOf(timer, setting.mode);
    const moved: OutputSetting = { ...setting, top: value };
    if (moved.begin !== undefined && moved.begin > value) delete moved.begin;
    if (isTopChannel(mode, setting.channel)) return { ...moved, compare: value };
    const compare = compareFor(mode, value, timer.width, share, setting.polarity === 'inverted');
    return { ...moved, compare };
  },
  movable: (part, setting) => {
    const timer = timerOf(part, setting.timer);
    const max = maxCompare(modeOf(timer, setting.mode), setting.top, timer.width);
    const falling = setting.polarity === 'inverted';
    const min = minCompare(modeOf(timer, setting.mode));
    return { ...movableTop(part, setting), duty: { field: 'compare', min, max, falling } };
  },
};
