import type { Exact } from '../quantity/exact.ts';
import { clockOf, type ClockPath } from '../clock/path.ts';
import type { Part, Writes } from '../part/schema.ts';
import { registerOf } from '../part/find.ts';
import { countsOf, highCounts } from './count.ts';
import { produce } from './produce.ts';
import { resolveSetting, topRange, type Resolved, type Setting } from './setting.ts';

/** The register value a rung stands for; bits of a selecting field stand as text. */
export type RungRegister = { name: string; value: number; width: number } | { name: string; text: string };

/**
 * One division on the way from the oscillator to the pin: its formula in three parts, the middle one a number that may
 * be changed, and the frequency and period behind it.
 */
export type Rung = {
  id: 'source' | 'divider' | 'prescaler' | 'top' | 'toggle' | 'compare';
  label: string;
  before: string;
  value?: number;
  after: string;
  /** What may be put in place of the value: a list, or a range of whole numbers. Absent when it is fixed. */
  choices?: { options: number[] } | { least: number; most: number };
  register?: RungRegister;
  hz: Exact;
};

function selected(writes: Writes): RungRegister | undefined {
  const bits = Object.entries(writes);
  const [first] = bits;
  if (!first) return undefined;
  const register = first[0].split('.')[0] ?? '';
  return {
    name: register,
    text: bits.map(([key, value]) => `${key.split('.')[1] ?? key} = ${String(value)}`).join(', '),
  };
}

function wholeRegister(part: Part, name: string, value: number): RungRegister {
  return { name, value, width: registerOf(part, name).width };
}

function clockRungs(path: ClockPath, node: string): Rung[] {
  const rungs: Rung[] = [];
  for (const step of path.steps) {
    const source = step.node === path.source.id;
    if (!source && step.divide === 1) continue;
    rungs.push({
      id: source ? 'source' : 'divider',
      label: source ? step.name.charAt(0).toUpperCase() + step.name.slice(1) : 'Clock divider',
      before: source ? '' : '÷',
      ...(source ? {} : { value: step.divide }),
      after: '',
      hz: step.hz,
    });
    if (step.node === node) break;
  }
  return rungs;
}

function topRung(part: Part, { mode, setting }: Resolved, hz: Exact): Rung {
  const { least, most } = topRange(mode);
  const up = mode.count === 'up';
  return {
    id: 'top',
    label: up ? 'Top, counted up' : 'Top, up and down',
    before: up ? '÷ (' : '÷ ( 2 ×',
    value: setting.top,
    after: up ? '+ 1 )' : ')',
    ...(least === most ? {} : { choices: { least, most } }),
    ...(mode.top.kind === 'fixed' ? {} : { register: wholeRegister(part, mode.top.register, setting.top) }),
    hz: hz.div(setting.prescaler).div(countsOf(mode, setting.top)),
  };
}

function compareRung(part: Part, { mode, setting, channel }: Resolved, hz: Exact): Rung {
  const counts = countsOf(mode, setting.top);
  const inverted = setting.polarity === 'inverted';
  const high = highCounts(mode, setting.top, setting.compare, inverted);
  const of = `of ${counts}`;
  const doubled = mode.count === 'updown' ? '2 × ' : '';
  const extra = mode.compare?.high === 'compare+1' && mode.count === 'up' ? '+ 1 ' : '';
  return {
    id: 'compare',
    label: inverted ? 'Compare, inverted' : 'Compare',
    before: inverted ? `low for ${doubled}` : `high for ${doubled}`,
    value: setting.compare,
    after: inverted ? `${extra}${of}, high ${high}` : `${extra}${of}`,
    choices: { least: 0, most: setting.top },
    register: wholeRegister(part, channel.compareRegister, setting.compare),
    hz,
  };
}

/**
 * The way from the oscillator to the pin, rung by rung, with every number put in.
 * @throws SettingError when the part cannot do the setting.
 */
export function ladderOf(part: Part, path: ClockPath, setting: Setting): Rung[] {
  const resolved = resolveSetting(part, setting);
  const clock = clockOf(path, resolved.timer.clock);
  const { frequency } = produce(part, setting, clock);
  const register = selected(resolved.prescaler.writes);
  const prescaler: Rung = {
    id: 'prescaler',
    label: 'Prescaler',
    before: '÷',
    value: setting.prescaler,
    after: '',
    choices: { options: resolved.timer.prescalers.map((one) => one.divide) },
    ...(register ? { register } : {}),
    hz: clock.div(setting.prescaler),
  };
  const rungs = [...clockRungs(path, resolved.timer.clock), prescaler, topRung(part, resolved, clock)];
  if (setting.drive === 'compare') return [...rungs, compareRung(part, resolved, frequency)];
  return [
    ...rungs,
    { id: 'toggle', label: 'Output toggles', before: '÷ 2', after: '(one change a run)', hz: frequency },
  ];
}

/** A rung's formula as one text: "÷ ( 15999 + 1 )". */
export function rungText(rung: Rung): string {
  return [rung.before, rung.value ?? '', rung.after]
    .filter((text) => text !== '')
    .join(' ')
    .replace(/\s+/g, ' ');
}
