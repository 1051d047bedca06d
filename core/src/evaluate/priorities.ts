import type { ClockPath } from '../clock/path.ts';
import { priorityPlace } from '../part/find.ts';
import type { Cpu, Interrupt, Part, PriorityFields } from '../part/types.ts';
import type { HandlerFacts } from '../plan/cpu-load.ts';
import { plainWrites, type FieldWrite } from '../timer/fields.ts';
import { driveOf } from '../timer/drives/index.ts';
import type { Holder } from './conflicts.ts';
import { counterOf } from './code-sequence.ts';

/** The level of a signal's interrupts: that of its priority where the program writes priorities, else that of all others. */
export function signalLevel(cpu: Cpu, priority: HandlerFacts['priority']): number {
  return cpu.priorities.fields ? levelOf(cpu, priority) : 0;
}

/** The level of a priority that a plan gives: 0, the most urgent, where it gives none, and where a part has no levels. */
export function levelOf({ priorities }: Cpu, priority: HandlerFacts['priority'] = 0): number {
  return priorities.scheme === 'levels' ? Math.min(priority, priorities.levels - 1) : 0;
}

/** What stands for a level in its field. */
function valueOf({ scale, most }: PriorityFields, level: number): number {
  return most === undefined ? level * scale : most - level * scale;
}

/** The interrupts that a signal uses, with the one that counts the periods of its sequence. */
export function interruptsOf(part: Part, path: ClockPath, { signal, setting }: Holder): Interrupt[] {
  const own = driveOf(setting)
    .handlers(part, setting)
    .map(({ interrupt }) => interrupt);
  const counted = signal.sequence ? counterOf(part, path, setting) : undefined;
  return counted && 'tick' in counted ? [...own, counted.tick] : own;
}

/**
 * What gives the interrupts of a plan their priorities: nothing where no signal asks for one, so that they stay as start-up code
 * leaves them. Signals that share an interrupt share the most urgent of theirs.
 */
export function priorityWrites(part: Part, path: ClockPath, holders: readonly Holder[]): FieldWrite[] {
  const { fields } = part.cpu.priorities;
  if (!fields || holders.every(({ signal }) => signal.handler?.priority === undefined)) return [];
  const levels = new Map<string, number>();
  for (const holder of holders) {
    const level = levelOf(part.cpu, holder.signal.handler?.priority);
    for (const interrupt of interruptsOf(part, path, holder)) {
      const place = priorityPlace(fields, interrupt);
      levels.set(place, Math.min(level, levels.get(place) ?? level));
    }
  }
  const own = [...levels].map(([place, level]): FieldWrite => {
    const [register = '', field = null] = place.split('.');
    return { register, field, value: valueOf(fields, level) };
  });
  return [...own, ...plainWrites([fields.with ?? {}])];
}
