import {
  assignPlan,
  clockPath,
  clockPhrase,
  clocksOf,
  evaluatePlan,
  fetchPart,
  fixesFor,
  fixesForInfeasible,
  planOn,
  searchClocks,
  shareTick,
  slowSharers,
  stepBudget,
  tickSharers,
  tryPart,
  type EvaluationMemory,
  type Fix,
  type Infeasibility,
  type Part,
  type PartTrial,
  type Plan,
  type PlanAssignment,
  type TickProposal,
  type TriedFix,
} from '@herzschlag/core';

/** Steps that the search for one fix may take: few for a conflict between settings, more where nothing fits. */
const FIX_STEPS = { conflict: 40, infeasible: 60 };

/** How many clock settings are proposed. */
const MAX_CLOCKS = 24;

/** A part by its id: the plan's own, or a shipped one. */
async function partBy(id: string, plan: Plan, own: Part): Promise<Part | undefined> {
  return id === plan.part ? own : fetchPart(id);
}

/** What the engine searches for a plan. */
export const searchCalls = (memory: EvaluationMemory) => ({
  /** Assigns all signals together within a budget of steps; reports the share of the budget used from time to time. */
  assign: (plan: Plan, part: Part, steps: number, progress?: (share: number) => void): PlanAssignment =>
    assignPlan(plan, part, stepBudget(steps, progress)),
  /** Fixes for each of the first of a plan's conflicts, in the order of its evaluation, for as long as they are wanted. */
  conflictFixes: async (
    plan: Plan,
    part: Part,
    max: number,
    wanted: () => boolean | Promise<boolean>,
  ): Promise<Fix[][]> => {
    const found: Fix[][] = [];
    if (!(await wanted())) return found;
    for (const conflict of evaluatePlan(plan, part, memory).conflicts.slice(0, max)) {
      if (!(await wanted())) break;
      found.push(fixesFor(plan, part, conflict, () => stepBudget(FIX_STEPS.conflict)));
    }
    return found;
  },
  /** Fixes for what no assignment can resolve, each of them tried. */
  infeasibleFixes: (plan: Plan, part: Part, infeasibility: Infeasibility): TriedFix[] =>
    fixesForInfeasible(plan, part, infeasibility, () => stepBudget(FIX_STEPS.infeasible)),
  /** The plan on one of the parts, under its own or the part's usual clock. */
  tryPart: async (plan: Plan, own: Part, id: string, steps: number): Promise<PartTrial | undefined> => {
    const part = await partBy(id, plan, own);
    const [clock] = part ? clocksOf(plan, part) : [];
    return part && clock && tryPart(plan, part, clock, stepBudget(steps));
  },
  /** Other clock settings that are better for the plan, the best first, each with its phrase. */
  tryClocks: (plan: Plan, part: Part, steps: number): (PartTrial & { phrase: string })[] =>
    searchClocks(plan, part, MAX_CLOCKS, stepBudget(steps)).map((trial) => ({
      ...trial,
      phrase: clockPhrase(clockPath(part, trial.clock), part.cpu.clock),
    })),
  /** The plan on the part and clock of a trial. */
  planOn: async (plan: Plan, own: Part, trial: PartTrial): Promise<Plan> => {
    const part = await partBy(trial.part, plan, own);
    return part ? planOn(plan, part, trial) : plan;
  },
  /** The signals that can share a tick, and the tick that the wanted ones (else the slow ones) could share. */
  shareTick: (
    plan: Plan,
    part: Part,
    wanted: readonly string[] | undefined,
  ): { able: string[]; chosen: string[]; proposal?: TickProposal } => {
    const able = tickSharers(plan);
    const chosen = able.filter((id) => (wanted ?? slowSharers(plan)).includes(id));
    const proposal = chosen.length < 2 ? undefined : shareTick(plan, part, chosen);
    return { able, chosen, ...(proposal ? { proposal } : {}) };
  },
});
