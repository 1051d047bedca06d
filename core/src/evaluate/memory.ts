import type { Part } from '../part/types.ts';
import type { Setting } from '../timer/setting.ts';
import type { InterruptReport } from './interrupts.ts';
import type { PlanProgram } from './program.ts';
import type { SignalEvaluation } from './signal.ts';

/** How many results are remembered before the oldest are dropped. */
const REMEMBERED = 400;

/** Gives what was made under a key before, or makes it. */
type Remembering<T> = (key: string, make: () => T) => T;

function remembering<T>(): Remembering<T> {
  const known = new Map<string, T>();
  return (key, make) => {
    const before = known.get(key);
    if (before !== undefined || known.has(key)) return before as T;
    const made = make();
    if (known.size >= REMEMBERED) known.delete(known.keys().next().value ?? '');
    known.set(key, made);
    return made;
  };
}

/** What is remembered of one part. */
type KnownOfPart = {
  evaluation: Remembering<SignalEvaluation>;
  proposal: Remembering<Setting | undefined>;
  interrupts: Remembering<{ report: InterruptReport; phases: InterruptReport['edges'][] }>;
  program: Remembering<PlanProgram>;
};

/**
 * What was evaluated before, by part and signal. Whoever evaluates a plan again and again, such as an editor, keeps one and
 * hands it on; without it everything is computed anew. Results do not depend on it.
 */
export type EvaluationMemory = { of: (part: Part) => KnownOfPart };

/** An empty memory. */
export function evaluationMemory(): EvaluationMemory {
  const byPart = new WeakMap<Part, KnownOfPart>();
  return {
    of: (part) => {
      const known = byPart.get(part) ?? {
        evaluation: remembering(),
        proposal: remembering(),
        interrupts: remembering(),
        program: remembering(),
      };
      byPart.set(part, known);
      return known;
    },
  };
}
