import type { ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import { fieldWrites, type FieldWrite } from './fields.ts';
import { timerIdOf, type Setting } from './setting.ts';

/** What of a clock path the generated code sets up for some settings. */
export type ClockSetUp = { factors: ClockPath['writes']; starts: ClockPath['starts'] };

/** The nodes on the ways, as they are set, to the processor and to the timers in use. */
export function nodesInUse(part: Part, path: ClockPath, settings: readonly Setting[]): Set<string> {
  const timers = part.timers.filter(({ id }) => settings.some((setting) => timerIdOf(setting) === id));
  const found = new Set([part.cpu.clock, ...timers.map(({ clock }) => clock)]);
  // Nodes stand in the order of the path: from its end back, each input is found after what it feeds.
  for (const node of [...part.clocks].reverse()) {
    if (!found.has(node.id) || node.kind === 'source') continue;
    const from = node.kind === 'choice' ? path.taken.get(node.id) : node.from;
    if (from !== undefined) found.add(from);
  }
  return found;
}

/**
 * The dividers that the generated code sets (start-up code has done so with the others), and the steps that start and
 * select a clock which is not there after reset; each only where the processor or a timer in use is fed by it.
 */
export function clockSetUp(part: Part, path: ClockPath, settings: readonly Setting[]): ClockSetUp {
  const fed = nodesInUse(part, path, settings);
  return {
    factors: path.writes.filter(
      ({ node }) => fed.has(node.id) && (part.code.setsClock || node.always === true),
    ),
    starts: path.starts.filter(({ node }) => fed.has(node)),
  };
}

/** The fields that setting the clocks up decides. */
export function clockSetUpWrites(part: Part, path: ClockPath, settings: readonly Setting[]): FieldWrite[] {
  const { factors, starts } = clockSetUp(part, path, settings);
  return [
    ...factors.flatMap(({ writes, by }) => fieldWrites(writes, { divide: by })),
    ...starts.flatMap(({ steps }) => steps.flatMap((step) => ('set' in step ? fieldWrites(step.set) : []))),
  ];
}

/** Writes with later ones of the same place in force. */
export function laterWrites(writes: readonly FieldWrite[]): FieldWrite[] {
  const last = new Map(writes.map((write) => [`${write.register}.${write.field ?? ''}`, write]));
  return [...last.values()];
}
