import Joi from 'joi';
import { lazily } from '../result/lazily.ts';
import { INHERITED } from '../result/inherited.ts';
import { LONGEST_NAME } from '../signal/signal.ts';

/** Cycles of the processor: always the same, or between a least and a greatest number. */
export type Cycles = number | { min: number; max: number };

/** When the events of a task come: at a fixed rate, at least so far apart, or at listed times, all in s. */
export type TaskArrivals =
  | { everyS: number; firstS?: number; jitterS?: number }
  | { leastS: number; spreadS?: number }
  | { timesS: number[] };

/** An interrupt that is no signal of the plan: a serial receiver, a bus, a pin event. */
export type PlanTask = {
  id: string;
  name: string;
  arrives: TaskArrivals;
  /** Cycles of its handler, without the way in and out. */
  cycles: Cycles;
  /** 0 is the most urgent; only where handlers can interrupt each other. */
  priority?: number;
  /** Its place in the vector table, which decides between those of one priority; last where absent. */
  vector?: number;
  /** When its flag goes: on the way in, at the start or the end of the handler, or never. Absent: as the part's do. */
  clears?: 'entry' | 'start' | 'end' | 'never';
  /** Its handler must have ended so long after the event, in s. */
  deadlineS?: number;
};

/** A part of the main loop in which interrupts are disabled. */
type MaskedPart = { name: string; everyS: number; cycles: number };

/** Something that the main loop does at an interval, by looking at a running count in each round. */
export type Poll = {
  name: string;
  everyS: number;
  /** Time of a count, 1 ms where absent, and the count's bits, 32 where absent. */
  countS?: number;
  bits?: 8 | 16 | 32;
  /** How counts are compared (see `machine/polling.ts`), and from when the next time counts. */
  comparison?: 'signed' | 'unsigned' | 'absolute';
  from?: 'due' | 'now';
};

/** What the main loop does: how long a round takes where nothing interrupts it, where it disables interrupts, what it polls. */
type MainLoop = { roundCycles?: number; masked?: MaskedPart[]; polls?: Poll[] };

/** What the processor does besides the signals of a plan. */
export type CpuLoad = { mainLoop?: MainLoop; tasks?: PlanTask[] };

/**
 * What is known of the handlers of a signal's interrupts: their length and their priority. Where two interrupts make its edges, `match` is the length of the one at the
 * match, if it has its own.
 */
export type HandlerFacts = { cycles?: Cycles; match?: Cycles; priority?: number };

/** The most tasks of a plan. */
const MOST_TASKS = 60;

/** The most listed times of a task. */
export const MOST_TIMES = 2000;

/** The shapes of `cpu` in a plan and of `handler` in a signal. */
export const cpuSchemas = lazily(() => {
  const seconds = Joi.number().greater(0).max(1e6);
  const upTo = Joi.number().min(0).max(1e6);
  const cycleCount = Joi.number().integer().min(0).max(1e9);
  const cycles = Joi.alternatives()
    .conditional(Joi.object(), {
      then: Joi.object({
        min: cycleCount.required(),
        max: cycleCount.min(Joi.ref('min')).required(),
      }),
      otherwise: cycleCount,
    })
    .label('cycles of a handler');
  const priority = Joi.number().integer().min(0).max(255).label('priority');
  const name = Joi.string().min(1).max(LONGEST_NAME).required();

  /** Exactly one of the three ways in which events come; the key that is there decides. */
  const arrives = Joi.object({
    everyS: seconds.label('period of a task in s'),
    firstS: upTo,
    jitterS: upTo.max(Joi.ref('everyS')).label('jitter of a task in s'),
    leastS: seconds.label('least distance of a task in s'),
    spreadS: upTo,
    timesS: Joi.array().items(upTo).min(1).max(MOST_TIMES).label('times of a task in s'),
  })
    .xor('everyS', 'leastS', 'timesS')
    .with('firstS', 'everyS')
    .with('jitterS', 'everyS')
    .with('spreadS', 'leastS');

  const task = Joi.object({
    id: Joi.string()
      .pattern(/^[A-Za-z0-9_-]+$/)
      .max(LONGEST_NAME)
      .invalid(...INHERITED)
      .required(),
    name: name.label('name of a task'),
    arrives: arrives.required(),
    cycles: cycles.required(),
    priority,
    vector: Joi.number().integer().min(0).max(1000),
    clears: Joi.string().valid('entry', 'start', 'end', 'never'),
    deadlineS: seconds.label('deadline of a task in s'),
  });
  return {
    handler: Joi.object({ cycles, match: cycles, priority }),
    cpu: Joi.object({
      mainLoop: Joi.object({
        roundCycles: cycleCount.min(1).label('cycles of a round of the main loop'),
        masked: Joi.array()
          .items(
            Joi.object({
              name: name.label('name of a masked section'),
              everyS: seconds.required().label('period of a masked section in s'),
              cycles: cycleCount.min(1).required().label('cycles of a masked section'),
            }),
          )
          .max(20),
        polls: Joi.array()
          .items(
            Joi.object({
              name: name.label('name of what is polled'),
              everyS: seconds.required().label('interval of what is polled in s'),
              countS: seconds.label('time of a count in s'),
              bits: Joi.number().valid(8, 16, 32),
              comparison: Joi.string().valid('signed', 'unsigned', 'absolute'),
              from: Joi.string().valid('due', 'now'),
            }),
          )
          .max(20),
      }),
      tasks: Joi.array().items(task).max(MOST_TASKS).unique('id'),
    }),
  };
});
