import { am3358 } from '../../src/part/parts/sitara/am3358.ts';
import { mk20dx256 } from '../../src/part/parts/kinetis/mk20dx256.ts';
import { pic16f18875 } from '../../src/part/parts/pic/pic16f18875.ts';
import { samd21g18 } from '../../src/part/parts/sam/samd21g18.ts';
import { atmega2560 } from '../../src/part/parts/avr/atmega2560.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import { attiny85 } from '../../src/part/parts/avr/attiny85.ts';
import { bcm2835 } from '../../src/part/parts/bcm/bcm2835.ts';
import { esp32 } from '../../src/part/parts/esp/esp32.ts';
import { pic16f684 } from '../../src/part/parts/pic/pic16f684.ts';
import { pic18f4620 } from '../../src/part/parts/pic/pic18f4620.ts';
import { rp2040 } from '../../src/part/parts/rp2/rp2040.ts';
import { stm32f401 } from '../../src/part/parts/stm32/stm32f401.ts';
import type { Part } from '../../src/part/types.ts';

/** All shipped parts at once, which the product loads one by one. */
export const PARTS: readonly Part[] = [
  atmega328p,
  atmega2560,
  attiny85,
  pic16f684,
  pic16f18875,
  pic18f4620,
  stm32f401,
  samd21g18,
  rp2040,
  esp32,
  bcm2835,
  am3358,
  mk20dx256,
];

/** The shipped part of that id, if there is one. */
export function partById(id: string): Part | undefined {
  return PARTS.find((part) => part.id === id);
}

/** The shipped part of that id. @throws Error if there is none. */
export function shipped(id: string): Part {
  const part = partById(id);
  if (!part) throw new Error(`no ${id}`);
  return part;
}
