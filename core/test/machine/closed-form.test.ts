import { clockPath } from '../../src/clock/path.ts';
import { planCpu } from '../../src/evaluate/cpu-model.ts';
import { settingsOf } from '../../src/evaluate/evaluate.ts';
import { tracedLanes } from '../../src/evaluate/traced.ts';
import { fitRequirement } from '../../src/fit/fit.ts';
import type { Part } from '../../src/part/types.ts';
import type { PlanSignal } from '../../src/plan/plan.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import { driveOf, outcomeUnder } from '../../src/timer/drives/index.ts';
import { hasTimer, type Setting } from '../../src/timer/setting.ts';
import { lanePieces } from '../../src/wave/merge.ts';
import { waveformSource } from '../../src/wave/source.ts';
import { waveformOf } from '../../src/wave/waveform.ts';
import { PARTS } from '../helpers/parts.ts';
import { planOn } from '../helpers/plan.ts';

const SECONDS = 0.5;

/** What handlers make of a pin: a tone, and pulses of 30 %. */
const SIGNALS: readonly PlanSignal[] = [
  { id: 'one', name: 'One', kind: 'tone', target: { frequencyHz: 100, frequencyTolerancePpm: 50_000 } },
  {
    id: 'one',
    name: 'One',
    kind: 'blink',
    target: { frequencyHz: 40, duty: 0.3, frequencyTolerancePpm: 50_000, dutyTolerance: 0.05 },
  },
];

/** One setting by interrupts for each drive, timer and mode of a part. */
function settingsFor(part: Part, signal: PlanSignal): Setting[] {
  const path = clockPath(part, planOn(part, signal).clock);
  const { candidates } = fitRequirement(part, path, requirementOf(signal));
  const byWay = new Map<string, Setting>();
  for (const { setting } of candidates) {
    if (driveOf(setting).cause !== 'interrupts' || !hasTimer(setting)) continue;
    const way = `${setting.drive} ${setting.timer} ${setting.mode}`;
    if (!byWay.has(way)) byWay.set(way, setting);
  }
  return [...byWay.values()];
}

/** How far the edges of a signal that is alone lie from the closed form at most and at least, rising and falling ones apart, in cycles. */
function spreads(
  part: Part,
  signal: PlanSignal,
  setting: Setting,
): { edges: number; spread: number; allowed: number } {
  const plan = planOn(part, { ...signal, setting });
  const path = clockPath(part, plan.clock);
  const lanes = tracedLanes(plan, part, SECONDS);
  const [lane] = lanes.ok ? lanes.value : [];
  if (!lane) throw new Error(`nothing of ${signal.name} can be followed`);
  const { model, cpuHz } = planCpu(plan, part, path, settingsOf(plan, part, path));
  const outcome = outcomeUnder(part, path, setting);
  const tickHz = outcome.tickHz.valueOf();
  const wanted = [...waveformSource(waveformOf(part, setting, outcome), tickHz).edges(0, SECONDS)];
  const made: number[] = [];
  for (const piece of lanePieces(lane, SECONDS)) for (const edge of piece) made.push(edge / lane.tickHz);
  const apart = made.map((edge, at) => (edge - (wanted[at] ?? NaN)) * cpuHz).slice(0, wanted.length);
  const spreadOf = (own: readonly number[]): number => Math.max(...own) - Math.min(...own);
  const spread = Math.max(...[0, 1].map((level) => spreadOf(apart.filter((_, at) => at % 2 === level))));
  // What reloads may lose; an instruction under way comes first, and a cycle of the processor is no whole number of ticks.
  const unsure = ((outcome.unsurePpm ?? 0) / 1e6) * SECONDS * cpuHz;
  return { edges: apart.length, spread, allowed: unsure + model.core.late + 1 + cpuHz / tickHz };
}

describe.each(PARTS.map((part) => [part.name, part] as const))('edges by interrupts on %s', (_, part) => {
  const ways = SIGNALS.flatMap((signal) => settingsFor(part, signal).map((setting) => ({ signal, setting })));

  it('follow the closed form as the program is played, for every drive, timer and mode', () => {
    expect(ways.length).toBeGreaterThan(0);
    for (const { signal, setting } of ways) {
      const { edges, spread, allowed } = spreads(part, signal, setting);
      expect({ setting, enough: edges > 20 }).toEqual({ setting, enough: true });
      expect({ setting, spread, within: spread <= allowed }).toEqual({ setting, spread, within: true });
    }
  });
});
