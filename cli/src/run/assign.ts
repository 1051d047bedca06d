import {
  assignPlan,
  clocksOf,
  fetchParts,
  fixesForInfeasible,
  numbersText,
  placeText,
  type PlanAssignment,
  printHz,
  printPercent,
  stepBudget,
  tryPart,
  withSettings,
  writePlan,
} from '@herzschlag/core';

import { writeWhole } from '../files.ts';
import { loadPlan } from '../plan.ts';
import { json, table } from '../table.ts';

/** What `hz assign` may be asked for. */
export type AssignOptions = { steps: number; out?: string; fixes?: boolean; table?: boolean };

/** Steps that the search for one fix may take. */
const FIX_STEPS = 60;

function proofOf({ feasible, optimal }: PlanAssignment): string[] {
  if (!feasible) return [];
  return [
    optimal ? 'This is the best assignment.' : 'A better assignment may exist; the search limit was reached.',
  ];
}

/** Assigns all signals of a plan together, or says why they do not fit, with fixes if they are asked for. */
export async function assignCommand(
  file: string,
  options: AssignOptions,
): Promise<{ text: string; fails: boolean }> {
  const { plan, part } = await loadPlan(file);
  const found = assignPlan(plan, part, stepBudget(options.steps));
  const { feasible, optimal, settings } = found;
  const failing = found.failing.map(({ name, text }) => `${name}: ${text}`);
  const fails = !feasible || failing.length > 0;
  const conflicts = found.conflicts.map((conflict) =>
    options.fixes
      ? {
          ...conflict,
          fixes: fixesForInfeasible(plan, part, conflict, () => stepBudget(FIX_STEPS)).map(
            ({ text }) => text,
          ),
        }
      : conflict,
  );
  if (feasible && options.out !== undefined) {
    await writeWhole(options.out, writePlan(withSettings(plan, settings)));
  }
  if (!options.table) {
    const { ended } = found;
    const plain = settings.map(({ signal, setting }) => ({ signal, ...setting }));
    return {
      text: json({
        feasible,
        optimal,
        settings: plain,
        failing,
        conflicts,
        ...(ended === undefined ? {} : { ended }),
      }),
      fails,
    };
  }
  const rows = settings.map(({ signal, setting }) => [
    signal,
    placeText(part, setting),
    numbersText(setting),
  ]);
  const reasons = conflicts.flatMap((conflict) => [
    conflict.reason,
    ...('fixes' in conflict ? conflict.fixes.map((fix) => `  fix: ${fix}`) : []),
  ]);
  if (found.ended !== undefined) reasons.push(found.ended);
  if (failing.length > 0) reasons.push('Not all checks pass then:', ...failing);
  const head = feasible ? [table(['signal', 'place', 'numbers'], rows)] : [];
  return { text: [...head, ...reasons, ...proofOf(found)].join('\n'), fails };
}

/** The same plan on every part: whether it fits, what it leaves, or why it does not fit. */
export async function compareCommand(
  file: string,
  options: { steps: number; table?: boolean },
): Promise<string> {
  const { plan, part: own } = await loadPlan(file);
  const shipped = await fetchParts();
  const parts = shipped.some(({ id }) => id === own.id) ? shipped : [own, ...shipped];
  const trials = parts.flatMap((part) =>
    clocksOf(plan, part).flatMap((clock) => tryPart(plan, part, clock, stepBudget(options.steps)) ?? []),
  );
  if (!options.table) return json(trials.map((trial) => ({ ...trial, settings: undefined })));
  return table(
    ['part', 'clock', 'fits', 'margin', 'CPU', 'timers left', 'why not'],
    trials.map((one) => [
      one.part,
      printHz(one.cpuHz),
      one.feasible ? 'yes' : one.assigned ? 'fails' : one.optimal ? 'no' : 'not found',
      one.feasible ? printPercent(one.margin, 3) : '',
      one.feasible ? printPercent(one.cpu, 3) : '',
      one.feasible ? String(one.timersLeft) : '',
      one.reasons[0] ?? '',
    ]),
  );
}
