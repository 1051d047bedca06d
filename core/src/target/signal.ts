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

/** Kind of signal to its target's fields. */
export type Targets = { blink: BlinkTarget; tone: ToneTarget; dim: DimTarget; tick: TickTarget };

/** What kinds of signal there are. */
export type Kind = keyof Targets;

/** A kind together with its target. */
export type Aim = { [K in Kind]: { kind: K; target: Targets[K] } }[Kind];

/** One thing a pin must do. Without a pin any pin will do. */
export type Signal = Aim & { id: string; name: string; pin?: string };

/** The kinds in the order a list shows them, with the verb of their sentence. */
export const KINDS: Record<Kind, { verb: string; high: string }> = {
  blink: { verb: 'blinks', high: 'lit' },
  tone: { verb: 'sounds', high: 'high' },
  dim: { verb: 'dims', high: 'lit' },
  tick: { verb: 'ticks', high: 'busy' },
};
