import {
  clockPath,
  evaluateSetting,
  failed,
  knobReport,
  planWaveforms,
  settingAtReading,
  settingsOf,
  soundOf,
  succeeded,
  triedLoad,
  waveformSource,
  withoutKey,
  type EvaluationMemory,
  type Knob,
  type KnobReport,
  type Load,
  type LoadReport,
  type Part,
  type Plan,
  type PlanSignal,
  type Result,
  type Setting,
  type SignalEvaluation,
} from '@herzschlag/core';

/** A sound: samples from -1 to 1 and how many there are in a second. */
export type Sound = { samples: Float32Array; rate: number };

/** The most edges that are turned into sound. */
const MOST_EDGES = 5_000_000;

type Placed = { path: ReturnType<typeof clockPath>; signal: PlanSignal; setting: Setting };

function placed(memory: EvaluationMemory, plan: Plan, part: Part, id: string): Result<Placed> {
  const path = clockPath(part, plan.clock);
  const signal = plan.signals.find((one) => one.id === id);
  const setting = settingsOf(plan, part, path, memory).get(id);
  return signal && setting
    ? succeeded({ path, signal, setting })
    : failed('No setting makes this signal, so nothing moves its load.');
}

/** What the engine answers about what hangs on the pins of a plan. */
export const loadCalls = (memory: EvaluationMemory) => ({
  /** What a load would do with a signal, before it is in the plan. */
  load: (plan: Plan, part: Part, id: string, load: Load): Result<LoadReport> => {
    const own = placed(memory, plan, part, id);
    if (!own.ok) return own;
    const { path, signal, setting } = own.value;
    return succeeded(triedLoad(part, signal, load, evaluateSetting(part, path, signal, setting)));
  },
  /** What a knob makes of its turn, before it is in the plan. */
  knob: (plan: Plan, part: Part, id: string, knob: Knob): Result<KnobReport> => {
    const own = placed(memory, plan, part, id);
    if (!own.ok) return own;
    const { path, signal, setting } = own.value;
    return knobReport(part, path, signal, knob, setting);
  },
  /** What a signal does at one reading of its knob. */
  knobAt: (plan: Plan, part: Part, id: string, knob: Knob, reading: number): Result<SignalEvaluation> => {
    const own = placed(memory, plan, part, id);
    if (!own.ok) return own;
    const { path, signal, setting } = own.value;
    const turned = settingAtReading(part, path, signal, knob, setting, reading);
    if (!turned.ok) return turned;
    return succeeded(evaluateSetting(part, path, withoutKey(signal, 'knob'), turned.value));
  },
  /** What a pin sounds like for some seconds from its start. */
  heard: (plan: Plan, part: Part, id: string, seconds: number, rate: number): Result<Sound> => {
    const own = planWaveforms(plan, part, memory).find((one) => one.signal === id);
    if (!own) return failed('No setting makes this signal, so there is nothing to hear.');
    const { waveform, tickHz } = own;
    if (waveformSource(waveform, tickHz).count(0, seconds) > MOST_EDGES) {
      return failed('This is far too fast to be heard.');
    }
    return succeeded({ samples: soundOf(waveform, tickHz, seconds, rate), rate });
  },
});
