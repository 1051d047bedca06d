import { kindOf } from './kinds/index.ts';
import type { Requirement } from './requirement.ts';

/** The target of a signal in the common form, exact. @throws TargetError with the field at fault. */
export function requirementOf({ kind, target }: { kind: string; target: object }): Requirement {
  return kindOf({ kind }).requirement(target);
}
