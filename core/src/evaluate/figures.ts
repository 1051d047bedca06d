import { clockOf, type ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import { printHz, printNumber, printPercent, printPpm, printSeconds } from '../quantity/print.ts';
import { interruptCycles } from '../timer/run.ts';
import type { SignalEvaluation } from './signal.ts';

/** The figures of a signal that explain themselves. */
export type FigureId = 'frequency' | 'error' | 'duty' | 'resolution' | 'reach' | 'cpu' | 'jitter';

/** How a figure is calculated: its formula, the same with the numbers put in, and where each number comes from. */
export type FigureExplanation = { id: FigureId; formula: string; numbers: string; from: string[] };

type Rung = SignalEvaluation['ladder'][number];

function rungText({ before, value, after }: Rung): string {
  const number = value === undefined ? '' : printNumber(value, 12);
  return [before.trim(), number, after.trim()].filter(Boolean).join(' ');
}

/** Where the number of a rung stands: its register, or the part's own way. */
function registerText({ label, value, register }: Rung): string[] {
  if (!register) return value === undefined ? [] : [`${label} ${printNumber(value, 12)}: fixed by the mode`];
  const written = 'text' in register ? register.text : `${register.name} = ${register.value}`;
  return [`${label}${value === undefined ? '' : ` ${printNumber(value, 12)}`}: register ${written}`];
}

/** A rung with the name of its number in place of it: "÷ ( top + 1 )". */
function symbolText({ before, value, after, label }: Rung): string {
  const [name = ''] = label.toLowerCase().split(',');
  return [before.trim(), value === undefined ? '' : name, after.trim()].filter(Boolean).join(' ');
}

type Parts = { clock: string; clockFrom: string; divisions: Rung[]; pulse: Rung | undefined };

/** The ladder in three: what makes the timer's clock, what divides it, and what decides the pulse. */
function partsOf(ladder: readonly Rung[]): Parts {
  const divisions = ladder.filter(({ id }) => id !== 'source' && id !== 'path' && id !== 'compare');
  const clocks = ladder.filter(({ id }) => id === 'source' || id === 'path');
  const clock = clocks[clocks.length - 1];
  const [source] = clocks;
  const steps = clocks.slice(1).map(rungText);
  return {
    clock: clock ? printHz(clock.hz) : '',
    clockFrom: source
      ? `${[`${printHz(source.hz)} ${source.label}`, ...steps].join(' ')}: the clock path of the plan`
      : '',
    divisions,
    pulse: ladder.find(({ id }) => id === 'compare'),
  };
}

function frequencyFigure(outcome: SignalEvaluation, own: Parts): FigureExplanation {
  const divided = [own.clock, ...own.divisions.map(rungText)].join(' ');
  return {
    id: 'frequency',
    formula: `f = clock ${own.divisions.map(symbolText).join(' ')}`,
    numbers: `${divided} = ${printHz(outcome.frequencyHz, 9)}`,
    from: [own.clockFrom, ...own.divisions.flatMap(registerText)],
  };
}

function errorFigure({ errorPpm, frequencyHz, wanted }: SignalEvaluation): FigureExplanation[] {
  if (errorPpm === undefined || wanted.periodS === undefined) return [];
  const target = printHz(1 / wanted.periodS, 9);
  return [
    {
      id: 'error',
      formula: 'error = f / target − 1',
      numbers: `${printHz(frequencyHz, 9)} / ${target} − 1 = ${errorPpm === 0 ? 'exactly 0' : printPpm(errorPpm)}`,
      from: [
        `${target}: the target; the oscillator’s tolerance is not part of this figure, but of the verdict`,
      ],
    },
  ];
}

function dutyFigures(outcome: SignalEvaluation, { pulse }: Parts): FigureExplanation[] {
  if (!pulse) return [];
  const { duty, steps, bits, stepS, reach } = outcome;
  const from = registerText(pulse);
  return [
    {
      id: 'duty',
      formula: 'duty = counts high / counts of a period',
      numbers: `${rungText(pulse)} = ${printPercent(duty, 6)}`,
      from,
    },
    {
      id: 'resolution',
      formula: 'bits = log₂(steps), one step = period / steps',
      numbers: `log₂(${printNumber(steps, 12)}) = ${printNumber(bits, 4)} bit, ${printSeconds(1 / outcome.frequencyHz, 6)} / ${printNumber(steps, 12)} = ${printSeconds(stepS, 5)}`,
      from: ['steps: how many duty values the compare can tell apart in a period'],
    },
    {
      id: 'reach',
      formula: 'from the least to the greatest compare value',
      numbers: `${printPercent(reach.min, 5)} to ${printPercent(reach.max, 5)}`,
      from: [
        `the mode ${outcome.place.mode ?? ''}: whether the pin is high for compare or compare + 1 counts`,
      ],
    },
  ];
}

function cpuFigure(part: Part, path: ClockPath, { cpu }: SignalEvaluation): FigureExplanation {
  const cpuHz = clockOf(path, part.cpu.clock).valueOf();
  if (cpu === 0) {
    return {
      id: 'cpu',
      formula: 'share = interrupts a second × cycles of one / CPU clock',
      numbers: 'no interrupt: the hardware does it alone',
      from: [],
    };
  }
  const { entryCycles, handlerCycles, exitCycles } = part.cpu;
  const cycles = interruptCycles(part.cpu);
  const rate = (cpu * cpuHz) / cycles;
  return {
    id: 'cpu',
    formula: 'share = interrupts a second × cycles of one / CPU clock',
    numbers: `${printNumber(rate, 6)} × ${cycles} / ${printHz(cpuHz)} = ${printPercent(cpu, 4)}`,
    from: [
      `${cycles} cycles = ${entryCycles} to enter + ${handlerCycles} in the handler (an estimate) + ${exitCycles} to leave`,
      `CPU clock ${printHz(cpuHz)}: the clock path of the plan`,
    ],
  };
}

function jitterFigure({ jitterS }: SignalEvaluation): FigureExplanation[] {
  return jitterS === 0
    ? []
    : [
        {
          id: 'jitter',
          formula: 'jitter = how far an edge may stand off its mean place',
          numbers: `± ${printSeconds(jitterS, 4)}`,
          from: [
            'a fractional divider alternates by one clock; an interrupt waits for the current instruction',
          ],
        },
      ];
}

/** How the figures of a signal are calculated, each with its formula, its numbers and their sources. */
export function explainFigures(part: Part, path: ClockPath, outcome: SignalEvaluation): FigureExplanation[] {
  const own = partsOf(outcome.ladder);
  const data = `register names and modes: ${part.source}`;
  return [
    frequencyFigure(outcome, own),
    ...errorFigure(outcome),
    ...dutyFigures(outcome, own),
    cpuFigure(part, path, outcome),
    ...jitterFigure(outcome),
  ].map((figure) => ({
    ...figure,
    from: [...figure.from.filter(Boolean), ...(figure.id === 'cpu' ? [] : [data])],
  }));
}
