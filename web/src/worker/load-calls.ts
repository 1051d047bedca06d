import {
  clockPath,
  evaluateSetting,
  failed,
  type Knob,
  type KnobReport,
  knobReport,
  type Load,
  type LoadReport,
  type Part,
  type Plan,
  planWaveforms,
  type PlanSignal,
  type Result,
  settingAt,
  type Setting,
  settingsOf,
  type SignalEvaluation,
  soundOf,
  soundOfEdges,
  succeeded,
  triedLoad,
  waveformSource,
  withoutKey,
} from '@herzschlag/core';
import type { PlanKey } from './engine.worker.ts';

type Held = (key: PlanKey) => Promise<{ plan: Plan; part: Part }>;

/** A sound: samples from -1 to 1 and how many there are in a second. */
export type Sound = { samples: Float32Array; rate: number };

/** The most edges that are turned into sound. */
const MOST_EDGES = 5_000_000;

type Placed = { part: Part; path: ReturnType<typeof clockPath>; signal: PlanSignal; setting: Setting };

/** What the engine answers about what hangs on the pins. */
export function loadCalls(held: Held) {
  const placed = async (key: PlanKey, id: string): Promise<Result<Placed>> => {
    const { plan, part } = await held(key);
    const path = clockPath(part, plan.clock);
    const signal = plan.signals.find((one) => one.id === id);
    const setting = settingsOf(plan, part, path).get(id);
    return signal && setting
      ? succeeded({ part, path, signal, setting })
      : failed('No setting makes this signal, so nothing moves its load.');
  };
  return {
    /** What a load would do with a signal, before it is in the plan. */
    load: async (key: PlanKey, id: string, load: Load): Promise<Result<LoadReport>> => {
      const own = await placed(key, id);
      if (!own.ok) return own;
      const { part, path, signal, setting } = own.value;
      return succeeded(triedLoad(part, signal, load, evaluateSetting(part, path, signal, setting)));
    },
    /** What a knob makes of its turn, before it is in the plan. */
    knob: async (key: PlanKey, id: string, knob: Knob): Promise<Result<KnobReport>> => {
      const own = await placed(key, id);
      if (!own.ok) return own;
      const { part, path, signal, setting } = own.value;
      return knobReport(part, path, signal, knob, setting);
    },
    /** What a signal does at one reading of its knob. */
    knobAt: async (
      key: PlanKey,
      id: string,
      knob: Knob,
      reading: number,
    ): Promise<Result<SignalEvaluation>> => {
      const own = await placed(key, id);
      if (!own.ok) return own;
      const { part, path, signal, setting } = own.value;
      const turned = settingAt(part, path, signal, knob, setting, reading);
      if (!turned.ok) return turned;
      return succeeded(evaluateSetting(part, path, withoutKey(signal, 'knob'), turned.value));
    },
    /** What a captured pin sounds like: its edges in s from the first moment on, and its level there. */
    heardEdges: (edges: Float64Array, start: 0 | 1, seconds: number, rate: number): Sound => ({
      samples: soundOfEdges({ pieces: [edges], start, fromTick: 0, tickHz: 1 }, seconds, rate),
      rate,
    }),
    /** What a pin sounds like for some seconds from its start. */
    heard: async (key: PlanKey, id: string, seconds: number, rate: number): Promise<Result<Sound>> => {
      const { plan, part } = await held(key);
      const own = planWaveforms(plan, part).find((one) => one.signal === id);
      if (!own) return failed('No setting makes this signal, so there is nothing to hear.');
      const { waveform, tickHz } = own;
      if (waveformSource(waveform, tickHz).count(0, seconds) > MOST_EDGES) {
        return failed('This is far too fast to be heard.');
      }
      return succeeded({ samples: soundOf(waveform, tickHz, seconds, rate), rate });
    },
  };
}
