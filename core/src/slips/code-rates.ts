import { printHz, printNumber, printPpm, printSeconds } from '../quantity/print.ts';
import type { ClockPath } from '../clock/path.ts';
import type { Mode, Part, Timer, Writes } from '../part/types.ts';
import { warning, type Slip } from './catalogue.ts';
import type { Requirement } from '../signal/requirement.ts';
import { maxCompare, neverMatches } from '../timer/count.ts';
import { isTopChannel, SettingError, type Setting, type TimerSetting } from '../timer/setting.ts';
import { isOutput, isSoftware, outcomeUnder, runsOf } from '../timer/drives/index.ts';
import type { Effect } from '../timer/outcome.ts';

/** What an effect is compared with: the requirement and the values it should have produced. */
export type Case = {
  part: Part;
  path: ClockPath;
  requirement: Requirement;
  effect: Effect;
  setting: TimerSetting;
  timer: Timer;
  mode: Mode;
  /** Made over wanted frequency, and how far off that may be. */
  ratio: number;
  tolerance: number;
  wantedHz: number;
};

/** Whether a ratio is another one, within the tolerance or one in a hundred. */
function is(ratio: number, other: number, tolerance: number): boolean {
  return Math.abs(ratio / other - 1) <= Math.max(tolerance, 0.002);
}

/** Whether an output changes at its match, once a run. */
function isToggled(setting: Setting): boolean {
  return isOutput(setting) && runsOf(setting.drive) === 2;
}

/** The frequency a setting would have with another top; undefined where that is not possible. */
function hzWithTop({ part, path, mode }: Case, setting: TimerSetting, top: number): number | undefined {
  const along = isOutput(setting) && isTopChannel(mode, setting.channel) ? { compare: top } : {};
  try {
    return outcomeUnder(part, path, { ...setting, top, ...along }).frequency.valueOf();
  } catch (error) {
    if (error instanceof SettingError) return undefined;
    throw error;
  }
}

/** A top of nothing. */
export function zeroSlip(timer: Timer): Slip {
  return warning(
    'zero',
    `The top of ${timer.name} is 0: the counter stays where it is, and nothing divides.`,
  );
}

/** A match that never comes, a count of nothing. */
export function neverAtAll({ setting, timer, mode }: Case): Slip | undefined {
  if (setting.top === 0) return zeroSlip(timer);
  if (!isOutput(setting)) return undefined;
  const max = runsOf(setting.drive) === 2 ? setting.top : maxCompare(mode, setting.top, timer.width);
  const lost = neverMatches(mode, setting.top, setting.compare) || setting.compare > max;
  if (!lost) return undefined;
  return warning(
    'above-top',
    `The counter turns at ${printNumber(setting.top)} and never reaches ${printNumber(setting.compare)}.`,
  );
}

/** One count too many or too few. */
export function minusOne(one: Case): Slip | undefined {
  const { setting, wantedHz, ratio, mode } = one;
  if (mode.top.kind === 'fixed' || mode.top.kind === 'power') return undefined;
  const now = Math.abs(ratio - 1);
  const counts = setting.top + mode.base;
  if (now < 0.3 / counts || now > 2.5 / counts) return undefined;
  for (const [by, id] of [
    [-1, 'minus-one'],
    [1, 'minus-one-twice'],
  ] as const) {
    const hz = hzWithTop(one, setting, setting.top + by);
    if (hz === undefined || Math.abs(hz / wantedHz - 1) > now / 5) continue;
    return warning(
      id,
      `With ${printNumber(setting.top + by)} instead of ${printNumber(setting.top)} it would be ${printHz(hz, 7)}; ` +
        `the error is currently ${printPpm((ratio - 1) * 1e6)}.`,
    );
  }
  return undefined;
}

/** Milliseconds and microseconds, percent and seconds: a thousand. */
function units({ ratio, tolerance, effect, wantedHz }: Case): Slip | undefined {
  const made = effect.outcome.frequency.valueOf();
  for (const factor of [1000, 1 / 1000]) {
    if (!is(ratio, factor, tolerance)) continue;
    const times = factor > 1 ? 'fast' : 'slow';
    return warning(
      'unit-1000',
      `It is a thousand times too ${times}: ${printSeconds(1 / made)} instead of ${printSeconds(1 / wantedHz)}.`,
    );
  }
  return undefined;
}

/** Half or twice, told apart by what halves. */
function twos({ ratio, tolerance, effect, setting, mode, wantedHz, requirement }: Case): Slip | undefined {
  const made = effect.outcome.frequency.valueOf();
  const seen = `${printHz(made, 7)} instead of ${printHz(wantedHz, 7)}`;
  if (is(ratio, 0.5, tolerance)) {
    if (isToggled(setting)) {
      return warning(
        'toggle-half',
        `The pin changes once a run of ${printHz(2 * made, 7)}, so it is ${seen}.`,
      );
    }
    if (mode.count === 'updown') {
      return warning('up-down-half', `${mode.name} counts up and down again, so it is ${seen}.`);
    }
    if (isSoftware(setting) && requirement.pin) {
      return warning('interval-period', `Two toggles make a period, so it is ${seen}.`);
    }
  }
  if (is(ratio, 2, tolerance) && isToggled(setting)) {
    return warning('halved-twice', `The halving by the toggle was counted twice: it is ${seen}.`);
  }
  if (is(ratio, 2, tolerance) && mode.count === 'updown') {
    return warning('halved-twice', `Up and down was counted twice: it is ${seen}.`);
  }
  return undefined;
}

/** The divisions of a timer that has a list of them; none where it divides by any number of a range. */
function optionsOf({ prescaler }: Timer): readonly { divide: number; writes: Writes }[] {
  return prescaler.kind === 'list' ? prescaler.options : [];
}

/** The division another timer of the part has for the same code, where all the others agree on it. */
function otherTable({ part, timer, setting }: Case): number | undefined {
  const code = optionsOf(timer).findIndex(({ divide }) => divide === setting.prescaler);
  const others = part.timers.flatMap((other) =>
    other !== timer && other.variantOf === undefined && other.channels.length > 0
      ? [optionsOf(other)[code]?.divide]
      : [],
  );
  const [first] = others;
  return first !== undefined && others.every((one) => one === first) ? first : undefined;
}

/** A prescaler that means something else here, or another one than was meant. */
function prescalers(one: Case): Slip | undefined {
  const { ratio, tolerance, setting, timer } = one;
  const elsewhere = otherTable(one);
  if (elsewhere === undefined || elsewhere === setting.prescaler) return undefined;
  if (!is(ratio, elsewhere / setting.prescaler, tolerance)) return undefined;
  return warning(
    'prescaler-table',
    `These bits divide by ${setting.prescaler} on ${timer.name}; on the other timers they divide by ${elsewhere}.`,
  );
}

/** The write that reloads the counter stops it for some clocks, and that was not counted. */
function holdOff(one: Case): Slip | undefined {
  const { setting, mode, wantedHz } = one;
  const { top } = mode;
  if (top.kind !== 'reload') return undefined;
  const counts = Math.round(top.hold / setting.prescaler);
  const hz = counts > 0 ? hzWithTop(one, setting, setting.top - counts) : undefined;
  if (hz === undefined || Math.abs(hz / wantedHz - 1) > 0.2 / setting.top) return undefined;
  return warning(
    'hold-off',
    `Writing it stops the count for ${top.hold} clocks; with ${counts} added to the reload it would be ${printHz(hz, 7)}.`,
  );
}

/** A prescaler that serves something else: one field, alike in all divisions above one, gives it away. */
function givenAway({ ratio, tolerance, setting, timer }: Case): Slip | undefined {
  if (setting.prescaler !== 1) return undefined;
  const options = optionsOf(timer);
  const own = options.find(({ divide }) => divide === 1);
  const others = options.filter(({ divide }) => divide !== 1);
  const switches = Object.entries(own?.writes ?? {}).filter(([key, value]) =>
    others.every(({ writes }) => key in writes && writes[key] !== value),
  );
  const meant = others.find(({ divide }) => is(ratio, divide, tolerance));
  const [field] = switches;
  if (!meant || !field) return undefined;
  return warning(
    'given-away',
    `${field[0]} is ${JSON.stringify(field[1])}: the prescaler belongs to another user, ${timer.name} counts undivided instead of by ${meant.divide}.`,
  );
}

/** A clock that is not the one that was assumed. */
function clocks(one: Case): Slip | undefined {
  const { ratio, tolerance, timer, path } = one;
  const hz = path.clocks.get(timer.clock)?.hz.valueOf() ?? 0;
  const common = [8, 4, 2, 1 / 2, 1 / 4, 1 / 8, 3, 1 / 3, 16, 1 / 16];
  const factor = common.find((each) => is(ratio, each, tolerance));
  if (factor === undefined) return undefined;
  return warning(
    'clock',
    `Everything is ${factor > 1 ? `${factor} times too fast` : `${Math.round(1 / factor)} times too slow`}: ${timer.name} counts ` +
      `${printHz(hz)}, the numbers are right for ${printHz(hz / factor)}.`,
  );
}

/** Another prescaler of the list that would be right, where no other reason is. */
function wrongPrescaler({ ratio, tolerance, setting, timer }: Case): Slip | undefined {
  const right = optionsOf(timer).find(
    ({ divide }) => divide !== setting.prescaler && is(ratio, divide / setting.prescaler, tolerance),
  );
  return (
    right &&
    warning(
      'prescaler',
      `It divides by ${setting.prescaler}; with ${right.divide} everything would be right.`,
    )
  );
}

/** What explains a wrong rate, the best explanation first. */
export function rateSlips(one: Case): (Slip | undefined)[] {
  return [
    minusOne(one),
    holdOff(one),
    units(one),
    twos(one),
    givenAway(one),
    prescalers(one),
    clocks(one),
    wrongPrescaler(one),
  ];
}
