import type { Targets } from './kinds/index.ts';
import type { Phase, Sequence } from './sequence.ts';

/** The most characters in the name and in the id of a signal. */
export const LONGEST_NAME = 80;

/** What kinds of signal there are. */
type KindId = keyof Targets;

/** A kind together with its target. */
export type KindAndTarget = { [K in KindId]: { kind: K; target: Targets[K] } }[KindId];

/** The opposite of a signal on a second pin, with both low for at least the dead time (s) at each change. */
export type Opposite = { pin: string; deadS: number };

/**
 * One thing a pin must do. Without a pin any pin will do. It may follow a sequence, stand at a phase to another signal,
 * have to show its first edge within a time (s) of its timer's start, and want its opposite on another pin.
 */
export type Signal = KindAndTarget & {
  id: string;
  name: string;
  pin?: string;
  sequence?: Sequence;
  phase?: Phase;
  firstEdgeS?: number;
  complement?: Opposite;
};
