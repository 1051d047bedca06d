import { PARTS, assignPlan, clocksOf, fixesForInfeasible, numbersText, placeText, printHz, printPercent, tryPart } from '@herzschlag/core';
import { loadPlan } from './plan.ts';
import { json, table } from './table.ts';

/** Each way out may be tried for so long, in s. */
const WAY_S = 2;

/** Asks a clock from time to time whether a search may still go on. */
function within(seconds: number): () => boolean {
  const end = Date.now() + seconds * 1000;
  return () => Date.now() < end;
}

/** Places all signals of a plan on its part together, or says why that does not go, with ways out if they are asked for. */
export async function assignCommand(
  file: string,
  options: { seconds: number; routes?: boolean; table?: boolean },
): Promise<{ text: string; feasible: boolean }> {
  const { plan, part } = await loadPlan(file);
  const found = assignPlan(plan, part, within(options.seconds));
  const { feasible, optimal, settings } = found;
  const conflicts = found.conflicts.map((conflict) =>
    options.routes
      ? {
          ...conflict,
          fixes: fixesForInfeasible(plan, part, conflict, () => within(WAY_S)).map(({ text }) => text),
        }
      : conflict,
  );
  if (!options.table) {
    const plain = settings.map(({ signal, setting }) => ({ signal, ...setting }));
    return { text: json({ feasible, optimal, settings: plain, conflicts }), feasible };
  }
  const rows = settings.map(({ signal, setting }) => [
    signal,
    placeText(part, setting),
    numbersText(setting),
  ]);
  const proof = feasible
    ? optimal
      ? 'Nothing better exists.'
      : 'There is no proof that nothing better exists.'
    : '';
  const reasons = conflicts.flatMap((conflict) => [
    conflict.reason,
    ...('fixes' in conflict ? conflict.fixes.map((fix) => `  or: ${fix}`) : []),
  ]);
  const lines = [...reasons, proof].filter((line) => line !== '');
  return {
    text: [...(feasible ? [table(['signal', 'place', 'numbers'], rows)] : []), ...lines].join('\n'),
    feasible,
  };
}

/** The same plan on every part: whether it goes, and what it leaves. */
export async function whichCommand(
  file: string,
  options: { seconds: number; table?: boolean },
): Promise<string> {
  const { plan, part: own } = await loadPlan(file);
  const parts = PARTS.some(({ id }) => id === own.id) ? PARTS : [own, ...PARTS];
  const trials = parts.flatMap((part) =>
    clocksOf(plan, part).flatMap((clock) => tryPart(plan, part, clock, within(options.seconds)) ?? []),
  );
  if (!options.table) return json(trials.map((trial) => ({ ...trial, settings: undefined })));
  return table(
    ['part', 'clock', 'goes', 'least margin', 'CPU', 'timers left', 'cannot be made'],
    trials.map((one) => [
      one.part,
      printHz(one.cpuHz),
      one.feasible ? 'yes' : one.optimal ? 'no' : 'not found',
      one.feasible ? printPercent(one.margin, 3) : '',
      one.feasible ? printPercent(one.cpu, 3) : '',
      one.feasible ? String(one.timersLeft) : '',
      one.unable.join(', '),
    ]),
  );
}
