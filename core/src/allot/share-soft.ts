import type { Part } from '../part/schema.ts';
import type { TickGoal } from '../fit/candidate.ts';
import type { Goal } from '../target/goal.ts';
import { compareForShare } from '../timer/count.ts';
import type { InterruptDriven } from '../timer/setting.ts';
import type { Band, Counted } from './bands.ts';
import { runsIn, type Bench, type Use } from './bench.ts';

/** Where a use with only a least frequency is wanted, as slow as this is never needed. */
const NOWHERE = Number.MAX_SAFE_INTEGER;

/** The lengths of a run that a use wants whose period is one run or two. */
export function directBand({ drive }: Use, { lowTicks, highTicks }: TickGoal): Band {
  const runs = runsIn(drive);
  return { low: Math.ceil(lowTicks / runs), high: Math.floor(Math.min(highTicks, NOWHERE) / runs) };
}

function dutyHit({ duty, minSteps }: Goal, k: number): boolean {
  if (k < Math.max(2, minSteps)) return false;
  const share = Math.round(duty.ideal.valueOf() * k) / k;
  return share >= duty.low.valueOf() - 1e-12 && share <= duty.high.valueOf() + 1e-12;
}

/** A tick takes any number of runs, a toggled pin twice as many for a period, a counted pin those that hit its duty. */
export function countedBand({ drive, request: { goal } }: Use, { lowTicks, highTicks }: TickGoal): Counted {
  if (drive === 'counted') return { low: lowTicks, high: highTicks, allows: (k) => dutyHit(goal, k) };
  const changes = goal.pin ? 2 : 1;
  return { low: Math.ceil(lowTicks / changes), high: Math.floor(highTicks / changes), allows: () => true };
}

/** The setting of a use that the program makes, on a run of so many ticks. */
export function softSetting(
  { timer, mode }: Bench,
  use: Use,
  prescaler: number,
  top: number,
  run: number,
  wanted: TickGoal,
): InterruptDriven {
  const { drive, request } = use;
  const { goal } = request;
  const counter = { timer: timer.id, mode: mode.id, prescaler, top };
  const pin = goal.pin ? (request.pin ?? request.stays?.pin) : undefined;
  const placed = pin === undefined ? {} : { pin };
  const period = wanted.periodFloat ?? wanted.highTicks;
  const share = goal.duty.ideal.valueOf();
  if (drive === 'pair') {
    const compare = compareForShare(mode, top, share);
    return { drive, ...counter, channel: use.channel ?? '', pin: pin ?? '', compare };
  }
  if (drive === 'counted') {
    const divider = dividerFor(wanted, run, 1, (k) => dutyHit(goal, k), period);
    return { drive, ...counter, pin: pin ?? '', divider, compare: Math.round(share * divider) };
  }
  const divider = dividerFor(wanted, run, goal.pin ? 2 : 1, () => true, period);
  return { drive: 'interrupt', ...counter, ...placed, divider };
}

/** The number of runs to a change that comes nearest to the period and is allowed. */
function dividerFor(
  { lowTicks, highTicks }: TickGoal,
  run: number,
  changes: number,
  allows: (k: number) => boolean,
  period: number,
): number {
  const ideal = Math.max(1, Math.round(period / run / changes));
  const [from, to] = [
    Math.ceil(lowTicks / run / changes),
    Math.floor(Math.min(highTicks, NOWHERE) / run / changes),
  ];
  for (let off = 0; off <= Math.max(ideal - from, to - ideal, 0); off += 1) {
    for (const k of [ideal - off, ideal + off]) if (k >= 1 && k >= from && k <= to && allows(k)) return k;
  }
  return ideal;
}

/** Any pin the program can drive: which one does not change what comes out. */
export function softPinOf(part: Part): string {
  return part.pins.find(({ software }) => software)?.id ?? '';
}
