import type { Channel, Mode, Output, Part, Timer } from '../../part/types.ts';
import { hasToMove, type Requirement } from '../../signal/requirement.ts';
import { togglesTwice } from '../../timer/count.ts';
import { allDrives, type TimerPlace } from '../../timer/drives/index.ts';
import type { OutputDrive } from '../../timer/setting.ts';

/** One method of bringing a signal to a pin: everything but the numbers. `outputs` are the polarities to choose from. */
export type Route = {
  timer: Timer;
  mode: Mode;
  drive: OutputDrive;
  channel: Channel;
  pin: string;
  outputs: readonly Output[];
};

/**
 * Whether the PWM of a mode can be what is wanted: counts spread over the run are not pulses of one width, and an output that
 * match and overflow toggle cannot move while its counter runs.
 */
export function modeSuits(mode: Mode, requirement: Requirement): boolean {
  const steady = requirement.frequency.high !== undefined;
  return !(steady && mode.pwm?.spread) && !(hasToMove(requirement) && togglesTwice(mode));
}

/**
 * Every way the part has, on one pin; or, where any pin will do, each channel once, on its first pin that is not taken
 * (on its first if all are), in the modes that suit. In the order of the part's data.
 */
export function routesOf(
  part: Part,
  requirement: Requirement,
  pin?: string,
  taken: ReadonlySet<string> = new Set(),
): Route[] {
  const drives = allDrives().filter(({ cause }) => cause === 'output');
  return part.timers.flatMap((timer) =>
    timer.modes
      .filter((mode) => modeSuits(mode, requirement))
      .flatMap((mode) =>
        drives.flatMap((drive) =>
          firstPlaces(drive.places?.(timer, mode) ?? [], pin, taken).flatMap(
            ({ outputs, ...place }): Route[] => {
              const channel = timer.channels.find(({ id }) => id === place.channel);
              if (!channel || place.pin === undefined) return [];
              return [{ timer, mode, drive: drive.id as OutputDrive, channel, pin: place.pin, outputs }];
            },
          ),
        ),
      ),
  );
}

/** Of the places of each channel one: on the wanted pin, or else on the first that is not taken, or on the first. */
function firstPlaces(
  places: readonly TimerPlace[],
  wanted: string | undefined,
  taken: ReadonlySet<string>,
): TimerPlace[] {
  const able = places.filter(({ pin }) => wanted === undefined || pin === wanted);
  return [...new Set(able.map(({ channel }) => channel))].flatMap((channel) => {
    const own = able.filter((place) => place.channel === channel);
    return own.find(({ pin }) => pin !== undefined && !taken.has(pin)) ?? own[0] ?? [];
  });
}
