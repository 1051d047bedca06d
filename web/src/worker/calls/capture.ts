import {
  CaptureError,
  compareCapture,
  failed,
  readCapture,
  soundOfEdges,
  succeeded,
  thresholded,
  type Capture,
  type Comparison,
  type Result,
  type Threshold,
  type WireMap,
} from '@herzschlag/core';
import type { HeldPlans, PlanKey } from '../held-plans.ts';
import type { Sound } from './load.ts';

/** Bytes of a file that are read at once. */
const PIECE = 1 << 21;

async function* piecesOf(file: File): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < file.size; at += PIECE) {
    yield new Uint8Array(await file.slice(at, at + PIECE).arrayBuffer());
  }
}

/** What the engine answers about a capture. It holds on to one, by its key, for the calls that follow. */
export function captureCalls(held: HeldPlans) {
  let kept: { key: string; capture: Capture } | undefined;
  return {
    /** Reads a capture file, telling how far it has come; the engine holds on to it for `compare`. */
    openCapture: async (
      file: File,
      key: string,
      progress: (bytes: number) => unknown,
    ): Promise<Result<Capture>> => {
      try {
        const stop = { wanted: false };
        const capture = await readCapture(file.name, piecesOf(file), (bytes) => {
          void Promise.resolve(progress(bytes)).then((answer) => {
            stop.wanted ||= answer === true;
          });
          return stop.wanted;
        });
        if (!capture) return failed('Reading was stopped.');
        kept = { key, capture };
        return succeeded(capture);
      } catch (error) {
        if (error instanceof CaptureError) return failed(`${file.name}: ${error.message}`);
        throw error;
      }
    },
    /** Gives the engine a capture that was stored. */
    holdCapture: (key: string, capture: Capture): void => {
      kept = { key, capture };
    },
    /** Moves the thresholds of a wire that was captured in volts; undefined where the engine has another capture. */
    rethreshold: (key: string, wire: string, threshold: Threshold): Capture | undefined => {
      if (kept?.key !== key) return undefined;
      const wires = kept.capture.wires.map((one) =>
        one.name === wire && one.analog
          ? thresholded(one.name, one.analog.times, one.analog.values, threshold)
          : one,
      );
      kept = { key, capture: { ...kept.capture, wires } };
      return kept.capture;
    },
    /** Compares the capture of that key with a plan; undefined where the engine has another one. */
    compare: async (plan: PlanKey, key: string, wires: WireMap): Promise<Comparison | undefined> => {
      const { plan: own, part } = await held.plan(plan);
      return kept?.key === key ? compareCapture(own, part, kept.capture, wires) : undefined;
    },
    /** What a captured pin sounds like: its edges in s from the first moment on, and its level there. */
    heardEdges: (edges: Float64Array, start: 0 | 1, seconds: number, rate: number): Sound => ({
      samples: soundOfEdges({ pieces: [edges], start, fromTick: 0, tickHz: 1 }, seconds, rate),
      rate,
    }),
  };
}
