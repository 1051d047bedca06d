import { clockAt, type ClockPath } from '../clock/path.ts';
import { modeOf, pinOf, timerOf, rootOf } from '../part/find.ts';
import type { Capture, Channel, Mode, Output, Part, Timer } from '../part/types.ts';
import { exact } from '../quantity/exact.ts';
import type { Requirement } from '../signal/requirement.ts';
import type { Phase } from '../signal/sequence.ts';
import type { Opposite } from '../signal/signal.ts';
import { grainOf, togglesTwice } from '../timer/count.ts';
import { isToggled } from '../timer/drives/index.ts';
import {
  hasTimer,
  isTopChannel,
  type OutputDrive,
  type Setting,
  type TimerSetting,
} from '../timer/setting.ts';
import { unfedReason } from '../fit/fit.ts';
import { modeSuits } from '../fit/hardware/routes.ts';
import { canShareTick } from '../fit/software/shared-timer.ts';
import { tickOf } from '../timer/tick.ts';

/** One signal as assignment sees it: its requirement, its pin if it must be that one, and a setting if that must stay. */
export type Request = {
  id: string;
  name: string;
  requirement: Requirement;
  pin?: string;
  locked?: Setting;
  /** Where it is now, which of equals is preferred. */
  present?: Setting;
  opposite?: Opposite;
  /** Where its rise must be against that of another request. */
  phase?: Phase;
  /** Every rule for a signal by itself that its setting must obey: what a check of the plan would say of it. */
  accepts?: (setting: Setting) => boolean;
  /** Whether such rules go beyond the requirement (a sequence, a first edge, an opposite). */
  strict?: boolean;
  /** Whether the timer's own output has to make it, as what a knob moves. */
  byOutput?: boolean;
};

/** How a signal may use a timer. */
export type UseDrive = TimerSetting['drive'];

/** The drives by a timer's own output. */
const OUTPUTS = ['pwm', 'toggle'] as const satisfies readonly OutputDrive[];

/** A channel and a pin a use may take, with the outputs (polarities) there; the program's pins need no channel. */
export type Place = { channel?: string; pin?: string; outputs: readonly Output[] };

/** A way for a signal to use a timer in a mode, with all channels and pins it can take there. */
export type Option = { drive: UseDrive; timer: Timer; mode: Mode; places: Place[] };

function channelPlaces(
  drive: 'pwm' | 'toggle',
  mode: Mode,
  channel: Channel,
  { pin, opposite }: Request,
): Place[] {
  if (!mode[drive]?.channels.includes(channel.id)) return [];
  if (opposite && !channel.complement?.some((one) => one.pin === opposite.pin)) return [];
  const able = channel.outputs.filter(
    (one) =>
      one.drive === drive &&
      (pin === undefined || one.pin === pin) &&
      (!opposite || (one.polarity === 'normal' && one.pin !== opposite.pin)),
  );
  return [...new Set(able.map((one) => one.pin))].map((own) => ({
    channel: channel.id,
    pin: own,
    outputs: able.filter((one) => one.pin === own),
  }));
}

/** Whether a pin that is high for half of each period can be what is wanted. */
function halves({ duty, width, minSteps }: Requirement): boolean {
  return !width && minSteps <= 2 && duty.low.compare(0.5) <= 0 && duty.high.compare(0.5) >= 0;
}

function outputOptions(timer: Timer, request: Request): Option[] {
  return timer.modes
    .filter((mode) => modeSuits(mode, request.requirement) && !(request.byOutput && togglesTwice(mode)))
    .flatMap((mode) =>
      OUTPUTS.flatMap((drive): Option[] => {
        if (isToggled(drive) && (request.opposite || !halves(request.requirement))) return [];
        const places = timer.channels.flatMap((channel) => channelPlaces(drive, mode, channel, request));
        return places.length === 0 ? [] : [{ drive, timer, mode, places }];
      }),
    );
}

function capturePlaces(captures: readonly Capture[], mode: string, pin: string | undefined): Place[] {
  return captures
    .filter((capture) => capture.mode === mode)
    .flatMap(({ id, inputs }) =>
      inputs
        .filter((one) => pin === undefined || one.pin === pin)
        .map((one) => ({ channel: id, pin: one.pin, outputs: [] })),
    );
}

function inputOptions(timer: Timer, { pin }: Request): Option[] {
  const captures = timer.captures ?? [];
  return [...new Set(captures.map(({ mode }) => mode))].flatMap((id): Option[] => {
    const places = capturePlaces(captures, id, pin);
    return places.length === 0 ? [] : [{ drive: 'capture', timer, mode: modeOf(timer, id), places }];
  });
}

/** Pins that the program can drive: the wanted one, or all. */
function softwarePins(part: Part, { pin, requirement }: Request): Place[] {
  if (!requirement.pin) return [{ outputs: [] }];
  if (pin !== undefined) return pinOf(part, pin).software ? [{ pin, outputs: [] }] : [];
  return part.pins.filter(({ software }) => software).map(({ id }) => ({ pin: id, outputs: [] }));
}

/** Ways of the program, on all timers that can interrupt; lists of places are made once and shared. */
function softwareOptions(part: Part, timers: readonly Timer[], request: Request): Option[] {
  const { requirement, opposite } = request;
  if (requirement.alsoWidths || opposite || requirement.span?.of === 'frequency') return [];
  const pins = softwarePins(part, request);
  if (pins.length === 0) return [];
  const counts = canShareTick(requirement);
  const paired = new Map<string, Place[]>();
  const pairPlaces = (timer: Timer, mode: Mode): Place[] => {
    if (mode.top.kind === 'reload' || mode.top.kind === 'moved') return [];
    const ids = timer.channels
      .filter(({ id, interrupt }) => interrupt && id !== mode.tick && !isTopChannel(mode, id))
      .map(({ id }) => id);
    const key = `${timer.id} ${ids.join()}`;
    const known = paired.get(key) ?? ids.flatMap((id) => pins.map((place) => ({ ...place, channel: id })));
    paired.set(key, known);
    return known;
  };
  return timers.flatMap((timer) =>
    timer.modes.flatMap((mode): Option[] => {
      if (mode.count !== 'up' || !tickOf(timer, mode) || grainOf(mode) !== 1) return [];
      const tick: Option[] = counts ? [{ drive: 'interrupt', timer, mode, places: pins }] : [];
      if (!requirement.pin) return tick;
      const places = pairPlaces(timer, mode);
      return [
        ...tick,
        { drive: 'software-pwm', timer, mode, places: pins },
        ...(places.length > 0 ? [{ drive: 'interrupt-pair' as const, timer, mode, places }] : []),
      ];
    }),
  );
}

function lockedOption(part: Part, setting: Setting): Option[] {
  if (!hasTimer(setting)) return [];
  const timer = timerOf(part, setting.timer);
  const { pin } = setting;
  const channel = 'channel' in setting ? setting.channel : undefined;
  const outputs = (timer.channels.find(({ id }) => id === channel)?.outputs ?? []).filter(
    (one) => one.pin === pin && one.drive === setting.drive,
  );
  const place = { ...(channel ? { channel } : {}), ...(pin === undefined ? {} : { pin }), outputs };
  return [{ drive: setting.drive, timer, mode: modeOf(timer, setting.mode), places: [place] }];
}

/**
 * Every way a signal could use a timer of the part, in the order of the part's data, the hardware's ways before the
 * program's. Reserved timers are left out, and so are oscillators that alone are worse than the requirement allows.
 */
export function optionsOf(
  part: Part,
  path: ClockPath,
  request: Request,
  reserved: ReadonlySet<string>,
): Option[] {
  if (request.locked) return lockedOption(part, request.locked);
  const { requirement } = request;
  if (unfedReason(part, path, requirement) !== undefined) return [];
  const timers = part.timers.filter(
    (timer) =>
      !reserved.has(rootOf(timer)) &&
      !reserved.has(timer.id) &&
      narrowed(requirement, path, timer) !== undefined,
  );
  if (requirement.input) return timers.flatMap((timer) => inputOptions(timer, request));
  const hardware = requirement.pin ? timers.flatMap((timer) => outputOptions(timer, request)) : [];
  return request.byOutput ? hardware : [...hardware, ...softwareOptions(part, timers, request)];
}

/**
 * A requirement whose frequencies are narrowed by what a timer's oscillator may be off, so that what lies within them holds on
 * any bench: f / (1 - d) from below, f / (1 + d) from above. Undefined where nothing is left.
 */
export function narrowed(requirement: Requirement, path: ClockPath, timer: Timer): Requirement | undefined {
  const { tolerancePpm } = clockAt(path, timer.clock);
  const off = exact(tolerancePpm).div(1000000);
  const { frequency } = requirement;
  if (requirement.input) return requirement;
  const low = frequency.low.div(exact(1).sub(off));
  if (!frequency.high) return { ...requirement, frequency: { ...frequency, low } };
  const high = frequency.high.div(off.add(1));
  return low.compare(high) > 0 ? undefined : { ...requirement, frequency: { ...frequency, low, high } };
}
