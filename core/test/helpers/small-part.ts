import { type Assignment } from '../../src/assign/assign.ts';
import type { Request } from '../../src/assign/request.ts';
import { clockPath } from '../../src/clock/path.ts';
import { partById } from './parts.ts';
import { timerOf, rootOf } from '../../src/part/find.ts';
import type { Mode, Part, Pin, Timer } from '../../src/part/types.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import type { KindAndTarget } from '../../src/signal/signal.ts';
import { outcomeUnder } from '../../src/timer/drives/index.ts';
import { hasTimer } from '../../src/timer/setting.ts';

export const avr = partById('atmega328p') as Part;
export const stm32 = partById('stm32f401') as Part;
const CLOCK = { source: 'crystal', sourceHz: 8000000, tolerancePpm: 50 };

/** A part small enough to try everything: three timers that count to 31 or 255, three divisions, no pins for the program. */
const TOP = 31;
/** A pin that the program cannot drive. */
export function withoutProgram(pin: Pin): Pin {
  const rest = { ...pin };
  delete rest.software;
  return rest;
}
function narrow(mode: Mode): Mode[] {
  const { top } = mode;
  if (top.kind === 'fixed') return top.value === 255 ? [mode] : [];
  if (top.kind !== 'register' && top.kind !== 'channel') return [];
  return [{ ...mode, top: { ...top, max: TOP } }];
}
function shrunk(timer: Timer): Timer {
  const { prescaler } = timer;
  const options = prescaler.kind === 'list' ? prescaler.options.slice(0, 3) : [];
  return { ...timer, prescaler: { kind: 'list', options }, modes: timer.modes.flatMap(narrow).slice(0, 3) };
}
export const small: Part = {
  ...avr,
  timers: ['TIMER0', 'TIMER1', 'TIMER2'].map((id) => shrunk(timerOf(avr, id))),
  pins: avr.pins.map(withoutProgram),
};
export const path = clockPath(small, CLOCK);

/** An aim as a request of its own. */
export function requestOf(aim: KindAndTarget, at: number, pin?: string): Request {
  return { id: `s${at}`, name: `Signal ${at}`, requirement: requirementOf(aim), ...(pin ? { pin } : {}) };
}

/** Whether every setting really holds its requirement, the timers agree within each, and nothing is used twice. */
export function sound(
  requests: readonly Request[],
  { settings }: Assignment,
  part: Part,
  under: typeof path,
): void {
  const counters = new Map<string, string>();
  const places = new Set<string>();
  settings.forEach((setting, at) => {
    const requirement = requests[at]?.requirement;
    if (!requirement || !hasTimer(setting)) throw new Error('no requirement');
    const root = rootOf(timerOf(part, setting.timer));
    const counter = JSON.stringify([setting.timer, setting.mode, setting.prescaler, setting.top]);
    expect(counters.get(root) ?? counter).toBe(counter);
    counters.set(root, counter);
    const used = [setting.pin, 'channel' in setting ? `${root} ${setting.channel}` : undefined];
    for (const one of used) {
      if (one === undefined) continue;
      expect(places.has(one)).toBe(false);
      places.add(one);
    }
    const { frequency, duty, steps } = outcomeUnder(part, under, setting);
    if (requirement.input) return;
    expect(frequency.compare(requirement.frequency.low)).toBeGreaterThanOrEqual(0);
    if (requirement.frequency.kind === 'near')
      expect(frequency.compare(requirement.frequency.high)).toBeLessThanOrEqual(0);
    if (!requirement.pin) return;
    expect(duty.compare(requirement.duty.low)).toBeGreaterThanOrEqual(0);
    expect(duty.compare(requirement.duty.high)).toBeLessThanOrEqual(0);
    expect(steps).toBeGreaterThanOrEqual(requirement.minSteps);
  });
}
