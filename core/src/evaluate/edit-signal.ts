import { clockOf, clockPath } from '../clock/path.ts';
import type { Ranking } from '../fit/rank.ts';
import { stepTarget } from '../fit/step.ts';
import type { Part } from '../part/types.ts';
import { replacedSignal } from '../plan/edit.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import { adjust, clockNode, type AdjustedField } from '../timer/drives/index.ts';
import type { Setting } from '../timer/setting.ts';
import { bestSetting, renewedSetting } from './choose.ts';
import { evaluatePlan } from './evaluate.ts';
import { evaluationMemory, type EvaluationMemory } from './memory.ts';
import { evaluateSetting, type SignalEvaluation } from './signal.ts';

/** What an edit of one signal asks for. */
export type SignalEdit =
  /** Shows the signal with the setting it has. */
  | { do: 'show' }
  /** The target or the pin was changed: the setting is looked for anew. */
  | { do: 'retarget'; signal: PlanSignal }
  /** This setting is to be used. */
  | { do: 'choose'; setting: Setting }
  /** One number of the setting is changed by hand. */
  | { do: 'adjust'; field: AdjustedField; value: number }
  /** The setting that is best by a ranking is to be used. */
  | { do: 'best'; ranking: Ranking }
  /** The target moves to the next value the hardware can make. */
  | { do: 'step'; token: 'frequency' | 'duty'; by: number };

/** A signal after an edit, with what its setting gives; without an outcome where nothing can make it. */
export type EditedSignal = { signal: PlanSignal; outcome?: SignalEvaluation };

function settingAfter(
  plan: Plan,
  part: Part,
  signal: PlanSignal,
  settingNow: () => Setting | undefined,
  edit: Exclude<SignalEdit, { do: 'show' }>,
): PlanSignal | undefined {
  switch (edit.do) {
    case 'retarget': {
      const setting = renewedSetting(replacedSignal(plan, edit.signal), part, edit.signal);
      return setting ? { ...edit.signal, setting } : edit.signal;
    }
    case 'choose':
      return { ...signal, setting: edit.setting };
    case 'adjust': {
      const now = settingNow();
      if (!now) return undefined;
      const share = requirementOf(signal).duty.ideal.valueOf();
      return { ...signal, setting: adjust(part, now, share, edit.field, edit.value) };
    }
    case 'best': {
      const setting = bestSetting(plan, part, signal, edit.ranking);
      return setting && { ...signal, setting };
    }
    case 'step': {
      const now = settingNow();
      if (!now) return undefined;
      const path = clockPath(part, plan.clock);
      const clock = clockOf(path, clockNode(part, now));
      const cpu = clockOf(path, part.cpu.clock);
      const next = stepTarget(part, signal, requirementOf(signal), now, clock, edit.token, edit.by, cpu);
      return next && { ...next.signal, setting: next.setting };
    }
  }
}

/**
 * One signal of a plan after an edit, with what its setting then gives; undefined where there is no such signal or the edit
 * changes nothing. Only the edited signal is evaluated, unless the edit starts from a setting that is proposed.
 */
export function editSignal(
  plan: Plan,
  part: Part,
  id: string,
  edit: SignalEdit,
  memory: EvaluationMemory = evaluationMemory(),
): EditedSignal | undefined {
  const signal = plan.signals.find((one) => one.id === id);
  if (!signal) return undefined;
  const evaluated = (): SignalEvaluation | undefined =>
    evaluatePlan(plan, part, memory).signals.find((one) => one.signal.id === id)?.outcome;
  if (edit.do === 'show') {
    const outcome = evaluated();
    return { signal, ...(outcome ? { outcome } : {}) };
  }
  const next = settingAfter(plan, part, signal, () => signal.setting ?? evaluated()?.setting, edit);
  if (!next) return undefined;
  if (!next.setting) return { signal: next };
  return { signal: next, outcome: evaluateSetting(part, clockPath(part, plan.clock), next, next.setting) };
}
