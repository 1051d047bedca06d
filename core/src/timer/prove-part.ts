import { ClockError, clockPath, type ClockPath, type ClockSetting } from '../clock/path.ts';
import { divisionRange } from '../part/division.ts';
import type { Mode, Part, Prescaler, Timer } from '../part/types.ts';
import type { Fault } from '../result/result.ts';
import { maxCompare } from './count.ts';
import { driveOf, ladderOf, outcomeUnder } from './drives/index.ts';
import { settingRegisters } from './encode.ts';
import { firstOfEach } from './sample.ts';
import { isTopChannel, SettingError, topRange, type Setting } from './setting.ts';

/** Divisions of a prescaler that are tried: all of a list, both ends of a range. */
function divisionsOf(prescaler: Prescaler): number[] {
  if (prescaler.kind === 'list') return prescaler.options.map((one) => one.divide);
  const { min, max } = divisionRange(prescaler);
  return [min / prescaler.scale, max / prescaler.scale];
}

/** Both ends of a mode's tops and one between; of 2^n - 1 the middle one. */
function topsOf(mode: Mode): number[] {
  const { min, max } = topRange(mode);
  const middle =
    mode.top.kind === 'power'
      ? 2 ** Math.floor((mode.top.minBits + mode.top.maxBits) / 2) - 1
      : Math.floor((min + max) / 2);
  return [...new Set([min, middle, max])];
}

/** A setting for each output of a mode, and one for each of its interrupts and inputs. */
function settingsOf(timer: Timer, mode: Mode, prescaler: number, top: number, pin: string): Setting[] {
  const counter = { timer: timer.id, mode: mode.id, prescaler, top };
  const outputs = timer.channels.flatMap((channel) =>
    firstOfEach(channel.outputs, ({ drive, polarity }) => `${drive} ${polarity}`)
      .filter((output) => mode[output.drive]?.channels.includes(channel.id))
      .map((output): Setting => {
        const half = Math.floor(maxCompare(mode, top, timer.width) / 2);
        const compare = isTopChannel(mode, channel.id) ? top : half;
        const { drive, polarity } = output;
        return { drive, ...counter, channel: channel.id, pin: output.pin, polarity, compare };
      }),
  );
  const inputs = (timer.captures ?? [])
    .filter((capture) => capture.mode === mode.id)
    .flatMap(({ id, inputs: own }) =>
      own.map((input): Setting => ({ drive: 'capture', ...counter, channel: id, pin: input.pin })),
    );
  return [...outputs, ...inputs, { drive: 'interrupt', ...counter, pin, divider: 1 }];
}

/** Uses a setting in every way the product does: numbers, registers, steps and handlers. @throws what goes wrong. */
function use(part: Part, path: ClockPath, setting: Setting): void {
  const hz = outcomeUnder(part, path, setting).frequency.valueOf();
  if (!(hz > 0) || !Number.isFinite(hz)) throw new RangeError(`its frequency comes to ${hz} Hz`);
  settingRegisters(part, setting);
  ladderOf(part, path, setting);
  driveOf(setting).handlers(part, setting);
}

/** Settings that a part may refuse, with a reason, where a number does not fit another one. */
function refused(error: unknown): boolean {
  return error instanceof SettingError || error instanceof ClockError;
}

function settingText(setting: Setting): string {
  const pin = setting.pin === undefined ? '' : ` on ${setting.pin}`;
  return `${driveOf(setting).numbersText(setting)}${pin}`;
}

function reason(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}

/** Each pin once, on the first output that comes out there: its own writes go together with those of a timer. */
function pinFault(part: Part, path: ClockPath): Fault | undefined {
  const seen = new Set<string>();
  for (const [at, timer] of part.timers.entries()) {
    for (const [index, channel] of timer.channels.entries()) {
      for (const { pin, drive, polarity } of channel.outputs) {
        const mode = timer.modes.find((one) => one[drive]?.channels.includes(channel.id));
        if (!mode || seen.has(pin)) continue;
        seen.add(pin);
        const top = topsOf(mode)[0] ?? 0;
        const prescaler = divisionsOf(timer.prescaler)[0] ?? 1;
        const compare = isTopChannel(mode, channel.id) ? top : 0;
        const counter = { timer: timer.id, mode: mode.id, prescaler, top };
        const fault = faultIn(
          part,
          path,
          { drive, ...counter, channel: channel.id, pin, polarity, compare },
          `timers[${at}].channels[${index}]`,
        );
        if (fault) return fault;
      }
    }
  }
  return undefined;
}

/** What cannot be computed of a setting, with its place. */
function faultIn(part: Part, path: ClockPath, setting: Setting, place: string): Fault | undefined {
  try {
    use(part, path, setting);
    return undefined;
  } catch (error) {
    if (refused(error)) return undefined;
    const sentence = `${place} cannot be used (${settingText(setting)}): ${reason(error)}.`;
    return { path: place, sentence };
  }
}

function timerFault(part: Part, path: ClockPath, timer: Timer, at: number): Fault | undefined {
  const pin = part.pins.find((one) => one.software)?.id ?? part.pins[0]?.id ?? '';
  for (const [index, mode] of timer.modes.entries()) {
    for (const prescaler of divisionsOf(timer.prescaler)) {
      for (const setting of topsOf(mode).flatMap((top) => settingsOf(timer, mode, prescaler, top, pin))) {
        const fault = faultIn(part, path, setting, `timers[${at}].modes[${index}]`);
        if (fault) return fault;
      }
    }
  }
  return undefined;
}

/** What each clock can be set to: every choice and every division, both ends of a range, one at a time. */
function clockSettings(part: Part): { path: string; setting: ClockSetting }[] {
  const base = part.defaultClock;
  return part.clocks.flatMap((node, at) => {
    const path = `clocks[${at}]`;
    if (node.kind === 'source') {
      const [first, last] = typeof node.hz === 'number' ? [node.hz, node.hz] : node.hz;
      return [first, last].map((sourceHz) => ({ path, setting: { ...base, source: node.id, sourceHz } }));
    }
    const values =
      node.kind === 'choice'
        ? node.standard === undefined
          ? []
          : node.from
        : node.kind === 'divider' || node.kind === 'multiplier'
          ? divisionsOf(node.by)
          : [];
    return values.map((value) => ({
      path,
      setting: { ...base, settings: { ...base.settings, [node.id]: value } },
    }));
  });
}

function clockFault(part: Part): Fault | undefined {
  for (const { path, setting } of clockSettings(part)) {
    try {
      clockPath(part, setting);
    } catch (error) {
      if (!refused(error)) return { path, sentence: `${path} cannot be used: ${reason(error)}.` };
    }
  }
  return undefined;
}

/**
 * Uses a part from a file once: every clock, and every timer's modes, divisions, tops, outputs, inputs and interrupts. Gives
 * the first thing that cannot be computed, with its path; what the part refuses with a reason is its own affair.
 */
export function proofFault(part: Part): Fault | undefined {
  const clock = clockFault(part);
  if (clock) return clock;
  const path = clockPath(part, part.defaultClock);
  const pin = pinFault(part, path);
  if (pin) return pin;
  for (const [at, timer] of part.timers.entries()) {
    const fault = timerFault(part, path, timer, at);
    if (fault) return fault;
  }
  return undefined;
}
