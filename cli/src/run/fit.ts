import {
  type Candidate,
  type PlanSignal,
  type Ranking,
  clockPath,
  closestFirst,
  evaluateSetting,
  meansOf,
  numbersText,
  rankedBy,
  requirementOf,
  signalFit,
  timerIdOf,
} from '@herzschlag/core';
import { loadPlan } from '../plan.ts';
import { UsageError } from '../usage-error.ts';
import { json, table } from '../table.ts';

/**
 * Settings of each signal, best first. Drives in hardware cost no CPU; `divider` is the software divider, 1 where
 * there is none. Where nothing meets a target, `nearest` holds what comes closest.
 */
export async function fitCommand(
  file: string,
  options: { signal?: string; limit: number; rank: Ranking; table?: boolean },
): Promise<string> {
  const { plan, part } = await loadPlan(file);
  const path = clockPath(part, plan.clock);
  const chosen = plan.signals.filter(
    (signal) => options.signal === undefined || signal.id === options.signal,
  );
  if (chosen.length === 0 && options.signal !== undefined) {
    const ids = plan.signals.map((signal) => signal.id).join(', ');
    throw new UsageError(`${file}: no signal has the id “${options.signal}”; there are ${ids || 'none'}.`);
  }
  const describe = (signal: PlanSignal, candidate: Candidate) => {
    const outcome = evaluateSetting(part, path, signal, candidate.setting);
    return {
      ...{ divider: 1, ...candidate.setting },
      frequencyHz: outcome.frequencyHz,
      frequencyExact: outcome.frequencyExact,
      errorPpm: candidate.errorPpm,
      duty: outcome.duty,
      steps: outcome.steps,
      bits: outcome.bits,
      stepS: outcome.stepS,
      cpu: candidate.cpu,
      jitterS: outcome.jitterS,
      registers: outcome.registers.map(({ name, value }) => ({ name, value })),
    };
  };
  const signals = chosen.map((signal) => {
    const fit = signalFit(part, path, signal);
    const ranked = [...fit.candidates].sort(rankedBy(requirementOf(signal), options.rank));
    return {
      id: signal.id,
      considered: fit.considered,
      candidates: ranked.slice(0, options.limit).map((candidate) => describe(signal, candidate)),
      refused: fit.refused,
      ...(fit.candidates.length === 0
        ? {
            nearest: fit.near
              .sort(closestFirst(requirementOf(signal)))
              .slice(0, 3)
              .map((one) => describe(signal, one)),
          }
        : {}),
    };
  });
  if (!options.table) return json({ signals });
  return table(
    ['signal', 'drive', 'timer', 'by', 'pin', 'numbers', 'Hz', 'ppm', 'steps', 'CPU %'],
    signals.flatMap(({ id, candidates }) =>
      candidates.map((one) => [
        id,
        one.drive,
        timerIdOf(one) || '–',
        meansOf(one),
        one.pin ?? '–',
        numbersText(one),
        Number(one.frequencyHz.toPrecision(9)),
        Number(one.errorPpm.toPrecision(4)),
        one.steps,
        Number((one.cpu * 100).toPrecision(3)),
      ]),
    ),
  );
}
