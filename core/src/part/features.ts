import { singleSpaced } from '../quantity/words.ts';
import type { Part, Timer } from './types.ts';

/** Channels and timers as hardware: another use of a timer, or another timer that a channel may follow, is no other one. */
function countsOf(all: readonly Timer[]): { timers: number; channels: number } {
  const timers = all.filter((timer) => timer.variantOf === undefined);
  return {
    timers: timers.length,
    channels: new Set(
      timers.flatMap((timer) =>
        timer.channels.map(({ id, compare }) => Object.keys(compare).sort().join() || `${timer.id} ${id}`),
      ),
    ).size,
  };
}

function plural(count: number, what: string): string {
  return `${count} ${what}${count === 1 ? '' : 's'}`;
}

/**
 * What a part can do, in the words people search by: "32-bit timer", "fractional divider", "16 channels",
 * "phase-correct", "inverted outputs", "PLL". All of it is read off the data.
 */
export function featuresOf(part: Part): string[] {
  const { timers, clocks } = part;
  const modes = timers.flatMap((timer) => timer.modes);
  const outputs = timers.flatMap((timer) => timer.channels.flatMap((channel) => channel.outputs));
  const widths = [...new Set(timers.map((timer) => timer.width))].sort((one, other) => other - one);
  const fractional = timers.some(({ prescaler }) => prescaler.kind === 'range' && prescaler.scale > 1);
  const any = timers.some(({ prescaler }) => prescaler.kind === 'range' && prescaler.scale === 1);
  const counts = countsOf(timers);
  const facts: [boolean, string][] = [
    [fractional, 'fractional divider'],
    [any, 'any whole prescaler'],
    [modes.some((mode) => mode.count === 'updown'), 'phase-correct'],
    [outputs.some((output) => output.polarity === 'inverted'), 'inverted outputs'],
    [outputs.some((output) => output.drive === 'toggle'), 'toggled outputs'],
    [clocks.some((node) => node.kind === 'multiplier'), 'PLL'],
    [timers.some((timer) => (timer.captures ?? []).length > 0), 'input capture'],
    [timers.some((timer) => timer.interrupts.overflow?.postscaler !== undefined), 'postscaler'],
    [timers.some((timer) => timer.channels.length === 0), 'timers that only interrupt'],
    [modes.some((mode) => mode.top.kind === 'reload'), 'overflow timer'],
  ];
  return [
    ...widths.map((width) => `${width}-bit timer`),
    plural(counts.timers, 'timer'),
    plural(counts.channels, 'channel'),
    ...facts.filter(([has]) => has).map(([, text]) => text),
  ];
}

/** A number belongs to the word behind it: "16 channels" is one thing to look for. */
const TERM = /(?<!\d)\d+ [^ ]+|[^ ]+/g;

/** Whether a part answers a search: every term of it begins a word of the part's name, description or features. */
export function answers(
  part: { name: string; about: string; features: readonly string[] },
  query: string,
): boolean {
  const text = ` ${[part.name, part.about, ...part.features].join(' ').toLowerCase()}`;
  const terms = singleSpaced(query.toLowerCase().replace(/,/g, ' ')).match(TERM) ?? [];
  return terms.every((term) => [' ', '-', '('].some((before) => text.includes(before + term)));
}
