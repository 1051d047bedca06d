import { ceilOf, floorOf, type Exact } from '../quantity/exact.ts';
import { clockOf, type ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import type { Requirement, Span } from '../signal/requirement.ts';
import { maxCompare, countsOf, grainOf, highCounts } from '../timer/count.ts';
import { topRange, type Setting } from '../timer/setting.ts';
import { runsOf, isOutput, resolveSetting, type Resolved } from '../timer/drives/index.ts';

/** A position of a knob and what the hardware makes there: the wanted value, the one it gets, and the register's. */
type SpanRow = { wanted: number; made: number; register: number };

/** What a setting makes of a span, its prescaler staying as it is: frequencies in Hz, widths in s, or duties. */
export type SpanReport = {
  of: Span['of'];
  low: number;
  high: number;
  /** Whether both ends can be reached. */
  reached: boolean;
  /** How many values the hardware can make within the span. */
  positions: number;
  /** The widest step between neighbours and where it lies. */
  coarsest: number;
  coarsestAt: number;
  /** The most a wanted value can be off, in ppm of it. */
  worstPpm: number;
  /** The values it can make, thinned to what a drawing can show, from low to high. */
  comb: number[];
  /** Equal steps of the value itself with the register values that make them, for a table in the program. */
  table: SpanRow[];
};

/** Teeth a drawing can tell apart. */
const TEETH = 240;

/** Rows of the table, both ends included. */
const ROWS = 17;

/** The register's range within the span, and the value each number in it makes; a greater number need not be a greater value. */
type Scale = {
  min: number;
  max: number;
  reached: boolean;
  value: (register: number) => number;
  nearest: (value: number) => number;
};

function held(value: number, min: number, max: number): number {
  return Math.min(max, Math.max(min, value));
}

/** Tops between both ends: f = clock / (unit x (top + base)). */
function frequencyScale({ mode, division, setting }: Resolved, clockHz: Exact, span: Span): Scale {
  const unit = (mode.count === 'up' ? 1 : 2) * division.n * runsOf(setting.drive);
  const ticks = clockHz.mul(division.scale);
  const range = topRange(mode);
  const few = ticks.div(span.high.mul(unit)).sub(mode.base);
  const many = ticks.div(span.low.mul(unit)).sub(mode.base);
  const hz = ticks.valueOf() / unit;
  const nearest = (value: number): number => held(Math.round(hz / value) - mode.base, range.min, range.max);
  return {
    min: held(ceilOf(few), range.min, range.max),
    max: held(floorOf(many), range.min, range.max),
    reached: few.compare(range.min) >= 0 && many.compare(range.max + 0.5) <= 0,
    value: (top) => hz / (top + mode.base),
    nearest,
  };
}

/** Compare values between both ends; a width, like a duty, is linear in them. */
function pulseScale({ mode, division, setting, timer }: Resolved, clockHz: Exact, span: Span): Scale {
  const { top } = setting;
  const grain = grainOf(mode);
  const inverted = setting.polarity === 'inverted';
  const max = maxCompare(mode, top, timer.width);
  const count =
    span.of === 'duty'
      ? 1 / (countsOf(mode, top) * grain)
      : division.n / (clockHz.valueOf() * division.scale * grain);
  const value = (compare: number): number => highCounts(mode, top, compare, inverted) * count;
  const first = value(0);
  const step = max > 0 ? (value(max) - first) / max : 0;
  const at = (width: number): number => (step === 0 ? 0 : (width - first) / step);
  const ends = [at(span.low.valueOf()), at(span.high.valueOf())].sort((one, other) => one - other);
  const [from = 0, to = 0] = ends;
  return {
    min: held(Math.ceil(from - 1e-9), 0, max),
    max: held(Math.floor(to + 1e-9), 0, max),
    reached: from >= -0.5 && to <= max + 0.5 && countsOf(mode, top) > 1,
    value,
    nearest: (width) => held(Math.round(at(width)), 0, max),
  };
}

function combOf({ min, max, value }: Scale): number[] {
  const count = max - min + 1;
  if (count <= 0) return [];
  const shown = Math.min(count, TEETH);
  const registers = Array.from({ length: shown }, (_, at) =>
    Math.round(min + (shown === 1 ? 0 : (at * (count - 1)) / (shown - 1))),
  );
  return registers.map(value).sort((one, other) => one - other);
}

function tableOf({ value, nearest }: Scale, low: number, high: number): SpanRow[] {
  return Array.from({ length: ROWS }, (_, at) => {
    const wanted = low + ((high - low) * at) / (ROWS - 1);
    const register = nearest(wanted);
    return { wanted, register, made: value(register) };
  });
}

/**
 * What a setting makes of the requirement's span. Equal steps of a top are equal steps of the period, so frequencies stand far
 * apart at the fast end and bunch at the slow one; equal steps of a compare value are equal steps of a width or a duty. Undefined
 * where the requirement has no span, or the setting is not an output.
 */
export function spanReport(
  part: Part,
  path: ClockPath,
  setting: Setting,
  requirement: Requirement,
): SpanReport | undefined {
  const { span } = requirement;
  if (!span || !isOutput(setting)) return undefined;
  const resolved = resolveSetting(part, setting);
  const clockHz = clockOf(path, resolved.timer.clock);
  const scale =
    span.of === 'frequency' ? frequencyScale(resolved, clockHz, span) : pulseScale(resolved, clockHz, span);
  const { min, max, reached, value } = scale;
  const positions = Math.max(0, max - min + 1);
  const ends = [min, max - 1].filter((at) => at >= min && at < max);
  const steps = ends.map((at) => ({ step: Math.abs(value(at + 1) - value(at)), at: value(at) }));
  const widest = steps.reduce((one, other) => (other.step > one.step ? other : one), { step: 0, at: NaN });
  const relative = steps.map(({ step, at }) => step / 2 / at);
  return {
    of: span.of,
    low: span.low.valueOf(),
    high: span.high.valueOf(),
    reached,
    positions,
    coarsest: widest.step,
    coarsestAt: widest.at,
    worstPpm: 1e6 * Math.max(0, ...relative),
    comb: combOf(scale),
    table: tableOf(scale, span.low.valueOf(), span.high.valueOf()),
  };
}
