import { fetchTrust, FILE_LIMIT, type Part, readPart, timerPins } from '@herzschlag/core';
import type { Printed } from '../command.ts';
import { readText } from '../files.ts';

/** A number of things: "1 timer", "3 timers". */
function counted(count: number, thing: string): string {
  return `${count} ${thing}${count === 1 ? '' : 's'}`;
}

/** What a whole part file holds, in a line, and how far its registers are confirmed. */
async function summaryOf(part: Part): Promise<string> {
  const { items, confirmed } = await fetchTrust(part);
  const modes = part.timers.reduce((sum, timer) => sum + timer.modes.length, 0);
  const parts = [
    `${counted(part.timers.length, 'timer')} in ${counted(modes, 'mode')}`,
    `${timerPins(part).length} of ${part.pins.length} pins on timers`,
    `${part.registers.length} registers`,
    `${confirmed} of ${items} addresses and fields confirmed by an independent source`,
  ];
  return `${part.name}: nothing contradicts itself; ${parts.join(', ')}.`;
}

/** Checks a part file; “-” is standard input. The first fault comes with its place, and the exit code is 1. */
export async function partCheckCommand(file: string): Promise<Printed> {
  const read = readPart(await readText(file, FILE_LIMIT));
  return read.ok
    ? { text: await summaryOf(read.value) }
    : { text: '', problems: [`${file}: ${read.fault.sentence}`] };
}
