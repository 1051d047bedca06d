import type { Phase, Sequence } from './sequence.ts';

/** A number in base units: a JSON number, or an exact fraction as text ("16000000/15999"). */
export type Amount = number | string;

/** Flashes: a frequency or a period, and a duty or a time lit. */
export type BlinkTarget = {
  frequencyHz?: Amount;
  periodS?: Amount;
  duty?: Amount;
  onS?: Amount;
  frequencyTolerancePpm?: number;
  dutyTolerance?: number;
};

/** Sounds: a frequency or a note with cents, and a tolerance in cents or ppm. */
export type ToneTarget = {
  frequencyHz?: Amount;
  note?: string;
  cents?: number;
  toleranceCents?: number;
  frequencyTolerancePpm?: number;
  duty?: Amount;
  dutyTolerance?: number;
};

/** Dims: at least so fast, in at least so many steps, at a duty. */
export type DimTarget = {
  minHz: Amount;
  minSteps: number;
  duty?: Amount;
  dutyTolerance?: number;
};

/** Ticks for the program, on no pin: a frequency or a period, and how far a tick may stand off its place. */
export type TickTarget = {
  frequencyHz?: Amount;
  periodS?: Amount;
  frequencyTolerancePpm?: number;
  jitterS?: number;
};

/**
 * Flashes on something that moves: a frequency, a period or a speed in rpm with images a turn, or a span to move in; a
 * time lit or a duty.
 */
export type StrobeTarget = {
  frequencyHz?: Amount;
  periodS?: Amount;
  rpm?: Amount;
  images?: number;
  minHz?: Amount;
  maxHz?: Amount;
  onS?: Amount;
  duty?: Amount;
  frequencyTolerancePpm?: number;
  dutyTolerance?: number;
};

/** A voltage behind a filter: the mean of a pulse train between 0 V and the supply, and how much ripple may be left. */
export type LevelTarget = {
  volts: Amount;
  supplyV: Amount;
  toleranceV?: number;
  rippleV?: number;
  ohms?: number;
  farads?: number;
  minHz?: Amount;
};

/** A pulse of a width in each frame, such as a servo wants: one width, or a span to move in, and the finest step. */
export type PulseTarget = {
  frameHz: Amount;
  widthS?: Amount;
  minS?: Amount;
  maxS?: Amount;
  stepS?: number;
  /** The turn that the span from minS to maxS stands for, in degrees. */
  degrees?: number;
  frameTolerancePpm?: number;
  widthToleranceS?: number;
};

/** Bits for a string of addressable LEDs: the time of a bit, how long a zero and a one are high, within what. */
export type StringTarget = {
  bitS: Amount;
  zeroS: Amount;
  oneS: Amount;
  toleranceS?: number;
  leds: number;
  frameHz?: Amount;
};

/** An input: signals between two frequencies are measured, each period to a share of itself. */
export type MeasureTarget = { minHz: Amount; maxHz: Amount; resolution?: number };

/** Kind of signal to its target's fields. */
export type Targets = {
  blink: BlinkTarget;
  strobe: StrobeTarget;
  tone: ToneTarget;
  dim: DimTarget;
  level: LevelTarget;
  pulse: PulseTarget;
  tick: TickTarget;
  string: StringTarget;
  measure: MeasureTarget;
};

/** What kinds of signal there are. */
export type Kind = keyof Targets;

/** A kind together with its target. */
export type Aim = { [K in Kind]: { kind: K; target: Targets[K] } }[Kind];

/** The opposite of a signal on a second pin, both low for at least so many seconds between one and the other. */
export type Opposite = { pin: string; deadS: number };

/**
 * One thing a pin must do. Without a pin any pin will do. It may follow a score, stand at a phase to another signal,
 * have to show its first edge within a time (s) of its timer's start, and want its opposite on another pin.
 */
export type Signal = Aim & {
  id: string;
  name: string;
  pin?: string;
  sequence?: Sequence;
  phase?: Phase;
  firstEdgeS?: number;
  complement?: Opposite;
};

/** The kinds in the order a list shows them, with the verb of their sentence. */
export const KINDS: Record<Kind, { verb: string; high: string }> = {
  blink: { verb: 'blinks', high: 'lit' },
  strobe: { verb: 'strobes', high: 'lit' },
  tone: { verb: 'sounds', high: 'high' },
  dim: { verb: 'dims', high: 'lit' },
  level: { verb: 'pass', high: 'high' },
  pulse: { verb: 'pulses', high: 'high' },
  tick: { verb: 'ticks', high: 'busy' },
  string: { verb: 'sends', high: 'high' },
  measure: { verb: 'measures', high: 'high' },
};
