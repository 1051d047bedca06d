import type { Exact } from '../quantity/exact.ts';
import { clockAt, type ClockPath, stepText } from '../clock/path.ts';
import type { Mode, Part, Timer, Writes } from '../part/types.ts';
import { registerOf } from '../part/find.ts';
import { countsOf } from './count.ts';
import { fieldWrites, type Numbers } from './fields.ts';
import { divisionRange, type Division } from '../part/division.ts';
import { topRange } from './setting.ts';

/** The register value a rung stands for; bits of a selecting field stand as text. */
export type RungRegister = { name: string; value: number; width: number } | { name: string; text: string };

/**
 * One division on the way from the oscillator to the pin: its formula in three parts, the middle one a number that may
 * be changed, and the frequency and period behind it.
 */
export type Rung = {
  id:
    | 'source'
    | 'path'
    | 'prescaler'
    | 'top'
    | 'reload'
    | 'postscale'
    | 'divider'
    | 'toggle'
    | 'compare'
    | 'begin'
    | 'opposite'
    | 'pass';
  label: string;
  before: string;
  value?: number;
  after: string;
  /** What may be put in place of the value: a list, or a range of whole numbers or of fractions of a step. Absent when it is fixed. */
  choices?: { options: number[] } | { min: number; max: number; step?: number };
  register?: RungRegister;
  hz: Exact;
};

/** A counter with the numbers its registers take. */
export type Counting = {
  timer: Timer;
  mode: Mode;
  division: Division;
  setting: { prescaler: number; top: number };
  numbers: Numbers;
};

function selected(part: Part, writes: Writes, numbers: Numbers): RungRegister | undefined {
  const bits = fieldWrites(writes, numbers);
  const [first] = bits;
  if (!first || bits.length < 2) return written(part, writes, numbers);
  return { name: first.register, text: bits.map(({ field, value }) => `${field} = ${value}`).join(', ') };
}

/** The first place a value goes to: a whole register as a number, a field as text. */
export function written(part: Part, writes: Writes, numbers: Numbers): RungRegister | undefined {
  const [first] = fieldWrites(writes, numbers);
  if (!first) return undefined;
  const { register, field, value } = first;
  if (field !== null) return { name: register, text: `${field} = ${value}` };
  return { name: register, value, width: registerOf(part, register).width };
}

/** The oscillator, and all that stands between it and the timer as one rung. */
export function clockRungs(path: ClockPath, node: string): Rung[] {
  const { hz, steps } = clockAt(path, node);
  const [first, ...rest] = steps;
  if (!first) return [];
  const label = first.name.charAt(0).toUpperCase() + first.name.slice(1);
  const source: Rung = { id: 'source', label, before: '', after: '', hz: first.hz };
  const factors = rest.flatMap(stepText);
  if (factors.length === 0) return [source];
  return [source, { id: 'path', label: 'Clock path', before: factors.join(' '), after: '', hz }];
}

function choicesOf(mode: Mode, min: number, max: number): Pick<Rung, 'choices'> {
  const { top } = mode;
  if (top.kind === 'fixed') return {};
  if (top.kind !== 'power') return { choices: { min, max } };
  const bits = Array.from({ length: top.maxBits - top.minBits + 1 }, (_, at) => top.minBits + at);
  return { choices: { options: bits.map((count) => 2 ** count - 1) } };
}

/** The run of the counter. */
export function topRung(part: Part, { mode, setting, numbers }: Counting, counterHz: Exact): Rung {
  const { min, max } = topRange(mode);
  const up = mode.count === 'up';
  const plus = mode.base === 1 ? '+ 1 )' : ')';
  const register = mode.top.kind === 'fixed' ? undefined : written(part, mode.top.writes, numbers);
  return {
    id: 'top',
    label: up ? 'Top, counted up' : 'Top, up and down',
    before: up ? '÷ (' : '÷ ( 2 ×',
    value: setting.top,
    after: mode.base === 1 && !up ? '+ 2 )' : plus,
    ...choicesOf(mode, min, max),
    ...(register ? { register } : {}),
    hz: counterHz.div(countsOf(mode, setting.top)),
  };
}

/** The division before the counter. */
export function prescalerRung(
  part: Part,
  { timer, division, setting, numbers }: Counting,
  counterHz: Exact,
): Rung {
  const { prescaler: able } = timer;
  const register = selected(part, division.writes, numbers);
  const { min, max } = divisionRange(able);
  return {
    id: 'prescaler',
    label: 'Prescaler',
    before: '÷',
    value: setting.prescaler,
    after: '',
    choices:
      able.kind === 'list'
        ? { options: able.options.map((one) => one.divide) }
        : { min: min / able.scale, max: max / able.scale, step: 1 / able.scale },
    ...(register ? { register } : {}),
    hz: counterHz,
  };
}

/** A rung's formula as one text: "÷ ( 15999 + 1 )". */
export function rungText(rung: Pick<Rung, 'before' | 'value' | 'after'>): string {
  return [rung.before, rung.value ?? '', rung.after]
    .filter((text) => text !== '')
    .join(' ')
    .replace(/\s+/g, ' ');
}
