import { knobStates } from '../program/knob-states.ts';
import type { KnobCode } from '../program/signal.ts';

/** What the comment of a knob's setter says of its mean and its hysteresis. */
export function steadyComment({ average = 1, hysteresis = 0 }: KnobCode): string[] {
  const lines = [
    ...(average > 1
      ? [`Call it with every reading: each ${average} of them make one mean, which is taken.`]
      : []),
    ...(hysteresis > 0
      ? [
          `A reading is taken if it is more than ${hysteresis} from the last one that was, or at an end of the knob.`,
        ]
      : []),
  ];
  return lines.map((line) => `/* ${line} */`);
}

/**
 * Statements at the head of a knob's setter: they make `reading` the mean of several, and return where there is none yet, or where it is too near to the
 * last one that was taken. The ends are always taken, so that they can be reached.
 */
export function steadyLines(label: string, knob: KnobCode): string[] {
  const { arithmetic, average = 1, hysteresis = 0 } = knob;
  const { sum, count, held, known } = knobStates(label, knob);
  const mean =
    sum && count
      ? [
          `${sum.kept} = (${sum.type})(${sum.kept} + reading);`,
          `${count.kept} = (${count.type})(${count.kept} + 1u);`,
          `if (${count.kept} < ${average}u) return;`,
          `reading = (uint16_t)((${sum.kept} + ${average / 2}u) / ${average}u);`,
          `${sum.kept} = 0;`,
          `${count.kept} = 0;`,
        ]
      : [];
  const far = held
    ? [
        `uint16_t apart = (uint16_t)(reading > ${held.kept} ? reading - ${held.kept} : ${held.kept} - reading);`,
        `if (${known?.kept} && apart <= ${hysteresis}u && reading != 0u && reading != ${arithmetic.highest}u) return;`,
        `${held.kept} = (${held.type})reading;`,
        `${known?.kept} = 1;`,
      ]
    : [];
  return [...mean, ...far].map((line) => `    ${line}`);
}
