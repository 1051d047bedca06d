import { ratio } from '../../quantity/exact.ts';
import { channelOf, modeOf, timerOf } from '../../part/find.ts';
import type { Channel, Interrupt, Mode, Part, Timer } from '../../part/types.ts';
import { compareForShare, grainOf } from '../count.ts';
import { MAX_CPU, runFor } from '../interrupt-sources.ts';
import { checkWhole, isTopChannel, look, SettingError, type InterruptPairSetting } from '../setting.ts';
import type { Drive } from './drive.ts';
import { COUNT, COUNTER, ID } from './setting-fields.ts';
import {
  anyPin,
  keepsDuty,
  adjustCounter,
  INTERRUPTS,
  interruptNumbers,
  interruptOutcome,
  interruptRungs,
  interruptSettingWrites,
  pulseCycle,
  resolveInterrupts,
  tickEvents,
  type ResolvedInterrupts,
} from './interrupts.ts';
import { channelPlace, counterText, movableTop } from './output.ts';
import { outcomeUnder } from './outcome-under.ts';

/** The channel of a pair, if its match can interrupt and is not the top. @throws SettingError */
function matchOf(timer: Timer, mode: Mode, id: string): { channel: Channel; interrupt: Interrupt } {
  const channel = look('channel', () => channelOf(timer, id));
  const { interrupt } = channel;
  if (!interrupt || isTopChannel(mode, id) || mode.count !== 'up') {
    throw new SettingError('channel', `The match of ${channel.name} cannot end a pulse in ${mode.name}.`);
  }
  return { channel, interrupt };
}

/** Channels whose match can end a pulse: those that interrupt beside the one that counts runs. */
function matchChannels(timer: Timer, mode: Mode): Channel[] {
  if (mode.top.kind === 'reload' || mode.top.kind === 'moved') return [];
  return timer.channels.filter(
    ({ id, interrupt }) => interrupt && id !== mode.tick && !isTopChannel(mode, id),
  );
}

function resolve(
  part: Part,
  setting: InterruptPairSetting,
): ResolvedInterrupts & Required<Pick<ResolvedInterrupts, 'match'>> {
  const resolved = resolveInterrupts(part, setting);
  checkWhole('compare', setting.compare, 0, setting.top);
  return { ...resolved, match: matchOf(resolved.timer, resolved.mode, setting.channel) };
}

/** One interrupt sets the pin, the match of a channel clears it: neither can come before the other has ended. */
export const interruptPair: Drive<InterruptPairSetting> = {
  ...INTERRUPTS,
  start: 'second-run',
  id: 'interrupt-pair',
  name: 'pair of interrupts',
  short: 'pair',
  duty: 'match',
  divides: false,
  interruptsPerRun: 2,
  fields: { timer: ID, mode: ID, channel: ID, pin: ID, ...COUNTER, compare: COUNT },
  places: (timer, mode) =>
    anyPin(timer, mode).flatMap((place) =>
      matchChannels(timer, mode).map(({ id: channel }) => ({ ...place, channel })),
    ),
  canMeet: keepsDuty,
  runsPerPeriod: () => 1,
  check: (part, setting) => {
    resolve(part, setting);
  },
  outcome: (part, setting, clockHz, cpuHz) => {
    const resolved = resolve(part, setting);
    return interruptOutcome(part, resolved, clockHz, cpuHz, (run, busy) => {
      const { mode, division } = resolved;
      const count = division.n * grainOf(mode);
      const wanted = (setting.compare + (mode.lag ?? 0)) * count;
      const high = Math.min(Math.max(wanted, busy), Math.max(run - busy, 0));
      return {
        cycle: pulseCycle(run, high),
        steps: Math.max(2, Math.floor((run - 2 * busy) / count)),
        reach: { min: ratio(Math.min(busy, run), run), max: ratio(Math.max(run - busy, 0), run) },
        interrupts: 2,
      };
    });
  },
  numbers: (part, setting) => ({ ...interruptNumbers(part, setting), compare: setting.compare }),
  writes: (part, setting) => interruptSettingWrites(resolve(part, setting)),
  ladder: (part, path, setting) => {
    const resolved = resolve(part, setting);
    const { mode } = resolved;
    const lag = mode.lag ? `+ ${mode.lag} ` : '';
    return [
      ...interruptRungs(part, path, resolved, false).rungs,
      {
        id: 'compare',
        label: 'Second interrupt',
        before: 'high for',
        value: setting.compare,
        after: `${lag}of ${setting.top + mode.base}`,
        choices: { min: 0, max: setting.top },
        hz: outcomeUnder(part, path, setting).frequency,
      },
    ];
  },
  handlers: (part, setting) => {
    const { tick, match } = resolve(part, setting);
    const { pin } = setting;
    // A new width comes into force at the start of a period: in its middle the match may be over, and the pin would stay high.
    const load = {
      do: 'load',
      writes: match.channel.compare,
      value: setting.compare,
      max: setting.top,
    } as const;
    return [
      { interrupt: tick, keepsRunning: true, actions: [{ do: 'level', pin, high: true }, load] },
      { interrupt: match.interrupt, keepsRunning: false, actions: [{ do: 'level', pin, high: false }] },
    ];
  },
  events: (part, setting) => {
    const resolved = resolve(part, setting);
    const { mode, division, match } = resolved;
    const tick = tickEvents(part, resolved);
    const high = (setting.compare + (mode.lag ?? 0)) * division.n * grainOf(mode);
    return [tick, { interrupt: match.interrupt, firstTicks: high, everyTicks: tick.everyTicks }];
  },
  adjustable: (part, setting) => {
    const { mode } = resolve(part, setting);
    const whole = setting.top + mode.base;
    return { first: mode.lag ?? 0, step: 1, max: setting.top, whole };
  },
  adjust: (part, setting, share, field, value) => {
    if (field !== 'top') return adjustCounter(part, setting, field, value);
    const mode = modeOf(timerOf(part, setting.timer), setting.mode);
    return { ...setting, top: value, compare: compareForShare(mode, value, share) };
  },
  movable: (part, setting) => ({
    ...movableTop(part, setting),
    duty: { field: 'compare', min: 0, max: setting.top, falling: false },
  }),
  propose: ({ requirement, wantedHz, pin, sources }) => {
    if (pin === undefined) return [];
    return sources.flatMap((source) => {
      const { timer, mode } = source;
      const [channel] = mode.count === 'up' ? matchChannels(timer, mode) : [];
      const counter =
        channel && runFor(source, wantedHz, MAX_CPU / 2, requirement.frequency.kind === 'within');
      if (!channel || !counter) return [];
      const compare = compareForShare(mode, counter.top, requirement.duty.ideal.valueOf());
      return [{ drive: 'interrupt-pair' as const, ...counter, channel: channel.id, pin, compare }];
    });
  },
  means: () => 'interrupt pair',
  numbersText: counterText,
  place: channelPlace,
};
