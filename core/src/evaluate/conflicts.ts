import { clockPath, type ClockPath } from '../clock/path.ts';
import { findTimer, rootOf } from '../part/find.ts';
import type { Part, Timer } from '../part/types.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { printHz } from '../quantity/print.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import { driveOf, outcomeUnder, pinsTakenBy } from '../timer/drives/index.ts';
import { claimedWrites } from '../timer/encode.ts';
import type { FieldWrite } from '../timer/fields.ts';
import { conflictSentence, mergeWrites, type RegisterConflict } from '../timer/merge.ts';
import { channelsOfSetting, hasTimer, type Setting } from '../timer/setting.ts';

/** What two signals get in each other's way with: a pin, a channel, a timer's one frequency, or a register. */
export type Conflict = {
  signals: [string, string];
  of: 'pin' | 'channel' | 'frequency' | 'register';
  /** Where it happens, for drawing: the timer and channel. */
  timer?: string;
  channel?: string;
  title: string;
  text: string;
};

/** A signal with its setting. */
export type Holder = { signal: PlanSignal; setting: Setting };

function demandOf({ signal, setting }: Holder, part: Part, path: ClockPath): string {
  const { frequency, input } = requirementOf(signal);
  if (input) return `a run as long as ${printHz(input.slowest.valueOf(), 4)} needs`;
  const drive = driveOf(setting);
  if (drive.divides && drive.duty === 'half' && 'divider' in setting) {
    const runs = setting.divider * drive.runsPerPeriod(setting.pin !== undefined);
    return `an interrupt at ${printHz(outcomeUnder(part, path, setting).frequency.mul(runs).valueOf(), 4)}`;
  }
  return frequency.kind === 'near'
    ? printHz(frequency.ideal.valueOf())
    : `at least ${printHz(frequency.low.valueOf())}`;
}

/** The timer of a setting, if a timer counts in it. */
function timerIn(part: Part, setting: Setting): Timer | undefined {
  return hasTimer(setting) ? findTimer(part, setting.timer) : undefined;
}

function conflictBetween(
  part: Part,
  path: ClockPath,
  one: Holder,
  other: Holder,
  conflict: RegisterConflict | undefined,
): Conflict {
  const signals: [string, string] = [one.signal.id, other.signal.id];
  const [first, second] = [one.signal.name, other.signal.name];
  const [own, their] = [one.setting, other.setting];
  const pin = pinsTakenBy(part, own).find((id) => pinsTakenBy(part, their).includes(id));
  const [timer, same] = [own, their].map((setting) => timerIn(part, setting));
  const shared = timer && same && rootOf(timer) === rootOf(same) ? timer : undefined;
  const channel = channelsOfSetting(own).find((id) => channelsOfSetting(their).includes(id));
  const place = shared ? { timer: rootOf(shared), ...(channel ? { channel } : {}) } : {};
  if (shared && channel) {
    const title = `${first} and ${second} both need ${shared.name} ${channel}.`;
    return {
      signals,
      of: 'channel',
      ...place,
      title,
      text: 'A channel has one compare register and one mode.',
    };
  }
  if (pin !== undefined) {
    return {
      signals,
      of: 'pin',
      ...place,
      title: `${first} and ${second} are both on ${pin}.`,
      text: 'A pin can do one thing at a time.',
    };
  }
  if (shared?.counter !== undefined && conflict?.register === shared.counter) {
    const [mine, theirs] = conflict.values;
    return {
      signals,
      of: 'register',
      timer: rootOf(shared),
      title: `${first} and ${second} need ${shared.name} to begin at different counts.`,
      text: `A timer begins at one count for all its signals: ${mine} for ${first}, ${theirs} for ${second}.`,
    };
  }
  if (shared) {
    const title = `${second} cannot share ${shared.name} with ${first}.`;
    const [mine, theirs] = [demandOf(one, part, path), demandOf(other, part, path)];
    const text =
      mine === theirs && conflict
        ? `Both want ${mine}, by different settings: ${conflictSentence(conflict)}`
        : `One timer has one frequency: ${mine} for ${first}, ${theirs} for ${second}.`;
    return { signals, of: 'frequency', timer: rootOf(shared), title, text };
  }
  return {
    signals,
    of: 'register',
    title: `${first} and ${second} need conflicting values of one register.`,
    text: conflict ? conflictSentence(conflict) : '',
  };
}

/** What a signal holds that others may want: its writes, its pins and its channels. */
type Claim = {
  holder: Holder;
  writes: readonly FieldWrite[];
  pins: readonly string[];
  channels: readonly string[];
};

function claimOf(part: Part, holder: Holder): Claim {
  const { setting } = holder;
  return {
    holder,
    writes: claimedWrites(part, setting),
    pins: pinsTakenBy(part, setting),
    channels: hasTimer(setting) ? channelsOfSetting(setting).map((id) => `${setting.timer} ${id}`) : [],
  };
}

/** Every pair of signals whose settings cannot be in force together, with what stands between them. */
export function conflictsBetween(part: Part, plan: Plan, holders: readonly Holder[]): Conflict[] {
  const path = clockPath(part, plan.clock);
  const claims = holders.map((holder) => claimOf(part, holder));
  return claims.flatMap((one, at) =>
    claims.slice(at + 1).flatMap((other): Conflict[] => {
      const users = [one, other].map(({ holder, writes }) => ({ name: holder.signal.name, writes }));
      const [conflict] = mergeWrites(users).conflicts;
      const samePin = one.pins.some((pin) => other.pins.includes(pin));
      const sameChannel = one.channels.some((channel) => other.channels.includes(channel));
      if (!conflict && !samePin && !sameChannel) return [];
      return [conflictBetween(part, path, one.holder, other.holder, conflict)];
    }),
  );
}
