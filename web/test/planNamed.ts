import { PLAN_VERSION } from '@herzschlag/core';
import type { Plan } from '@herzschlag/core';

/** A plan without signals, told from others by its name. */
export function planNamed(name: string): Plan {
  return {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name,
    part: 'atmega328p',
    clock: { source: 'crystal', sourceHz: 16000000 },
    signals: [],
  };
}
