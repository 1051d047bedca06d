import type { Part } from '../part/types.ts';
import { timerOf } from '../part/find.ts';
import { outsideSequence, plainWrites, type FieldWrite } from '../timer/fields.ts';
import { interruptsInCode } from './handlers.ts';
import type { ProgramSignal } from './signal.ts';
import type { Step } from './step.ts';

/** Lets flags be set that the program polls; what a timer's own sequence writes is there already. */
function pollSteps(part: Part, signals: readonly ProgramSignal[]): Step[] {
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
export function enableSteps(
  part: Part,
  signals: readonly ProgramSignal[],
  priorities: readonly FieldWrite[],
  allow: boolean,
): Step[] {
  const interrupts = signals.flatMap((signal) => interruptsInCode(part, signal));
  const flagging = pollSteps(part, signals);
  if (interrupts.length === 0) return flagging;
  const flags = interrupts.filter((one, at) => at === interrupts.findIndex(({ flag }) => flag === one.flag));
  return [
    ...flagging,
    { do: 'gap' },
    { do: 'say', text: 'Interrupts.' },
    ...(priorities.length > 0 ? [{ do: 'change', writes: priorities } as const] : []),
    ...flags.map((interrupt): Step => ({ do: 'clear', interrupt, first: true })),
    { do: 'change', writes: plainWrites(interrupts.map((one) => one.enable)) },
    ...(part.code.allow === '' ? [] : [{ do: 'allow', taken: allow } as const]),
  ];
}
