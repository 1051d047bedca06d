import { clockPath } from '../clock/path.ts';
import type { NamedWaveform } from '../wave/merge.ts';
import type { Plan } from '../plan/plan.ts';
import type { Part } from '../part/types.ts';
import { oppositeWaveform } from '../wave/waveform.ts';
import { signalWaveform } from './timing-checks.ts';
import { oppositeId } from './opposite-id.ts';
import { settingsOf } from './evaluate.ts';
import type { EvaluationMemory } from './memory.ts';
import { isInput, outcomeUnder } from '../timer/drives/index.ts';

/** A signal of a plan as a lane. */
export type SignalWaveform = NamedWaveform & { signal: string };

/** What every pin of a plan does from the start of its timer on; inputs and signals that nothing can serve have no lane. */
export function planWaveforms(plan: Plan, part: Part, memory?: EvaluationMemory): SignalWaveform[] {
  const path = clockPath(part, plan.clock);
  const settings = settingsOf(plan, part, path, memory);
  return plan.signals.flatMap((signal): SignalWaveform[] => {
    const setting = settings.get(signal.id);
    if (!setting || isInput(setting)) return [];
    const outcome = outcomeUnder(part, path, setting);
    const waveform = signalWaveform(part, path, signal, setting);
    const tickHz = outcome.tickHz.valueOf();
    const opposite = oppositeWaveform(part, setting);
    return [
      { signal: signal.id, name: signal.name, waveform, tickHz },
      ...(opposite && signal.complement
        ? [{ signal: oppositeId(signal.id), name: `${signal.name} opposite`, waveform: opposite, tickHz }]
        : []),
    ];
  });
}
