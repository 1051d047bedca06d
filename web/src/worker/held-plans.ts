import { fetchPart, type Part, type Plan } from '@herzschlag/core';

/** A plan by the key under which the engine holds it, so that it is copied once and not with each call. */
export type PlanKey = number;

/** A function of a plan on its part, with whatever else it is asked. */
export type PlanCall = (plan: Plan, part: Part, ...asked: never[]) => unknown;

/** The same function as it is asked from outside: with the key of a plan that the engine holds. */
type Keyed<F> = F extends (plan: Plan, part: Part, ...asked: infer A) => infer R
  ? (key: PlanKey, ...asked: A) => Promise<Awaited<R>>
  : never;

/** The plans that the engine holds. */
export type HeldPlans = {
  hold: (key: PlanKey, plan: Plan) => void;
  release: (key: PlanKey) => void;
  plan: (key: PlanKey) => Promise<{ plan: Plan; part: Part }>;
};

async function partOf(plan: Plan): Promise<Part> {
  const part = plan.ownPart?.id === plan.part ? plan.ownPart : await fetchPart(plan.part);
  if (!part) throw new RangeError(`no part “${plan.part}” is known`);
  return part;
}

/** An empty store of plans. */
export function heldPlans(): HeldPlans {
  const plans = new Map<PlanKey, Promise<{ plan: Plan; part: Part }>>();
  return {
    hold: (key, plan) => {
      const found = partOf(plan).then((part) => ({ plan, part }));
      plans.set(key, found);
      // The calls that ask for it report a plan without its part.
      found.catch(() => undefined);
    },
    release: (key) => {
      plans.delete(key);
    },
    plan: (key) => plans.get(key) ?? Promise.reject(new RangeError(`the engine holds no plan ${key}`)),
  };
}

/** Calls of a plan and its part as calls with the key of a held plan. */
export function withKeys<T extends Readonly<Record<string, PlanCall>>>(
  held: HeldPlans,
  calls: T,
): { [K in keyof T]: Keyed<T[K]> } {
  const keyed = Object.entries(calls).map(([name, call]) => [
    name,
    async (key: PlanKey, ...asked: never[]) => {
      const { plan, part } = await held.plan(key);
      return call(plan, part, ...asked);
    },
  ]);
  return Object.fromEntries(keyed) as { [K in keyof T]: Keyed<T[K]> };
}
