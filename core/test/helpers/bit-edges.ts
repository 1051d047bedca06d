import fc from 'fast-check';
import type { Part } from '../../src/part/types.ts';
import { checkSetting } from '../../src/timer/drives/index.ts';
import type { BitLoopSetting } from '../../src/timer/setting.ts';

/** When a line changes on which bytes are sent, the highest bit first, each bit `top` cycles, the first rise at 0. */
export function bitEdges(bytes: readonly number[], { top, compare, zero }: BitLoopSetting): number[] {
  return bytes.flatMap((byte, at) =>
    [7, 6, 5, 4, 3, 2, 1, 0].flatMap((bit) => {
      const rise = (8 * at + 7 - bit) * top;
      return [rise, rise + ((byte >> bit) & 1 ? compare : zero)];
    }),
  );
}

/** Settings of a loop that sends bits on a pin at random, those that the part allows. */
export function bitLoops(part: Part, pin: string): fc.Arbitrary<BitLoopSetting> {
  return fc
    .tuple(fc.integer({ min: 5, max: 60 }), fc.integer({ min: 1, max: 40 }), fc.integer({ min: 1, max: 30 }))
    .map(([top, compare, zero]): BitLoopSetting => ({ drive: 'bit-loop', pin, top, compare, zero }))
    .filter((setting) => {
      try {
        checkSetting(part, setting);
        return true;
      } catch {
        return false;
      }
    });
}
