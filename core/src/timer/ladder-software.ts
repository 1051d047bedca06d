import type { Exact } from '../quantity/exact.ts';
import { clockOf, type ClockPath } from '../clock/path.ts';
import { divisionRange } from '../part/division.ts';
import type { Part } from '../part/types.ts';
import { clockRungs, prescalerRung, topRung, written, type Rung } from './ladder.ts';
import { outcomeUnder } from './outcome-of.ts';
import { holdTicks, reloadLatency, runTicks } from './run.ts';
import type { DelayLoopSetting, CaptureSetting, InterruptDriven } from './setting.ts';
import { resolveCapture } from './capture.ts';
import { resolveSoftware, type ResolvedSoftware } from './software.ts';

/** The run of a counter that its interrupt reloads: what is left of its width, and the clocks its write holds. */
function reloadRung(part: Part, resolved: ResolvedSoftware, runHz: Exact): Rung {
  const { timer, mode, division, setting } = resolved;
  const width = 2 ** timer.width;
  const { top } = mode;
  const hold = holdTicks(mode, division.n, division.scale, reloadLatency(part.cpu));
  const register = top.kind === 'reload' ? written(part, top.writes, setting) : undefined;
  const held =
    hold === 0
      ? ' )'
      : division.n === division.scale
        ? ` + ${hold} held )`
        : ` ), + ${hold / division.scale} clocks held`;
  const range = top.kind === 'reload' ? { min: width - 1 - top.max, max: width - 1 - top.min } : undefined;
  return {
    id: 'reload',
    label: 'Reload by interrupt',
    before: `÷ ( ${width} −`,
    value: width - (setting.top + 1),
    after: held.trimStart(),
    ...(range ? { choices: range } : {}),
    ...(register ? { register } : {}),
    hz: runHz,
  };
}

function runRung(part: Part, resolved: ResolvedSoftware, counterHz: Exact, runHz: Exact): Rung {
  const { mode } = resolved;
  if (mode.top.kind === 'reload') return reloadRung(part, resolved, runHz);
  const rung = topRung(part, resolved, counterHz);
  return mode.top.kind === 'moved' ? { ...rung, label: 'Match moved on by' } : rung;
}

function postscaleRung({ tick, setting }: ResolvedSoftware, interruptHz: Exact): Rung[] {
  if (!tick.postscaler || !('divider' in setting)) return [];
  const { min, max } = divisionRange(tick.postscaler);
  return [
    {
      id: 'postscale',
      label: 'Postscaler',
      before: '÷',
      value: setting.postscale ?? 1,
      after: '(interrupts only)',
      choices: { min, max },
      hz: interruptHz,
    },
  ];
}

/** What the program makes of the interrupts, down to the pin. */
function programRungs({ setting, mode }: ResolvedSoftware, interruptHz: Exact, hz: Exact): Rung[] {
  if (setting.drive === 'interrupt-pair') {
    const lag = mode.lag ? `+ ${mode.lag} ` : '';
    return [
      {
        id: 'compare',
        label: 'Second interrupt',
        before: 'high for',
        value: setting.compare,
        after: `${lag}of ${setting.top + mode.base}`,
        choices: { min: 0, max: setting.top },
        hz,
      },
    ];
  }
  const choices = { min: 1, max: 2 ** 31 };
  const counted = { id: 'divider', before: '÷', value: setting.divider, choices } as const;
  const interrupts = setting.divider === 1 ? 'interrupt' : 'interrupts';
  if (setting.drive === 'software-pwm') {
    return [
      { ...counted, label: 'Counted by program', after: 'interrupts', hz },
      {
        id: 'compare',
        label: 'Compared by program',
        before: 'high for',
        value: setting.compare,
        after: `of ${setting.divider}`,
        choices: { min: 0, max: setting.divider },
        hz,
      },
    ];
  }
  if (setting.pin === undefined) return [{ ...counted, label: 'A tick every', after: interrupts, hz }];
  const toggles = interruptHz.div(setting.divider);
  return [
    { ...counted, label: 'A toggle every', after: interrupts, hz: toggles },
    { id: 'toggle', label: 'Two toggles', before: '÷ 2', after: 'make a period', hz },
  ];
}

/** The way from the oscillator to a pin, or a tick, that interrupts make. @throws SettingError */
export function softwareRungs(part: Part, path: ClockPath, setting: InterruptDriven): Rung[] {
  const resolved = resolveSoftware(part, setting);
  const { timer, mode, division } = resolved;
  const clock = clockOf(path, timer.clock);
  const counterHz = clock.mul(division.scale).div(division.n);
  const run = runTicks(mode, division.n, division.scale, setting.top, reloadLatency(part.cpu));
  const partHz = clock.mul(division.scale).mul(mode.pwm?.grain ?? 1);
  const runHz = partHz.div(run);
  const interruptHz = runHz.div('postscale' in setting ? (setting.postscale ?? 1) : 1);
  const { frequency } = outcomeUnder(part, path, setting);
  return [
    ...clockRungs(path, timer.clock),
    prescalerRung(part, resolved, counterHz),
    runRung(part, resolved, counterHz, runHz),
    ...postscaleRung(resolved, interruptHz),
    ...programRungs(resolved, interruptHz, frequency),
  ];
}

/** The way from the oscillator to the count that an input's edges capture. @throws SettingError */
export function captureRungs(part: Part, path: ClockPath, setting: CaptureSetting): Rung[] {
  const resolved = resolveCapture(part, setting);
  const { timer, division } = resolved;
  const counterHz = clockOf(path, timer.clock).mul(division.scale).div(division.n);
  const run = topRung(part, resolved, counterHz);
  delete run.choices;
  return [
    ...clockRungs(path, timer.clock),
    prescalerRung(part, resolved, counterHz),
    { ...run, label: 'Slowest: a whole run' },
  ];
}

/** The way from the oscillator to a pin that the program itself times. @throws SettingError */
export function delayLoopRungs(part: Part, path: ClockPath, setting: DelayLoopSetting): Rung[] {
  const { loopCycles } = part.cpu;
  const passHz = clockOf(path, part.cpu.clock).div(loopCycles);
  const { frequency } = outcomeUnder(part, path, setting);
  return [
    ...clockRungs(path, part.cpu.clock),
    { id: 'pass', label: 'Pass of the loop', before: `÷ ${loopCycles}`, after: 'cycles', hz: passHz },
    {
      id: 'top',
      label: 'Passes in a period',
      before: '÷',
      value: setting.top,
      after: '',
      choices: { min: 1, max: 2 ** 31 },
      hz: frequency,
    },
    {
      id: 'compare',
      label: 'Passes high',
      before: 'high for',
      value: setting.compare,
      after: `of ${setting.top}`,
      choices: { min: 0, max: setting.top },
      hz: frequency,
    },
  ];
}
