import { clockAt, type ClockPath } from '../clock/path.ts';
import { complementOf, modeOf, pinOf, timerOf, rootOf } from '../part/find.ts';
import type { Mode, Part, Timer } from '../part/types.ts';
import { onOscillator } from '../signal/drift.ts';
import type { Requirement } from '../signal/requirement.ts';
import type { Phase } from '../signal/sequence.ts';
import type { Opposite } from '../signal/signal.ts';
import { togglesTwice } from '../timer/count.ts';
import { allDrives, fieldsOf, type Drive, type TimerPlace } from '../timer/drives/index.ts';
import { hasTimer, type Setting } from '../timer/setting.ts';
import { unfedReason } from '../fit/fit.ts';
import { secondChannels } from '../fit/complement.ts';
import { modeSuits } from '../fit/hardware/routes.ts';

/** One signal as assignment sees it: its requirement, its pin if it must be that one, and a setting if that must stay. */
export type Request = {
  id: string;
  name: string;
  requirement: Requirement;
  pin?: string;
  locked?: Setting;
  /** Where it is now, which is preferred on ties. */
  present?: Setting;
  opposite?: Opposite;
  /** Where its rise must be against that of another request. */
  phase?: Phase;
  /** Every rule for a signal by itself that its setting must obey: what a check of the plan would say of it. */
  accepts?: (setting: Setting) => boolean;
  /** Whether a setting breaks them with any numbers: by its timer, mode or channel. */
  never?: (setting: Setting) => boolean;
  /** Whether such rules go beyond the requirement (a sequence, a first edge, an opposite). */
  strict?: boolean;
  /** Whether the timer's own output has to make it, as what a knob moves. */
  byOutput?: boolean;
};

/**
 * A channel and a pin a use may take, with the outputs (polarities) there, and a second channel where that makes its opposite; the
 * program's pins need no channel.
 */
export type Place = TimerPlace & { second?: string };

/** A way for a signal to use a timer in a mode by a drive, with all channels and pins it can take there. */
export type Option = { drive: string; timer: Timer; mode: Mode; places: readonly Place[] };

/** Whether a signal can have a place: it is on the wanted pin, and its opposite can come out beside it. */
function suits({ channel, pin, outputs }: Place, timer: Timer, mode: Mode, request: Request): Place[] {
  const { opposite } = request;
  if (pin === undefined || (request.pin !== undefined && request.pin !== pin)) return [];
  if (!opposite) return [{ channel, pin, outputs }];
  const own = timer.channels.find(({ id }) => id === channel);
  const plain = outputs.filter(({ polarity }) => polarity === 'normal');
  const able = plain.length > 0 && own !== undefined && complementOf(own, pin, opposite.pin) !== undefined;
  return able
    ? [{ channel, pin, outputs: plain }]
    : pairedPlaces({ channel, pin, outputs }, timer, mode, opposite);
}

/** The places of an output at which another channel of its timer can make the opposite, one for each such channel and polarity. */
function pairedPlaces(
  { channel, pin, outputs }: Place,
  timer: Timer,
  mode: Mode,
  opposite: Opposite,
): Place[] {
  const still = mode.count !== 'updown' && opposite.deadS > 0;
  if (still || channel === undefined || pin === undefined || pin === opposite.pin) return [];
  return outputs
    .filter(({ drive }) => drive === 'pwm')
    .flatMap((output) =>
      secondChannels({ timer, mode }, channel, output.polarity, opposite.pin).map(({ id }): Place => ({
        channel,
        pin,
        outputs: [output],
        second: id,
      })),
    );
}

/** Pins that the program can drive: the wanted one, or all; none at all for a tick. */
function softwarePins(part: Part, { pin, requirement }: Request): Place[] {
  if (!requirement.pin) return [{ outputs: [] }];
  if (pin !== undefined) return pinOf(part, pin).software ? [{ pin, outputs: [] }] : [];
  return part.pins.filter(({ software }) => software).map(({ id }) => ({ pin: id, outputs: [] }));
}

/**
 * Gives the places of a drive in a mode that a signal can have: those bound to a pin where they suit, the others on every pin
 * of the program. Lists of the latter are made once and shared.
 */
function placesFor(
  part: Part,
  request: Request,
): (drive: Drive, timer: Timer, mode: Mode) => readonly Place[] {
  const pins = softwarePins(part, request);
  const shared = new Map<string, readonly Place[]>();
  return (drive, timer, mode) => {
    const all = drive.places?.(timer, mode) ?? [];
    const bound = all.flatMap((place) => suits(place, timer, mode, request));
    const free = all.filter(({ pin }) => pin === undefined);
    if (free.length === 0) return bound;
    const key = `${free.some(({ channel }) => channel !== undefined) ? timer.id : ''} ${free.map(({ channel }) => channel).join()}`;
    const list = shared.get(key) ?? free.flatMap((place) => pins.map((pin) => ({ ...place, ...pin })));
    shared.set(key, list);
    return bound.length === 0 ? list : [...bound, ...list];
  };
}

/** Whether a mode is one for an output that the signal needs. */
function outputModeSuits(mode: Mode, { requirement, byOutput }: Request): boolean {
  return modeSuits(mode, requirement) && !(byOutput && togglesTwice(mode));
}

function lockedOption(part: Part, setting: Setting): Option[] {
  if (!hasTimer(setting)) return [];
  const timer = timerOf(part, setting.timer);
  const { pin } = setting;
  const channel = 'channel' in setting ? setting.channel : undefined;
  const outputs = (timer.channels.find(({ id }) => id === channel)?.outputs ?? []).filter(
    (one) => one.pin === pin && one.drive === setting.drive,
  );
  const second = 'complement' in setting ? setting.complement?.channel : undefined;
  const place = {
    ...(channel ? { channel } : {}),
    ...(pin === undefined ? {} : { pin }),
    ...(second === undefined ? {} : { second }),
    outputs,
  };
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
  const able = allDrives().filter(
    (drive) => drive.canMeet(requirement) && !(request.opposite && !fieldsOf(drive)['complement']),
  );
  const byHardware = able.filter(({ cause }) => cause === 'output' || cause === 'input');
  const byProgram = request.byOutput ? [] : able.filter((drive) => !byHardware.includes(drive));
  const placesOf = placesFor(part, request);
  const options = (drives: readonly Drive[]): Option[] =>
    timers.flatMap((timer) =>
      timer.modes.flatMap((mode) =>
        drives.flatMap((drive): Option[] => {
          if (drive.cause === 'output' && !outputModeSuits(mode, request)) return [];
          const places = placesOf(drive, timer, mode);
          return places.length === 0 ? [] : [{ drive: drive.id, timer, mode, places }];
        }),
      ),
    );
  return [...options(byHardware), ...options(byProgram)];
}

/** A requirement narrowed by what a timer's oscillator may be off; undefined where nothing is left. */
export function narrowed(requirement: Requirement, path: ClockPath, timer: Timer): Requirement | undefined {
  return onOscillator(requirement, clockAt(path, timer.clock).tolerancePpm);
}
