import { amountOf, exact, type Exact } from '../quantity/exact.ts';
import type { Part } from '../part/types.ts';
import { modeOf, timerOf } from '../part/find.ts';
import type { Requirement } from '../signal/requirement.ts';
import type { Signal } from '../signal/signal.ts';
import { maxCompare } from '../timer/count.ts';
import { computeOutcome } from '../timer/outcome-of.ts';
import { isOutput, topRange, type DelayLoopSetting, type Setting } from '../timer/setting.ts';
import { adjust } from './reselect.ts';

/** A target moved to the next value that the hardware can really make, with the setting that makes it. */
export type Step = { signal: Signal; setting: Setting };

function said(signal: Signal, remove: readonly string[], fields: Record<string, unknown>): Signal {
  const target: Record<string, unknown> = { ...signal.target };
  for (const key of remove) delete target[key];
  return { ...signal, target: { ...fields, ...target, ...fields } } as Signal;
}

function withFrequency(signal: Signal, frequency: Exact): Signal {
  const hz = amountOf(frequency);
  switch (signal.kind) {
    case 'dim':
    case 'level':
      return said(signal, [], { minHz: hz });
    case 'pulse':
      return said(signal, [], { frameHz: hz });
    case 'string':
      return said(signal, [], { bitS: amountOf(frequency.inverse()) });
    case 'tone':
      return said(signal, ['note', 'cents'], { frequencyHz: hz });
    case 'strobe':
      return said(signal, ['periodS', 'rpm', 'images'], { frequencyHz: hz });
    case 'measure':
      return said(signal, [], { minHz: hz });
    default:
      return signal.target.periodS === undefined
        ? said(signal, [], { frequencyHz: hz })
        : said(signal, [], { periodS: amountOf(frequency.inverse()) });
  }
}

function withDuty(signal: Signal, duty: Exact, frequency: Exact): Signal {
  const width = amountOf(duty.div(frequency));
  switch (signal.kind) {
    case 'pulse':
      return said(signal, [], { widthS: width });
    case 'string':
      return said(signal, [], { oneS: width });
    case 'level':
      return said(signal, [], { volts: amountOf(duty.mul(exact(signal.target.supplyV))) });
    case 'strobe':
      return signal.target.duty === undefined
        ? said(signal, [], { onS: width })
        : said(signal, [], { duty: amountOf(duty) });
    default:
      return said(signal, ['onS'], { duty: amountOf(duty) });
  }
}

function held(value: number, min: number, max: number): number {
  return Math.min(max, Math.max(min, value));
}

/** One pass of the delay loop more or less. */
function stepDelayLoop(
  part: Part,
  signal: Signal,
  requirement: Requirement,
  setting: DelayLoopSetting,
  clockHz: Exact,
  token: 'frequency' | 'duty',
  by: number,
): Step | undefined {
  if (token === 'frequency') {
    const next = adjust(part, setting, requirement, 'top', Math.max(2, setting.top - by));
    return { setting: next, signal: withFrequency(signal, computeOutcome(part, next, clockHz).frequency) };
  }
  const next = { ...setting, compare: held(setting.compare + by, 0, setting.top) };
  const { duty, frequency } = computeOutcome(part, next, clockHz);
  return { setting: next, signal: withDuty(signal, duty, frequency) };
}

/**
 * The next frequency or duty up (`by` above zero) or down that this setting's timer can make with its prescaler, so many
 * counts away. Undefined where there is none: a fixed top, the end of the range, the duty of a toggled output.
 */
export function stepTarget(
  part: Part,
  signal: Signal,
  requirement: Requirement,
  setting: Setting,
  clockHz: Exact,
  token: 'frequency' | 'duty',
  by: number,
  cpuHz: Exact = clockHz,
): Step | undefined {
  if (setting.drive === 'capture') return undefined;
  if (setting.drive === 'delay-loop')
    return stepDelayLoop(part, signal, requirement, setting, clockHz, token, by);
  const timer = timerOf(part, setting.timer);
  const mode = modeOf(timer, setting.mode);
  if (token === 'frequency') {
    if (mode.top.kind === 'power') return undefined;
    const { min, max } = topRange(mode);
    const top = held(setting.top - by, min, max);
    if (top === setting.top) return undefined;
    const next = adjust(part, setting, requirement, 'top', top);
    return {
      setting: next,
      signal: withFrequency(signal, computeOutcome(part, next, clockHz, cpuHz).frequency),
    };
  }
  if (setting.drive === 'toggle' || setting.drive === 'interrupt') return undefined;
  const inverted = isOutput(setting) && setting.polarity === 'inverted';
  const max = isOutput(setting)
    ? maxCompare(mode, setting.top, timer.width)
    : setting.drive === 'software-pwm'
      ? setting.divider
      : setting.top;
  const compare = held(setting.compare + (inverted ? -by : by), 0, max);
  if (compare === setting.compare) return undefined;
  const next = { ...setting, compare };
  const { duty, frequency } = computeOutcome(part, next, clockHz, cpuHz);
  if (signal.kind === 'tone' && (duty.equals(0) || duty.equals(1))) return undefined;
  return { setting: next, signal: withDuty(signal, duty, frequency) };
}
