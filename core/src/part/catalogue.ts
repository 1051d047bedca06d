import { atmega2560 } from './parts/atmega2560.ts';
import { atmega328p } from './parts/atmega328p.ts';
import { attiny85 } from './parts/attiny85.ts';
import { stm32f401 } from './parts/stm32f401.ts';
import type { Part } from './schema.ts';

/** The parts that come with the product, in the order a list shows them. */
export const PARTS: readonly Part[] = [atmega328p, atmega2560, attiny85, stm32f401];

/** The shipped part of that id, if there is one. */
export function partById(id: string): Part | undefined {
  return PARTS.find((part) => part.id === id);
}
