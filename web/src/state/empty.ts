import { type ClockSetting, type Part, type Plan, PLAN_VERSION } from '@herzschlag/core';

/** A plan without signals, on a part under a clock; `ownPart` where the part came from a file. */
export function emptyPlan(part: string, clock: ClockSetting, ownPart?: Part): Plan {
  return {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'New plan',
    part,
    clock,
    signals: [],
    ...(ownPart ? { ownPart } : {}),
  };
}
