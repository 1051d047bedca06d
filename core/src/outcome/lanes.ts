import { clockPath } from '../clock/path.ts';
import type { NamedLane } from '../format/merge-lanes.ts';
import type { Plan } from '../format/plan.ts';
import type { Part } from '../part/schema.ts';
import { produceUnder } from '../timer/produce.ts';
import { oppositeLane } from '../wave/lane.ts';
import { signalLane } from './course.ts';
import { oppositeId } from './opposite-id.ts';
import { settingFor } from './outcome.ts';

/** A signal of a plan as a lane. */
export type PlanLane = NamedLane & { signal: string };

/** What every pin of a plan does from the start of its timer on; inputs and signals that nothing can serve have no lane. */
export function planLanes(plan: Plan, part: Part): PlanLane[] {
  const path = clockPath(part, plan.clock);
  return plan.signals.flatMap((signal): PlanLane[] => {
    const setting = settingFor(part, path, signal);
    if (!setting || setting.drive === 'capture') return [];
    const outcome = produceUnder(part, path, setting);
    const lane = signalLane(part, path, signal, setting);
    const tickHz = outcome.tickHz.valueOf();
    const opposite = oppositeLane(part, setting);
    return [
      { signal: signal.id, name: signal.name, lane, tickHz },
      ...(opposite && signal.complement
        ? [{ signal: oppositeId(signal.id), name: `${signal.name} opposite`, lane: opposite, tickHz }]
        : []),
    ];
  });
}
