import { clockOf, type ClockPath } from '../clock/path.ts';
import { channelOf, modeOf, timerOf } from '../part/find.ts';
import type { Part, Timer } from '../part/schema.ts';
import type { Goal } from '../target/goal.ts';
import type { Opposite } from '../target/signal.ts';
import { compareFor } from '../timer/count.ts';
import { produceOutput } from '../timer/produce-output.ts';
import type { OutputSetting } from '../timer/setting.ts';
import type { Candidate } from './candidate.ts';
import type { Fit } from './fit.ts';
import { closestFirst, frontOf } from './rank.ts';

/** The shortest dead time of a timer, in ticks of its clock, that is not shorter than wanted; undefined where none is. */
export function deadTicksFor(timer: Timer, wanted: number): number | undefined {
  if (wanted <= 0) return 0;
  for (const { least, most, step } of timer.deadTime ?? []) {
    const ticks = Math.max(least, Math.ceil(wanted / step - 1e-9) * step);
    if (ticks <= most) return ticks;
  }
  return undefined;
}

/** A candidate with its opposite on a pin, the compare value grown by the dead time; undefined where that cannot be. */
function withOpposite(
  part: Part,
  path: ClockPath,
  goal: Goal,
  candidate: Candidate,
  { pin, deadS }: Opposite,
): Candidate | undefined {
  const { setting } = candidate;
  if (setting.drive !== 'compare' || setting.polarity === 'inverted') return undefined;
  const timer = timerOf(part, setting.timer);
  const able = channelOf(timer, setting.channel).complement?.some((one) => one.pin === pin);
  const clockHz = clockOf(path, timer.clock);
  const deadTicks = deadTicksFor(timer, clockHz.valueOf() * deadS);
  if (!able || deadTicks === undefined || setting.pin === pin) return undefined;
  const mode = modeOf(timer, setting.mode);
  const share = goal.duty.ideal.valueOf() + (deadTicks / clockHz.valueOf()) * candidate.frequencyHz;
  const compare = compareFor(mode, setting.top, timer.width, Math.min(1, share), false);
  const opposed: OutputSetting = { ...setting, compare, complement: { pin, deadTicks } };
  const { duty, frequency } = produceOutput(part, opposed, clockHz);
  const width = duty.div(frequency);
  const meetsDuty = goal.width
    ? width.compare(goal.width.low) >= 0 && width.compare(goal.width.high) <= 0
    : duty.compare(goal.duty.low) >= 0 && duty.compare(goal.duty.high) <= 0;
  return {
    ...candidate,
    setting: opposed,
    duty: duty.valueOf(),
    dutyError: duty.sub(goal.duty.ideal).valueOf(),
    meetsDuty,
    meets: candidate.meets && meetsDuty,
  };
}

/** Of a fit what can also bring the opposite to its pin with the dead time between. */
export function fitWithOpposite(part: Part, path: ClockPath, goal: Goal, fit: Fit, opposite: Opposite): Fit {
  const all = [...fit.candidates, ...fit.near].flatMap(
    (one) => withOpposite(part, path, goal, one, opposite) ?? [],
  );
  const candidates = all.filter((one) => one.meets).sort(closestFirst(goal));
  const able = new Set(all.flatMap(({ setting }) => (setting.drive === 'busy' ? [] : [setting.timer])));
  const others = part.timers.filter(
    (timer) => !able.has(timer.id) && !fit.refused.some((one) => one.timer === timer.id),
  );
  return {
    ...fit,
    candidates,
    near: all.filter((one) => !one.meets),
    front: frontOf(candidates, goal),
    refused: [
      ...fit.refused,
      ...others.map(({ id, name }) => ({
        timer: id,
        reason: `${name} has no output with its opposite on ${opposite.pin} and that dead time.`,
      })),
    ],
  };
}
