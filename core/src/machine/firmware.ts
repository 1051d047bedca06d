/** Something that a handler does at a cycle after its start: a pin, a counter's register. */
export type Effect = {
  at: number;
  /** It happens at a cycle of the processor, for an event that came at another. */
  happen: (cycle: number, arrival: number) => void;
};

/** What one run of a handler's part does: how long it takes, where the model does not say, and its effects in order of time. */
type Played = { cycles?: number; effects: readonly Effect[] };

/** Where events come from that depend on what handlers write. */
export type EventSource = {
  /** The cycle of the next event. */
  next: () => number;
  /** The next event came. */
  took: () => void;
};

/**
 * The program as a simulation runs it, with a state of its own: one for each run. Tasks go by their place in the model; what is undefined is as the
 * model says.
 */
export type Firmware = {
  play: (task: number) => Played | undefined;
  source: (task: number) => EventSource | undefined;
};

/** A program that does nothing beside what the model says. */
export const NO_FIRMWARE: Firmware = { play: () => undefined, source: () => undefined };
