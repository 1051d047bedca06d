import { assign } from '../assign/assign.ts';
import { rootOf } from '../assign/request.ts';
import { conflictSentence, mergeWrites } from '../codegen/merge.ts';
import { clockPath, clockPhrase, type ClockPath } from '../clock/path.ts';
import { withoutSignal } from '../plan/edit.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { timerOf } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import { printHz } from '../quantity/print.ts';
import { requirementOf } from '../signal/requirement.ts';
import { settingWrites } from '../timer/encode.ts';
import { pinsOfSetting, type Setting } from '../timer/setting.ts';
import { pathUnder, requestOf } from './assign-plan.ts';
import { minRelaxation } from './relax.ts';
import { planOn, searchClocks } from './compare-parts.ts';
import { outcomeUnder, placeText } from '../timer/drives/index.ts';

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

/** A way out of a collision: what it says, and the plan it makes. */
export type Fix = { text: string; plan: Plan };

/** A signal with its setting. */
export type Holder = { signal: PlanSignal; setting: Setting };

function wishOf({ signal, setting }: Holder, part: Part, path: ClockPath): string {
  const { frequency, input } = requirementOf(signal);
  if (input) return `a run as long as ${printHz(input.slowest.valueOf(), 4)} needs`;
  if (setting.drive === 'interrupt') {
    return `an interrupt at ${printHz(
      outcomeUnder(part, path, setting)
        .frequency.mul(setting.divider * (setting.pin ? 2 : 1))
        .valueOf(),
      4,
    )}`;
  }
  return frequency.kind === 'near'
    ? printHz(frequency.ideal.valueOf())
    : `at least ${printHz(frequency.low.valueOf())}`;
}

function conflictBetween(
  part: Part,
  path: ClockPath,
  one: Holder,
  other: Holder,
  sentence: string,
): Conflict {
  const signals: [string, string] = [one.signal.id, other.signal.id];
  const [first, second] = [one.signal.name, other.signal.name];
  const [own, their] = [one.setting, other.setting];
  const pin = pinsOfSetting(own).find((id) => pinsOfSetting(their).includes(id));
  const timers = [own, their].map((setting) =>
    setting.drive === 'delay-loop' ? undefined : timerOf(part, setting.timer),
  );
  const [timer, same] = timers;
  const shared = timer && same && rootOf(timer) === rootOf(same) ? timer : undefined;
  const channel =
    'channel' in own && 'channel' in their && own.channel === their.channel ? own.channel : undefined;
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
  if (shared) {
    const title = `${second} cannot share ${shared.name} with ${first}.`;
    const text = `One timer has one frequency: ${wishOf(one, part, path)} for ${first}, ${wishOf(other, part, path)} for ${second}.`;
    return { signals, of: 'frequency', timer: rootOf(shared), title, text };
  }
  return {
    signals,
    of: 'register',
    title: `${first} and ${second} want one register in two ways.`,
    text: sentence,
  };
}

/** The signals of a plan that have a setting. */
function holdersOf(plan: Plan): Holder[] {
  return plan.signals.flatMap((signal) => (signal.setting ? [{ signal, setting: signal.setting }] : []));
}

/** Every pair of signals whose settings cannot be in force together, with what stands between them. */
export function conflictsBetween(part: Part, plan: Plan, holders: readonly Holder[]): Conflict[] {
  const path = clockPath(part, plan.clock);
  const found: Conflict[] = [];
  holders.forEach((one, at) => {
    for (const other of holders.slice(at + 1)) {
      const pins = pinsOfSetting(one.setting).filter((pin) => pinsOfSetting(other.setting).includes(pin));
      const users = [one, other].map(({ signal, setting }) => ({
        name: signal.name,
        writes: settingWrites(part, setting),
      }));
      const [conflict] = mergeWrites(users).conflicts;
      const sameChannel =
        JSON.stringify(channelOf(one)) === JSON.stringify(channelOf(other)) && channelOf(one) !== undefined;
      if (!conflict && pins.length === 0 && !sameChannel) continue;
      found.push(conflictBetween(part, path, one, other, conflict ? conflictSentence(conflict) : ''));
    }
  });
  return found;
}

function channelOf({ setting }: Holder): [string, string] | undefined {
  return setting.drive !== 'delay-loop' && 'channel' in setting
    ? [setting.timer, setting.channel]
    : undefined;
}

function withSetting(plan: Plan, id: string, setting: Setting, pin: string | undefined): Plan {
  const placed = (one: PlanSignal): PlanSignal => {
    const rest = { ...one };
    delete rest.pin;
    return { ...rest, ...(pin === undefined ? {} : { pin }), setting };
  };
  return { ...plan, signals: plan.signals.map((one) => (one.id === id ? placed(one) : one)) };
}

/** Signals whose settings stand in nobody's way, the first of each pair that collides among them. */
function peaceful(plan: Plan, part: Part, except: string): Set<string> {
  const kept: Holder[] = [];
  for (const signal of plan.signals) {
    const { setting } = signal;
    if (signal.id === except || !setting) continue;
    if (conflictsBetween(part, plan, [...kept, { signal, setting }]).length === 0)
      kept.push({ signal, setting });
  }
  return new Set(kept.map(({ signal }) => signal.id));
}

/** A signal placed anew while all others stay where they are; undefined where it has nowhere to go. */
function movedSetting(
  plan: Plan,
  part: Part,
  path: ClockPath,
  id: string,
  anyPin: boolean,
  mayContinue: () => boolean,
): Setting | undefined {
  const staying = peaceful(plan, part, id);
  const requests = plan.signals.flatMap((signal) => {
    const request = requestOf(signal);
    if (signal.id === id) {
      delete request.locked;
      if (anyPin) delete request.pin;
      return [request];
    }
    return signal.setting && staying.has(signal.id) ? [{ ...request, locked: signal.setting }] : [];
  });
  const { settings } = assign(part, path, requests, {
    reserved: new Set(plan.reserved ?? []),
    mayContinue,
  });
  return settings[requests.findIndex((request) => request.id === id)];
}

/** Clock settings that are tried where nothing cheaper helps. */
const CLOCKS = 8;

/** Lets a search look at some hundred places and no more. */
function limited(): () => boolean {
  let left = 8;
  return () => {
    left -= 1;
    return left > 0;
  };
}

/**
 * Ways out of a collision, the cheapest first: one of the two on another timer or channel of its pin, on another pin, made
 * otherwise, with the least looser tolerance, all under another clock, or one gone. Each is a whole plan that can be taken
 * with one click. `patience` says anew for each search how long it may go on.
 */
export function fixesFor(
  plan: Plan,
  part: Part,
  collision: Conflict,
  patience: () => () => boolean = limited,
): Fix[] {
  const path = clockPath(part, plan.clock);
  const routes: Fix[] = [];
  const before = conflictsBetween(part, plan, holdersOf(plan)).length;
  const involved = [...collision.signals]
    .reverse()
    .flatMap((id) => plan.signals.filter((one) => one.id === id));
  for (const anyPin of [false, true]) {
    for (const signal of involved) {
      const setting = movedSetting(plan, part, path, signal.id, anyPin, patience());
      if (!setting) continue;
      const next = withSetting(plan, signal.id, setting, anyPin ? setting.pin : signal.pin);
      if (conflictsBetween(part, next, holdersOf(next)).length >= before) continue;
      const text = `${signal.name}: ${placeText(part, setting)}`;
      if (!routes.some((route) => route.text === text)) routes.push({ text, plan: next });
    }
  }
  for (const signal of routes.length > 0 ? [] : involved) {
    const relaxed = minRelaxation(signal, (one) => {
      const next = { ...plan, signals: plan.signals.map((other) => (other.id === one.id ? one : other)) };
      const setting = movedSetting(next, part, path, one.id, false, patience());
      return setting && withSetting(next, one.id, setting, one.pin);
    });
    routes.push(...relaxed.map(({ relaxed: { text }, found }) => ({ text, plan: found })));
  }
  for (const trial of routes.length > 0 ? [] : searchClocks(plan, part, CLOCKS, patience()).slice(0, 1)) {
    const under = pathUnder(part, trial.clock);
    if (under) routes.push({ text: clockPhrase(under, part.cpu.clock), plan: planOn(plan, part, trial) });
  }
  return [
    ...routes.slice(0, 4),
    ...involved
      .slice(0, 1)
      .map((signal) => ({ text: `without ${signal.name}`, plan: withoutSignal(plan, signal.id) })),
  ];
}
