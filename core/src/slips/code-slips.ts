import { printHz, printNumber, printPercent, printPpm, printSeconds } from '../quantity/print.ts';
import type { ClockPath } from '../clock/path.ts';
import { modeOf, timerOf } from '../part/find.ts';
import type { Mode, Part, Timer } from '../part/types.ts';
import { warning, type Slip } from './catalogue.ts';
import type { Requirement } from '../signal/requirement.ts';
import { maxCompare, grainOf, neverMatches } from '../timer/count.ts';
import { hasTimer, isTopChannel, SettingError, type Setting, type TimerSetting } from '../timer/setting.ts';
import { hasFreeDuty, isOutput, isSoftware, outcomeUnder, runsOf } from '../timer/drives/index.ts';
import type { Effect } from '../timer/outcome.ts';

/** What an effect is compared with: the requirement and the values it should have produced. */
type Case = {
  part: Part;
  path: ClockPath;
  requirement: Requirement;
  effect: Effect;
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
function neverAtAll({ effect, timer, mode }: Case): Slip | undefined {
  const { setting } = effect;
  if (!hasTimer(setting)) return undefined;
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
function minusOne(one: Case): Slip | undefined {
  const { effect, wantedHz, ratio, mode } = one;
  const { setting } = effect;
  if (!hasTimer(setting) || mode.top.kind === 'fixed' || mode.top.kind === 'power') return undefined;
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
function twos({ ratio, tolerance, effect, mode, wantedHz, requirement }: Case): Slip | undefined {
  const made = effect.outcome.frequency.valueOf();
  const { setting } = effect;
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

/** The division another timer of the part has for the same code, where all the others agree on it. */
function otherTable({ part, timer, effect }: Case): number | undefined {
  const { setting } = effect;
  if (!hasTimer(setting) || timer.prescaler.kind !== 'list') return undefined;
  const code = timer.prescaler.options.findIndex(({ divide }) => divide === setting.prescaler);
  const others = part.timers.flatMap((other) =>
    other !== timer &&
    other.variantOf === undefined &&
    other.prescaler.kind === 'list' &&
    other.channels.length > 0
      ? [other.prescaler.options[code]?.divide]
      : [],
  );
  const [first] = others;
  return first !== undefined && others.every((one) => one === first) ? first : undefined;
}

/** A prescaler that means something else here, or another one than was meant. */
function prescalers(one: Case): Slip | undefined {
  const { ratio, tolerance, effect, timer } = one;
  const { setting } = effect;
  if (!hasTimer(setting) || timer.prescaler.kind !== 'list') return undefined;
  const elsewhere = otherTable(one);
  if (
    elsewhere !== undefined &&
    elsewhere !== setting.prescaler &&
    is(ratio, elsewhere / setting.prescaler, tolerance)
  ) {
    return warning(
      'prescaler-table',
      `These bits divide by ${setting.prescaler} on ${timer.name}; on the other timers they divide by ${elsewhere}.`,
    );
  }
  return undefined;
}

/** The write that reloads the counter stops it for some clocks, and that was not counted. */
function holdOff(one: Case): Slip | undefined {
  const { effect, mode, wantedHz } = one;
  const { setting } = effect;
  const { top } = mode;
  if (!hasTimer(setting) || top.kind !== 'reload' || top.hold === 0) return undefined;
  const counts = Math.round(top.hold / setting.prescaler);
  const hz = counts > 0 ? hzWithTop(one, setting, setting.top - counts) : undefined;
  if (hz === undefined || Math.abs(hz / wantedHz - 1) > 0.2 / setting.top) return undefined;
  return warning(
    'hold-off',
    `Writing it stops the count for ${top.hold} clocks; with ${counts} added to the reload it would be ${printHz(hz, 7)}.`,
  );
}

/** A prescaler that serves something else: one field, alike in all divisions above one, gives it away. */
function givenAway({ ratio, tolerance, effect, timer }: Case): Slip | undefined {
  const { setting } = effect;
  if (!hasTimer(setting) || timer.prescaler.kind !== 'list' || setting.prescaler !== 1) return undefined;
  const { options } = timer.prescaler;
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
function wrongPrescaler({ ratio, tolerance, effect, timer }: Case): Slip | undefined {
  const { setting } = effect;
  if (!hasTimer(setting) || timer.prescaler.kind !== 'list') return undefined;
  const right = timer.prescaler.options.find(
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

/** What is wrong with a duty, the frequency being right. */
function duties({ effect, requirement, mode }: Case): Slip | undefined {
  const { setting, outcome } = effect;
  if (!hasFreeDuty(setting)) return undefined;
  const made = outcome.duty.valueOf();
  const wanted = requirement.duty.ideal.valueOf();
  const seen = `${printPercent(made, 4)} instead of ${printPercent(wanted, 4)}`;
  const step = 1 / outcome.steps;
  const near = (value: number): boolean => Math.abs(made - value) <= 1.5 * step;
  if (wanted === 0 && made > 0 && near(0)) {
    return warning('never-off', `${mode.name} is still high for one count in each period: ${seen}.`);
  }
  if (wanted === 1 && made < 1 && near(1)) {
    return warning('never-full', `${mode.name} is still low for one count in each period: ${seen}.`);
  }
  if (
    wanted > 0 &&
    wanted < 1 &&
    (near(wanted / 100) || (made >= 0.99 && wanted * 100 >= 0.99 && wanted <= 0.0101))
  ) {
    return warning('fraction-percent', `It is a hundredth of what is wanted: ${seen}.`);
  }
  if (!near(wanted) && near(1 - wanted)) {
    return warning('inverted', `The pin is low where it should be high: ${seen}.`);
  }
  return undefined;
}

/** Steps too coarse for the duty or the width, the nearest being taken. */
function coarse({ effect, requirement }: Case): Slip | undefined {
  const { setting, outcome } = effect;
  if (!hasFreeDuty(setting)) return undefined;
  const step = outcome.stepTicks / outcome.tickHz.valueOf();
  const few = outcome.steps < requirement.minSteps;
  const off = Math.abs(outcome.duty.sub(requirement.duty.ideal).valueOf());
  const nearest = off <= 0.51 / outcome.steps;
  if (!few && !nearest) return undefined;
  return warning(
    'coarse',
    few
      ? `One step is ${printSeconds(step)}; ${printNumber(outcome.steps)} steps are there, ${printNumber(requirement.minSteps)} are asked for.`
      : `One step is ${printSeconds(step)}; the nearest one is ${printPercent(off, 3)} off.`,
  );
}

/** One count more or less of the compare value, as the mode counts it. */
function compareOne({ effect, requirement, mode }: Case): Slip | undefined {
  const { setting, outcome } = effect;
  if (!hasFreeDuty(setting)) return undefined;
  const off = outcome.duty.sub(requirement.duty.ideal).valueOf() * outcome.steps;
  if (Math.abs(Math.abs(off) - 1) > 0.4) return undefined;
  const counts = mode.pwm?.high === 'compare+1' ? 'compare + 1' : 'compare';
  return warning(
    'compare-one',
    `In ${mode.name} the pin is high for ${counts} counts of 1/${grainOf(mode)}: it is one count too ${off > 0 ? 'long' : 'short'}.`,
  );
}

/** What explains the difference between an effect and a requirement, the best explanation first; empty where all is well. */
export function explainEffect(part: Part, path: ClockPath, requirement: Requirement, effect: Effect): Slip[] {
  const { setting, outcome } = effect;
  if (!hasTimer(setting)) return [];
  const timer = timerOf(part, setting.timer);
  const { frequency } = requirement;
  const near = frequency.kind === 'near';
  const wantedHz = (near ? frequency.ideal : frequency.low).valueOf();
  const ratio = outcome.frequency.valueOf() / wantedHz;
  const tolerance = near ? frequency.high.div(frequency.ideal).sub(1).valueOf() : 0;
  const mode = modeOf(timer, setting.mode);
  const one: Case = { part, path, requirement, effect, timer, mode, ratio, tolerance, wantedHz };
  const never = neverAtAll(one);
  if (never) return [never];
  const highest = near ? undefined : frequency.high;
  const belowHighest = highest === undefined || outcome.frequency.compare(highest) <= 0;
  const inTime = near ? Math.abs(ratio - 1) <= tolerance : ratio >= 1 && belowHighest;
  const first = (...found: (Slip | undefined)[]): Slip[] =>
    found.filter((each) => each !== undefined).slice(0, 1);
  if (!inTime && near) {
    return first(
      minusOne(one),
      holdOff(one),
      units(one),
      twos(one),
      givenAway(one),
      prescalers(one),
      clocks(one),
      wrongPrescaler(one),
    );
  }
  if (near && Math.abs(ratio - 1) * (setting.top + mode.base) > 0.4) {
    const small = minusOne(one);
    if (small) return [small];
  }
  if (meetsDuty(requirement, effect)) return [];
  return first(duties(one), compareOne(one), coarse(one));
}

function meetsDuty(requirement: Requirement, { outcome, setting }: Effect): boolean {
  if (!requirement.pin || isSoftware(setting)) return true;
  if (outcome.steps < requirement.minSteps) return false;
  if (requirement.width) {
    const width = outcome.duty.div(outcome.frequency);
    return width.compare(requirement.width.low) >= 0 && width.compare(requirement.width.high) <= 0;
  }
  return outcome.duty.compare(requirement.duty.low) >= 0 && outcome.duty.compare(requirement.duty.high) <= 0;
}
