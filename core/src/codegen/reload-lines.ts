import type { Part } from '../part/types.ts';
import type { Step } from '../program/step.ts';
import { reloadName } from './reload-assembly.ts';

/** Adds to a running counter of two bytes: in the assembler file where there is one, in counted cycles, or in C. */
export function byteReload(
  part: Part,
  { timer, upper, lower, reload }: Extract<Step, { do: 'reload' }>,
): string[] {
  const inC = [
    // The lower byte first: it moves on while the upper one is read, and the sum has to be of one moment.
    `uint8_t low = ${lower};`,
    `uint16_t count = (uint16_t)(((uint16_t)${upper} << 8 | low) + ${reload}u);`,
    `${upper} = (uint8_t)(count >> 8);`,
    `${lower} = (uint8_t)count;`,
  ];
  if (!part.code.assembly) return inC;
  return ['#ifdef RELOAD_IN_C', ...inC, '#else', `${reloadName(timer)}();`, '#endif'];
}
