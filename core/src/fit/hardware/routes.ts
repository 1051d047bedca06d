import type { Channel, Mode, Output, Part, Timer } from '../../part/types.ts';
import { hasToMove, type Requirement } from '../../signal/requirement.ts';
import { togglesTwice } from '../../timer/count.ts';
import type { OutputDrive } from '../../timer/setting.ts';

/** One method of bringing a signal to a pin: everything but the numbers. `outputs` are the polarities to choose from. */
export type Route = {
  timer: Timer;
  mode: Mode;
  drive: OutputDrive;
  channel: Channel;
  pin: string;
  outputs: Output[];
};

const DRIVES: readonly OutputDrive[] = ['pwm', 'toggle'];

/**
 * Whether the PWM of a mode can be what is wanted: counts spread over the run are no pulses of one width, and an output that
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
  const routes: Route[] = [];
  for (const timer of part.timers) {
    for (const mode of timer.modes) {
      if (!modeSuits(mode, requirement)) continue;
      for (const drive of DRIVES) {
        const able = mode[drive]?.channels ?? [];
        for (const channel of timer.channels.filter((one) => able.includes(one.id))) {
          const outputs = channel.outputs.filter(
            (one) => one.drive === drive && (pin === undefined || one.pin === pin),
          );
          const places = [...new Set(outputs.map((one) => one.pin))];
          const place = places.find((one) => !taken.has(one)) ?? places[0];
          if (place !== undefined) {
            routes.push({
              timer,
              mode,
              drive,
              channel,
              pin: place,
              outputs: outputs.filter((one) => one.pin === place),
            });
          }
        }
      }
    }
  }
  return routes;
}
