import type { Plan } from '@herzschlag/core';

/** A plan without signals, told from others by its name. */
export function planNamed(name: string): Plan {
  return {
    format: 'herzschlag-plan',
    version: 2,
    name,
    part: 'atmega328p',
    clock: { source: 'crystal', sourceHz: 16000000 },
    signals: [],
  };
}
