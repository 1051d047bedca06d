import type { Exact } from '../quantity/exact.ts';
import { printHz, printNumber, printPercent, printPpm, printSeconds } from '../quantity/print.ts';
import type { Part, Timer } from '../part/types.ts';
import { modeOf, timerOf } from '../part/find.ts';
import type { Requirement } from '../signal/requirement.ts';
import { holdTicks, reloadLatency } from '../timer/run.ts';
import { sendsBits } from '../timer/sending.ts';
import type { Outcome } from '../timer/outcome.ts';
import { hasTimer, type Setting, type TimerSetting } from '../timer/setting.ts';
import { hint, type Slip } from './catalogue.ts';
import { driveOf, isInput, isOutput } from '../timer/drives/index.ts';

/** Below this a light is seen to flicker, in Hz; up to the next a coil or a ceramic capacitor may be heard. */
const FLICKER_HZ = 100;
const AUDIBLE_HZ = 20_000;

/** Processor time above this share leaves little for anything else. */
const MUCH_CPU = 0.3;

/** What a steady pulse train does to eyes and ears. */
function senses(requirement: Requirement, outcome: Outcome): Slip[] {
  if (requirement.frequency.kind !== 'within' || !requirement.pin) return [];
  const hz = outcome.frequency.valueOf();
  if (hz < FLICKER_HZ) {
    return [
      hint(
        'flicker',
        `At ${printHz(hz)} a light is seen to flicker; from ${FLICKER_HZ} Hz on it is not.`,
        true,
      ),
    ];
  }
  if (hz >= AUDIBLE_HZ) return [];
  return [
    hint(
      'audible',
      `${printHz(hz)} is where coils and ceramic capacitors can be heard; above 20 kHz they are inaudible.`,
    ),
  ];
}

/** Steps too coarse for the width or the duty that is asked for. */
function coarse(requirement: Requirement, outcome: Outcome): Slip[] {
  if (!requirement.width || !requirement.pin) return [];
  const step = outcome.stepTicks / outcome.tickHz.valueOf();
  const allowed = 2 * requirement.width.high.sub(requirement.width.ideal).valueOf();
  if (step <= allowed || allowed === 0) return [];
  const text = `One step of ${printNumber(outcome.bits, 3)} bits is ${printSeconds(step)}, the tolerance is ±${printSeconds(allowed / 2)}: many widths cannot be made.`;
  return [hint('coarse', text, true)];
}

const DAY = 86_400;

/** When a variable that counts the ticks begins again. */
function wraps(requirement: Requirement, outcome: Outcome): Slip[] {
  if (requirement.pin) return [];
  const hz = outcome.frequency.valueOf();
  const [short, long] = [2 ** 16 / hz, 2 ** 32 / hz];
  const text = `A count of ${printHz(hz)} in 16 bits begins again after ${spell(short)}, in 32 bits after ${spell(long)}: compare differences, not counts.`;
  return [hint('wraps', text)];
}

function spell(seconds: number): string {
  return seconds >= 2 * DAY ? `${printNumber(seconds / DAY, 3)} days` : printSeconds(seconds, 3);
}

/** Toggles and periods kept apart. */
function toggles(setting: Setting, outcome: Outcome): Slip[] {
  const { duty, divides } = driveOf(setting);
  if (duty !== 'half' || !divides || setting.pin === undefined) return [];
  const hz = outcome.frequency.valueOf();
  const text = `The pin changes ${printNumber(2 * hz)} times a second, which is ${printHz(hz)}.`;
  return [hint('two-toggles', text)];
}

/** Sending bits lets nothing else in until a frame is sent. */
function frames(
  part: Part,
  setting: Setting,
  requirement: Requirement,
  outcome: Outcome,
  cpuHz: Exact,
): Slip[] {
  const { burst } = requirement;
  if (!burst || !sendsBits(part, setting, requirement, outcome.frequency, cpuHz)) return [];
  const frame = printSeconds(burst.periods / outcome.frequency.valueOf(), 3);
  const text = `A frame takes ${frame}, ${printNumber(burst.everyHz, 3)} times a second; whatever interrupts meanwhile is served after it.`;
  return [hint('waits-for-frame', text)];
}

function busyCpu(part: Part, setting: Setting, outcome: Outcome): Slip[] {
  if (outcome.cpu < MUCH_CPU || driveOf(setting).bits?.(part, setting)) return [];
  const share = printPercent(Math.min(1, outcome.cpu), 3);
  return [hint('cpu', `This takes ${share} of its time; whatever else interrupts shifts the edges.`, true)];
}

/** What the write of a reload value costs. */
function reload(part: Part, setting: TimerSetting, timer: Timer): Slip[] {
  const mode = modeOf(timer, setting.mode);
  if (mode.top.kind !== 'reload' || mode.top.hold === 0) return [];
  const plain = 2 ** timer.width - (setting.top + 1) - Math.round(mode.top.hold / setting.prescaler);
  const hold = holdTicks(mode, setting.prescaler, 1, reloadLatency(part.cpu));
  const each = printPpm(1e6 / (setting.prescaler * (setting.top + 1))).replace('+', '');
  const entry =
    mode.top.clears && setting.prescaler > 1
      ? ` The write clears the prescaler, so that the way into the handler counts too, as ${reloadLatency(part.cpu)} clocks: what a compiler saves there comes on top, modulo ${printNumber(setting.prescaler)}.`
      : '';
  const compiled = mode.top.bytes
    ? ` The assembler file of the code takes so long from reading the counter to writing it; compiled C may not, and each clock more or less is ${each}.${entry}`
    : '';
  return [
    hint(
      'hold-off',
      `By plain arithmetic the reload would be ${printNumber(plain)}; the write holds the count for ${hold} clocks, so it is ${printNumber(2 ** timer.width - setting.top - 1)}.${compiled}`,
    ),
  ];
}

/** Timers on one prescaler: their frequencies are their own, its reset is not. */
function sharing(part: Part, setting: Setting): Slip[] {
  if (!hasTimer(setting)) return [];
  const { sharesPrescalerWith = [], name } = timerOf(part, setting.timer);
  const others = sharesPrescalerWith.map((id) => timerOf(part, id).name);
  if (others.length === 0 || setting.prescaler === 1) return [];
  const text = `${name} shares its prescaler with ${others.join(' and ')}: each divides as it likes, but resetting it shifts the edges of all by up to ${setting.prescaler} clocks.`;
  return [hint('shared-prescaler', text)];
}

/** Counts spread over the run are not a pulse of a width: fine for a mean, useless for a servo. */
function spread(outcome: Outcome): Slip[] {
  if (!('spread' in outcome.cycle.edges)) return [];
  const { high, whole } = outcome.cycle.edges.spread;
  const text = `${printNumber(high)} of ${printNumber(whole)} counts are high, spread as evenly as can be: the mean is right, no pulse has a width of its own.`;
  return [hint('spread', text)];
}

/** The slips that lie in how a setting is used rather than in its counts. */
export function slipsOfUse(
  part: Part,
  setting: Setting,
  requirement: Requirement,
  outcome: Outcome,
  cpuHz: Exact,
): Slip[] {
  const common = [
    ...spread(outcome),
    ...senses(requirement, outcome),
    ...coarse(requirement, outcome),
    ...wraps(requirement, outcome),
    ...busyCpu(part, setting, outcome),
    ...frames(part, setting, requirement, outcome, cpuHz),
  ];
  if (isInput(setting)) return sharing(part, setting);
  if (!hasTimer(setting) || isOutput(setting)) return [...common, ...sharing(part, setting)];
  const timer = timerOf(part, setting.timer);
  return [...common, ...reload(part, setting, timer), ...toggles(setting, outcome)];
}
