import type { Part, Timer } from './schema.ts';

function channelsOf(timers: readonly Timer[]): number {
  return timers.reduce((sum, timer) => sum + timer.channels.length, 0);
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
  const facts: [boolean, string][] = [
    [fractional, 'fractional divider'],
    [any, 'any whole prescaler'],
    [modes.some((mode) => mode.count === 'updown'), 'phase-correct'],
    [outputs.some((output) => output.polarity === 'inverted'), 'inverted outputs'],
    [outputs.some((output) => output.drive === 'toggle'), 'toggled outputs'],
    [clocks.some((node) => node.kind === 'multiplier'), 'PLL'],
    [timers.some((timer) => timer.interrupts.capture !== undefined), 'input capture'],
    [timers.some((timer) => timer.interrupts.overflow?.postscaler !== undefined), 'postscaler'],
  ];
  return [
    ...widths.map((width) => `${width}-bit timer`),
    plural(timers.length, 'timer'),
    plural(channelsOf(timers), 'channel'),
    ...facts.filter(([has]) => has).map(([, text]) => text),
  ];
}

/** Whether a part answers a search: every word of it stands in the part's name, description or features. */
export function answers(
  part: { name: string; about: string; features: readonly string[] },
  query: string,
): boolean {
  const text = [part.name, part.about, ...part.features].join(' ').toLowerCase();
  return query
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
}
