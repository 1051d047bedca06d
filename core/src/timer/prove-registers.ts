import { divisionRange } from '../part/division.ts';
import type { Mode, Part, Prescaler, Timer } from '../part/types.ts';
import type { Fault } from '../result/result.ts';
import { maxCompare } from './count.ts';
import { settingRegisters } from './encode.ts';
import { firstOfEach } from './sample.ts';
import { isTopChannel, SettingError, type OutputSetting, type Setting } from './setting.ts';

/** A setting with what is told apart in it. */
type Labelled = { label: string; setting: Setting };

/** Numbers that differ in one bit or by one, from a least to a greatest: no two of them may look alike in the registers. */
function telling(min: number, max: number): number[] {
  const found = new Set([min, min + 1, max - 1, max]);
  for (let bit = 1; bit <= max; bit *= 2) found.add(bit).add(min + bit);
  return [...found].filter((value) => value >= min && value <= max).sort((one, other) => one - other);
}

function divisionsOf(prescaler: Prescaler): number[] {
  if (prescaler.kind === 'list') return prescaler.options.map(({ divide }) => divide);
  const { min, max } = divisionRange(prescaler);
  return telling(min, max).map((n) => n / prescaler.scale);
}

function topsOf({ top }: Mode): number[] {
  if (top.kind === 'fixed') return [top.value];
  if (top.kind === 'power')
    return Array.from({ length: top.maxBits - top.minBits + 1 }, (_, at) => 2 ** (top.minBits + at) - 1);
  return telling(top.min, top.max);
}

/** The registers of a setting as a key; undefined where the part refuses its numbers with a reason. */
function imageOf(part: Part, setting: Setting): string | undefined {
  try {
    const stores = settingRegisters(part, setting).map(({ name, value, mask }) => `${name} ${value} ${mask}`);
    return stores.sort().join('\n');
  } catch (error) {
    if (error instanceof SettingError) return undefined;
    throw error;
  }
}

/** The first two settings of a list that are the same in the registers. */
function alike(part: Part, list: readonly Labelled[]): [Labelled, Labelled] | undefined {
  const seen = new Map<string, Labelled>();
  for (const one of list) {
    const image = imageOf(part, one.setting);
    if (image === undefined) continue;
    const other = seen.get(image);
    if (other && other.label !== one.label) return [other, one];
    seen.set(image, one);
  }
  return undefined;
}

/** A tick of a mode, which needs nothing but its counter. */
function tickOf(timer: Timer, mode: Mode, prescaler: number, top: number): Setting {
  return { drive: 'interrupt', timer: timer.id, mode: mode.id, prescaler, top, divider: 1 };
}

/** An output for each channel, drive and polarity of a mode, at the first pin: others have bits of their own, which is seen before. */
function outputsOf(timer: Timer, mode: Mode, prescaler: number, top: number): OutputSetting[] {
  return timer.channels.flatMap((channel) =>
    firstOfEach(channel.outputs, ({ drive, polarity }) => `${drive} ${polarity}`)
      .filter(({ drive }) => mode[drive]?.channels.includes(channel.id))
      .map(({ drive, polarity, pin }): OutputSetting => {
        const compare = isTopChannel(mode, channel.id)
          ? top
          : Math.min(1, maxCompare(mode, top, timer.width));
        return {
          drive,
          timer: timer.id,
          mode: mode.id,
          channel: channel.id,
          pin,
          polarity,
          prescaler,
          top,
          compare,
        };
      }),
  );
}

const outputText = ({ channel, pin, drive, polarity }: OutputSetting): string =>
  `${channel} on ${pin} (${drive}${polarity === 'inverted' ? ', inverted' : ''})`;

/** What is told apart in one timer, each with the place that is at fault where two are alike. */
function* comparisons(timer: Timer, path: string): Generator<{ place: string; list: Labelled[] }> {
  const division = divisionsOf(timer.prescaler)[0] ?? 1;
  const middle = (mode: Mode): number => {
    const tops = topsOf(mode);
    return tops[Math.floor(tops.length / 2)] ?? 0;
  };
  const [first] = timer.modes;
  if (first) {
    const list = divisionsOf(timer.prescaler).map((prescaler) => ({
      label: `dividing by ${prescaler}`,
      setting: tickOf(timer, first, prescaler, middle(first)),
    }));
    yield { place: `${path}.prescaler`, list };
  }
  // Some modes have no interrupt once a run, others no output: what two of them both have tells them apart.
  const modes = timer.modes.flatMap((mode) => {
    const outputs = outputsOf(timer, mode, division, middle(mode));
    return [tickOf(timer, mode, division, middle(mode)), ...firstOfEach(outputs, ({ drive }) => drive)].map(
      (setting) => ({ label: `the mode ${mode.id}`, setting }),
    );
  });
  yield { place: `${path}.modes`, list: modes };
  const compared = new Set<string>();
  for (const [at, mode] of timer.modes.entries()) {
    const tops = topsOf(mode).map((top) => ({
      label: `a top of ${top}`,
      setting: tickOf(timer, mode, division, top),
    }));
    yield { place: `${path}.modes[${at}].top`, list: tops };
    const top = Math.max(...topsOf(mode));
    const outputs = outputsOf(timer, mode, division, top);
    yield {
      place: `${path}.channels`,
      list: outputs.map((setting) => ({ label: outputText(setting), setting })),
    };
    for (const setting of outputs) {
      const key = `${setting.channel} ${JSON.stringify(mode.pwm)}`;
      if (isTopChannel(mode, setting.channel) || compared.has(key)) continue;
      compared.add(key);
      const compares = telling(0, maxCompare(mode, top, timer.width)).map((compare) => ({
        label: `a compare value of ${compare}`,
        setting: { ...setting, compare },
      }));
      const index = timer.channels.findIndex(({ id }) => id === setting.channel);
      yield { place: `${path}.channels[${index}].compare`, list: compares };
    }
  }
}

/**
 * Whether the registers tell apart what a setting tells apart: each division, mode and top of a timer, each of its outputs, and
 * each compare value. What two settings write alike cannot be read back, and one of them does what the other says. Gives the
 * first such pair with its path.
 */
export function alikeFault(part: Part): Fault | undefined {
  for (const [at, timer] of part.timers.entries()) {
    for (const { place, list } of comparisons(timer, `timers[${at}]`)) {
      const pair = alike(part, list);
      if (!pair) continue;
      const [one, other] = pair;
      return { path: place, sentence: `${place}: ${one.label} and ${other.label} give the same registers.` };
    }
  }
  return undefined;
}
