import { scaleOf } from '../part/division.ts';
import { modeOf, timerOf } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import { printNumber } from '../quantity/print.ts';
import { isInput } from '../timer/drives/index.ts';
import { reloadLatency, runTicks } from '../timer/run.ts';
import { hasTimer, type Setting, type TimerSetting } from '../timer/setting.ts';
import { warning, type Slip, type SlipId } from './catalogue.ts';

/** A slip that multiplies a signal’s frequency by a factor. */
export type RateSlip = Slip & { factor: number };

type Guess = { id: SlipId; factor: number; text: string };

/** Ticks of one run of a setting's counter with another top, everything else as it is. */
type RunTicks = (top: number) => number;

function runOf(part: Part, setting: TimerSetting): RunTicks {
  const timer = timerOf(part, setting.timer);
  const mode = modeOf(timer, setting.mode);
  const scale = scaleOf(timer.prescaler);
  const latency = reloadLatency(part.cpu);
  return (top) => runTicks(mode, setting.prescaler * scale, scale, top, latency);
}

function counted({ top }: TimerSetting, run: RunTicks): Guess[] {
  const holds = (held: number): string =>
    `the top register holds ${printNumber(held)} instead of ${printNumber(top)}.`;
  const guesses: Guess[] = [
    {
      id: 'minus-one',
      factor: run(top) / run(top + 1),
      text: `One count too many in each run: ${holds(top + 1)}`,
    },
    {
      id: 'minus-one-twice',
      factor: run(top) / run(top - 1),
      text: `One count too few in each run: ${holds(top - 1)}`,
    },
  ];
  return guesses.filter(({ factor }) => factor > 0 && Number.isFinite(factor));
}

const FACTORS: readonly (readonly [SlipId, number, string])[] = [
  ['half', 0.5, 'A toggle is taken for a period, or the counter goes up and down.'],
  ['double', 2, 'A period is taken for a toggle, or an up-down counter for an up-counter.'],
  ['clock', 4, 'The timer counts a clock four times as fast as the plan says.'],
  ['clock', 0.25, 'The timer counts a quarter of the clock that the plan says.'],
  ['clock', 8, 'The timer counts a clock eight times as fast as the plan says.'],
  ['clock', 1 / 8, 'The timer counts an eighth of the clock that the plan says.'],
  ['unit-1000', 1000, 'It is a thousand times too fast.'],
  ['unit-1000', 1 / 1000, 'It is a thousand times too slow.'],
];

function divided(part: Part, setting: TimerSetting): Guess[] {
  const { prescaler } = timerOf(part, setting.timer);
  if (prescaler.kind !== 'list') return [];
  return prescaler.options
    .filter(({ divide }) => divide !== setting.prescaler)
    .map(({ divide }) => ({
      id: 'prescaler',
      factor: setting.prescaler / divide,
      text: `The prescaler divides by ${divide} instead of ${setting.prescaler}.`,
    }));
}

/** The nearest top that would give what was captured, where it is another one. */
function nearestTop({ top }: TimerSetting, run: RunTicks, factor: number, doubt: number): Guess[] {
  const ticksPerCount = run(top + 1) - run(top);
  const nearest = Math.round(top + (run(top) / factor - run(top)) / ticksPerCount);
  if (nearest === top || nearest < 1) return [];
  const made = run(top) / run(nearest);
  if (Math.abs(made / factor - 1) > doubt) return [];
  return [
    {
      id: 'top',
      factor: made,
      text: `A top of ${printNumber(nearest)} instead of ${printNumber(top)} would give what was captured.`,
    },
  ];
}

/**
 * The mistake that explains best why a signal is `factor` times as fast as its setting, to within `doubt` (a share);
 * those of the counter before others that fit as well. Undefined where none does, or nothing needs to be explained.
 */
export function explainRate(
  part: Part,
  setting: Setting,
  factor: number,
  doubt: number,
): RateSlip | undefined {
  if (Math.abs(factor - 1) <= doubt || isInput(setting)) return undefined;
  const common = FACTORS.map(([id, by, text]): Guess => ({ id, factor: by, text }));
  const run = hasTimer(setting) ? runOf(part, setting) : undefined;
  const guesses =
    run && hasTimer(setting)
      ? [
          ...counted(setting, run),
          ...divided(part, setting),
          ...common,
          ...nearestTop(setting, run, factor, doubt),
        ]
      : common;
  let best: Guess | undefined;
  let min = doubt;
  for (const guess of guesses) {
    const off = Math.abs(factor / guess.factor - 1);
    if (off >= min) continue;
    // A guess that is farther off only by a fraction of the doubt is no worse; the first of them stays.
    if (best && Math.abs(factor / best.factor - 1) - off < doubt / 4) continue;
    min = off;
    best = guess;
  }
  if (!best) return undefined;
  const { id, text, factor: made } = best;
  return { ...warning(id, text), factor: made };
}
