import { inputFit } from '../../fit/inputs/input-fit.ts';
import { hasTimer, type Setting } from '../../timer/setting.ts';
import { better, MAX_CPU, type CounterContext, type Shared } from './context.ts';
import { qualityLevel, roundedCpu, qualityOf, type Scales } from './quality.ts';

/** Inputs on one counter: it runs through its whole width at a division that serves them all. */
export function sharedInputs({ part, path, timer, mode, uses, scales }: CounterContext): Shared | undefined {
  const only = { ...part, timers: [timer] };
  const able = uses.map(({ request }) => {
    const { input } = request.requirement;
    const found = input ? inputFit(only, path, input, undefined, new Set()) : [];
    return found.filter(({ meets, setting }) => meets && hasTimer(setting) && setting.mode === mode.id);
  });
  const [first = [], ...others] = able;
  const prescalerOf = (setting: Setting): number => (hasTimer(setting) ? setting.prescaler : 0);
  const common = first.filter(({ setting }) =>
    others.every((list) => list.some((one) => prescalerOf(one.setting) === prescalerOf(setting))),
  );
  let best: Shared | undefined;
  for (const { setting } of common) {
    const made = able.flatMap(
      (list) => list.find((one) => prescalerOf(one.setting) === prescalerOf(setting)) ?? [],
    );
    const quality = Math.min(...made.map((one, at) => qualityOf(scales[at] as Scales, one)));
    const cpu = roundedCpu(made.reduce((sum, one) => sum + one.cpu, 0));
    const one: Shared = {
      prescaler: prescalerOf(setting),
      top: 'top' in setting ? setting.top : 0,
      shares: made.map(() => ({})),
      level: qualityLevel(quality),
      quality,
      cpu,
    };
    if (cpu <= MAX_CPU && better(one, best)) best = one;
  }
  return best;
}
