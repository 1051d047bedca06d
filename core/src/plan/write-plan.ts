import { inSchemaOrder } from './key-order.ts';
import type { Plan } from './plan.ts';
import { planSchema } from './schema.ts';

/**
 * The plan as the text of its file: the same plan gives the same bytes, whatever order its keys were set in. A part of
 * the user's own stands last, in the order of its own file.
 */
export function writePlan(plan: Plan): string {
  const { ownPart, ...rest } = plan;
  const document = inSchemaOrder(rest, planSchema()) as object;
  return `${JSON.stringify(ownPart ? { ...document, ownPart } : document, null, 2)}\n`;
}
