import type { Part } from '../part/types.ts';
import { timerOf } from '../part/find.ts';
import { outsideSequence, type FieldWrite } from '../timer/fields.ts';
import { interruptsInCode } from './interrupt-lines.ts';
import { commentText, type CodeSignal } from './names.ts';
import type { Op } from './ops.ts';
import { plainWrites } from './statement.ts';

/** Lets flags be set that the program polls; what a timer's own sequence writes is there already. */
function pollOps(part: Part, signals: readonly CodeSignal[]): Op[] {
  const writes = signals.flatMap(({ sending }) => {
    const pollWith = sending && 'tick' in sending.by ? sending.by.tick.pollWith : undefined;
    return sending && pollWith
      ? plainWrites([outsideSequence(timerOf(part, sending.setting.timer), pollWith)])
      : [];
  });
  return writes.length === 0
    ? []
    : [{ do: 'gap' }, { do: 'say', text: 'Flags that are polled.' }, { do: 'change', writes }];
}

/**
 * Lets the interrupts of the settings happen, with their priorities, and the flags cleared that starting the timers may have set. Whether the
 * processor takes interrupts at all is left to the program, unless `allow` is set.
 */
export function enableOps(
  part: Part,
  signals: readonly CodeSignal[],
  priorities: readonly FieldWrite[],
  allow: boolean,
): Op[] {
  const interrupts = signals.flatMap((signal) => interruptsInCode(part, signal));
  const flagging = pollOps(part, signals);
  if (interrupts.length === 0) return flagging;
  const flags = interrupts.filter((one, at) => at === interrupts.findIndex(({ flag }) => flag === one.flag));
  const statement = part.code.allow;
  const last = allow
    ? statement
    : `/* They come once the program lets them: ${commentText(statement.replace(/\/\*.*/, '').trim())} */`;
  return [
    ...flagging,
    { do: 'gap' },
    { do: 'say', text: 'Interrupts.' },
    ...(priorities.length > 0 ? [{ do: 'change', writes: priorities } as const] : []),
    ...flags.map((interrupt): Op => ({ do: 'clear', interrupt })),
    { do: 'change', writes: plainWrites(interrupts.map((one) => one.enable)) },
    ...(statement === '' ? [] : [{ do: 'words', lines: [last] } as const]),
  ];
}
