'use client';

import { COLOUR, laneColour } from '../../theme/colour.ts';
import { useMemo } from 'react';
import {
  type EdgeSource,
  type SignalWaveform,
  envelope,
  firstEdge,
  kindOf,
  meanBetween,
  oppositeId,
  type PlanSignal,
  reachOf,
  waveformSource,
  wireSource,
} from '@herzschlag/core';
import { simulatedSource } from '../../components/drawing/simulated.ts';
import type { Volts } from '../../components/drawing/lanes.ts';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { useEngine } from '../../worker/useEngine.ts';
import type { CaptureState } from './useCapture.ts';

/** A lane of the trace: a signal with what was computed and what was captured, or a wire that shows none. */
export type TraceLane = {
  id: string;
  name: string;
  colour: string;
  computed?: EdgeSource;
  captured?: EdgeSource;
  /** What interrupts make of it, simulated together with all others. */
  simulated?: EdgeSource;
  /** What a captured lane was thresholded from, for drawing. */
  volts?: Volts;
  /** The voltage of a high level, where the target says it. */
  supplyV?: number;
  /** The wire that was captured. */
  wire?: string;
};

/** Where the edges of a lane are measured: in the capture, else as interrupts make them, else as they were computed. */
export function shownSource(lane: TraceLane | undefined): EdgeSource | undefined {
  return lane?.captured ?? lane?.simulated ?? lane?.computed;
}

/** How a capture is laid over the plan: its time 0 in s of the capture, and the clock ratio taken out of it. */
type Laid = { startS: number; ratio: number };

/** Where the plan's start lies in the capture, by the edges of one signal: the chosen one, else the first that has any. */
function laidBy(
  { row, comparison }: Pick<CaptureState, 'row' | 'comparison'>,
  lanes: readonly SignalWaveform[],
  selected: string,
  onPlanClock: boolean,
): Laid {
  const pairs = comparison?.pairs ?? [];
  const pair =
    pairs.find((one) => one.signal === selected && one.startS !== undefined) ??
    pairs.find((one) => one.startS !== undefined);
  const own = lanes.find((lane) => lane.signal === pair?.signal);
  const ratio = onPlanClock ? (comparison?.ratio ?? 1) : 1;
  if (pair?.startS === undefined || !own)
    return { startS: row ? row.capture.from / row.capture.tickHz : 0, ratio };
  const first = (firstEdge(own.waveform) ?? 0) / own.tickHz;
  return { startS: pair.startS - first / ratio, ratio };
}

/** The voltage of a high level, where the kind of a signal knows one. */
function supplyOf(signal: PlanSignal): { supplyV?: number } {
  const supplyV = kindOf(signal).supplyV?.(signal.target);
  return supplyV === undefined ? {} : { supplyV };
}

/** How long interrupts are simulated for the trace: 10 s, or until so many events. */
const SIMULATED = { seconds: 10, most: 50_000, seed: 1 };

const NO_WAVEFORMS: SignalWaveform[] = [];

/** All lanes of the plan and its capture. */
export function useLanes(
  editor: CaptureState,
  selected: string,
  onPlanClock: boolean,
): { lanes: TraceLane[]; computed: SignalWaveform[] } {
  const { plan, evaluation, report } = usePlanContext();
  const { value: computed = NO_WAVEFORMS } = useEngine(
    ['waveforms', plan],
    (engine, key) => engine.waveforms(key(plan)),
    { keep: true, report },
  );

  const { value: picture } = useEngine(
    ['simulated', plan],
    (engine, key) => engine.interrupts(key(plan), SIMULATED),
    { keep: true, report, enabled: evaluation.interrupts.edges.size > 0 },
  );
  const { row, comparison } = editor;
  const lanes = useMemo(() => {
    const laid = laidBy(
      { ...(row ? { row } : {}), ...(comparison ? { comparison } : {}) },
      computed,
      selected,
      onPlanClock,
    );
    const wireOf = (name: string): EdgeSource | undefined => {
      const wire = row?.capture.wires.find((one) => one.name === name);
      return wire && row ? wireSource(wire, row.capture, laid.startS, laid.ratio) : undefined;
    };
    const voltsOf = (name: string): Volts | undefined => {
      const analog = row?.capture.wires.find((one) => one.name === name)?.analog;
      return analog && row
        ? {
            ...reachOf(analog),
            envelope: (from, to, parts) => envelope(analog, row.capture, laid, from, to, parts),
            mean: (one, other) => meanBetween(analog, row.capture, laid, one, other),
          }
        : undefined;
    };
    const oppositeOf = (signal: { id: string }, colour: string): TraceLane[] => {
      const lane = computed.find((one) => one.signal === oppositeId(signal.id));
      if (!lane) return [];
      return [
        { id: lane.signal, name: lane.name, colour, computed: waveformSource(lane.waveform, lane.tickHz) },
      ];
    };
    const own = plan.signals.map((signal, index): TraceLane => {
      const lane = computed.find((one) => one.signal === signal.id);
      const wire = comparison?.pairs.find((one) => one.signal === signal.id)?.wire;
      const captured = wire === undefined ? undefined : wireOf(wire);
      const volts = wire === undefined ? undefined : voltsOf(wire);
      const made = picture?.edges.get(signal.id);
      return {
        id: signal.id,
        name: signal.name,
        colour: laneColour(index),
        ...(picture && made && !captured
          ? { simulated: simulatedSource(made, picture.cpu.cpuHz, picture.run.cycles) }
          : {}),
        ...supplyOf(signal),
        ...(lane ? { computed: waveformSource(lane.waveform, lane.tickHz) } : {}),
        ...(captured && wire !== undefined ? { captured, wire } : {}),
        ...(volts ? { volts } : {}),
      };
    });
    const others = (comparison?.unmapped ?? []).slice(0, 24).map((wire): TraceLane => {
      const captured = wireOf(wire);
      const volts = voltsOf(wire);
      return {
        id: `wire ${wire}`,
        name: wire,
        colour: COLOUR.faint,
        wire,
        ...(captured ? { captured } : {}),
        ...(volts ? { volts } : {}),
      };
    });
    const all = own.flatMap((lane) => [lane, ...oppositeOf(lane, lane.colour)]);
    return [...all, ...others];
  }, [plan.signals, computed, picture, comparison, row, selected, onPlanClock]);
  return { lanes, computed };
}
