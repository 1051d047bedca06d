import Joi from 'joi';
import { lazily } from '../result/lazily.ts';
import { clockSchemas } from './clock-schema.ts';
import { codeSchema, identifierSchema } from './code-schema.ts';
import { schemaWords } from './schema-words.ts';
import { PART_VERSION } from './versions.ts';

/** A register with its fields. */
function registerSchema(): Joi.Schema {
  const { condition, whole } = schemaWords();
  const identifier = identifierSchema();
  return Joi.object({
    name: identifier.required(),
    address: whole.max(2 ** 40).required(),
    width: Joi.number().valid(8, 16, 32).required(),
    reset: whole.max(2 ** 32 - 1).required(),
    strobe: Joi.boolean(),
    taken: condition,
    fields: Joi.object()
      .pattern(identifier, Joi.array().ordered(whole.max(31).required(), whole.max(31).required()).length(2))
      .required(),
  });
}

/** Where the highest count of a mode comes from. */
function topSchema(): Joi.Schema {
  const { cycles, id, place, whole, writes } = schemaWords();
  return Joi.object({
    kind: Joi.string().valid('fixed', 'register', 'channel', 'power', 'reload', 'moved').required(),
    value: whole
      .max(2 ** 53 - 1)
      .when('kind', { is: 'fixed', then: Joi.required(), otherwise: Joi.forbidden() }),
    channel: id.when('kind', { is: 'channel', then: Joi.required(), otherwise: Joi.forbidden() }),
    writes: writes.when('kind', { is: 'fixed', then: Joi.forbidden(), otherwise: Joi.required() }),
    running: writes.when('kind', { not: 'register', then: Joi.forbidden() }),
    min: whole.max(2 ** 53 - 1).when('kind', {
      is: Joi.valid('register', 'channel', 'reload', 'moved'),
      then: Joi.required(),
      otherwise: Joi.forbidden(),
    }),
    max: whole.max(2 ** 53 - 1).when('kind', {
      is: Joi.valid('register', 'channel', 'reload', 'moved'),
      then: Joi.required(),
      otherwise: Joi.forbidden(),
    }),
    hold: cycles.when('kind', { is: 'reload', then: Joi.required(), otherwise: Joi.forbidden() }),
    bytes: Joi.object({
      upper: place.required(),
      lower: place.required(),
      // The shortest sequence has nine instructions; files from before there was an assembler form meant that many.
      cycles: whole.min(9).max(100).default(9),
      latched: Joi.boolean(),
    }).when('kind', {
      not: 'reload',
      then: Joi.forbidden(),
    }),
    clears: Joi.boolean().when('kind', { is: 'reload', then: Joi.required(), otherwise: Joi.forbidden() }),
    minBits: whole.max(32).when('kind', { is: 'power', then: Joi.required(), otherwise: Joi.forbidden() }),
    maxBits: whole.max(32).when('kind', { is: 'power', then: Joi.required(), otherwise: Joi.forbidden() }),
  });
}

/** When a new value is taken over. */
function updateSchema(): Joi.Schema {
  return Joi.string().valid('immediate', 'top', 'bottom').required();
}

/** A way in which a timer counts. */
function modeSchema(): Joi.Schema {
  const { id, name, place, whole, writes } = schemaWords();
  const top = topSchema();
  const update = updateSchema();
  return Joi.object({
    id: id.required(),
    name: name.required(),
    count: Joi.string().valid('up', 'updown').required(),
    base: Joi.number().valid(0, 1).required(),
    top: top.required(),
    pwm: Joi.object({
      channels: Joi.array().items(id).required(),
      high: Joi.string().valid('compare', 'compare+1').required(),
      grain: whole.min(1).max(256),
      bits: whole.min(1).max(32),
      changes: Joi.string().valid('match', 'toggle'),
      full: Joi.string().valid('top'),
      spread: Joi.boolean(),
      turned: Joi.object().pattern(id, writes),
    }),
    toggle: Joi.object({ channels: Joi.array().items(id).required() }),
    lag: whole.max(4),
    tick: id,
    update: Joi.object({ top: update, compare: update, match: update.optional() }).required(),
    writes: writes.required(),
    start: writes,
    lead: whole.min(1).max(256),
    neutral: Joi.array().items(place).max(40),
    same: Joi.array().items(writes),
  });
}

/** An interrupt: how it is enabled, and how its flag clears. */
function interruptSchema(): Joi.Schema {
  const { place, prescaler, writes } = schemaWords();
  const identifier = identifierSchema();
  return Joi.object({
    vector: identifier.required(),
    handler: identifier,
    number: Joi.number().integer().min(-1000).max(100_000).required(),
    enable: writes.required(),
    disable: writes,
    flag: place.required(),
    status: place,
    route: place,
    polled: Joi.alternatives().try(place, Joi.valid(false)),
    pollWith: writes,
    rearm: writes,
    clear: Joi.string()
      .valid('entry', 'entry-or-one', 'write-one', 'write-zero', 'write-zeros', 'read', 'none')
      .default('entry'),
    postscaler: prescaler,
  });
}

/** The dead times that a timer can keep. */
function deadBandsSchema(): Joi.Schema {
  const { cycles, writes } = schemaWords();
  return Joi.array().items(
    Joi.object({
      min: cycles.required(),
      max: cycles.required(),
      step: cycles.min(1).required(),
      writes: writes.required(),
    }),
  );
}

/** A timer with its modes, channels and captures. */
function timerSchema(): Joi.Schema {
  const { condition, id, name, place, prescaler, whole, writes } = schemaWords();
  const mode = modeSchema();
  const interrupt = interruptSchema();
  const deadBands = deadBandsSchema();
  return Joi.object({
    id: id.required(),
    name: name.required(),
    variantOf: id,
    width: whole.min(1).max(64).required(),
    clock: id.required(),
    prescaler: prescaler.required(),
    modes: Joi.array().items(mode).min(1).max(200).unique('id').required(),
    channels: Joi.array()
      .items(
        Joi.object({
          id: id.required(),
          name: name.required(),
          compare: writes.required(),
          forms: Joi.array().items(Joi.object({ when: writes.required(), compare: writes.required() })),
          running: writes,
          commit: writes,
          rest: Joi.array().items(writes),
          queue: Joi.object({
            writes: writes.required(),
            data: place.required(),
            room: condition.required(),
            empty: condition.required(),
            gap: place.required(),
          }),
          outputs: Joi.array()
            .items(
              Joi.object({
                pin: id.required(),
                drive: Joi.string().valid('pwm', 'toggle').required(),
                polarity: Joi.string().valid('normal', 'inverted').required(),
                writes: writes.required(),
                low: writes,
                same: Joi.array().items(writes),
                takes: Joi.array().items(id),
              }),
            )
            .required(),
          complement: Joi.array().items(
            Joi.object({ pin: id.required(), beside: Joi.array().items(id), writes: writes.required() }),
          ),
          deadTime: deadBands,
          interrupt,
        }),
      )
      .unique('id')
      .required(),
    captures: Joi.array().items(
      Joi.object({
        id: id.required(),
        name: name.required(),
        mode: id.required(),
        value: Joi.array().items(place).min(1).max(2).required(),
        interrupt: interrupt.required(),
        inputs: Joi.array()
          .items(Joi.object({ pin: id.required(), writes: writes.required() }))
          .required(),
      }),
    ),
    deadTime: deadBands,
    counter: place,
    preset: Joi.boolean().when('counter', { not: Joi.exist(), then: Joi.forbidden() }),
    interrupts: Joi.object({ overflow: interrupt, capture: interrupt }).required(),
    sequence: Joi.array()
      .items(
        Joi.object({
          register: place.required(),
          without: Joi.array().items(Joi.string()),
          until: condition,
        }),
      )
      .required(),
    power: writes,
    commands: Joi.array().items(writes),
    halt: Joi.array().items(writes),
    ready: Joi.array().items(condition),
    neutral: Joi.array().items(place),
    sharesPrescalerWith: Joi.array().items(id),
  });
}

/** A pin with what makes it an output and what the program drives it by. */
function pinSchema(): Joi.Schema {
  const { condition, id, name, text, whole, writes } = schemaWords();
  return Joi.object({
    id: id.required(),
    port: name.required(),
    bit: whole.max(63).required(),
    package: Joi.object()
      .pattern(Joi.string(), Joi.alternatives().try(whole, Joi.string().max(8)))
      .required(),
    idle: writes.required(),
    ready: Joi.array().items(condition).max(16),
    enable: writes.required(),
    software: Joi.object({
      output: writes.required(),
      high: writes.required(),
      low: writes.required(),
    }),
    note: text,
  });
}

/** What the operations of C take; where a file does not say, what a small processor of 8 bits may take. */
function operationsSchema(): Joi.Schema {
  const { cycles } = schemaWords();
  const range = (min: number, max: number): Joi.Schema =>
    Joi.object({ min: cycles.required(), max: cycles.min(Joi.ref('min')).required() }).default({ min, max });
  return Joi.object({
    word: Joi.valid(1, 2, 4).default(1),
    frame: range(4, 16),
    save: cycles.default(4),
    load: range(1, 4),
    store: range(1, 4),
    read: range(1, 4),
    write: range(1, 4),
    compute: range(0, 4),
    constant: cycles.default(2),
    bit: Joi.object({ cycles: cycles.required(), last: cycles.required() }),
    branch: range(1, 4),
    index: range(4, 24),
    table: range(2, 14),
    call: range(4, 70),
    exclude: range(2, 10),
  }).default();
}

/** The processor: the cycles it takes for what the code does, and its priorities. */
function cpuSchema(): Joi.Schema {
  const { cycles, id, place, whole, writes } = schemaWords();
  const identifier = identifierSchema();
  return Joi.object({
    clock: id.required(),
    entryCycles: cycles.required(),
    reloadCycles: cycles.default(3),
    exitCycles: cycles.required(),
    lateCycles: cycles.default(3),
    handlerCycles: cycles.min(1).default(24),
    operations: operationsSchema(),
    loopCycles: cycles.min(1).default(4),
    bitLoop: Joi.object({
      store: Joi.object({
        cycles: cycles.min(1).required(),
        last: cycles.required(),
        beyond: cycles.min(1).required(),
      }).required(),
      test: cycles.min(1).required(),
      count: cycles.min(1).required(),
      carry: cycles.min(1),
      read: cycles.min(1),
      fetch: cycles.min(1).required(),
      back: cycles.min(1).required(),
    }),
    loopJitterCycles: Joi.alternatives().try(cycles, Joi.string().valid('none')).default(0),
    feedCycles: cycles.min(1).default(16),
    sendCycles: cycles.min(1),
    tailCycles: cycles.max(Joi.ref('entryCycles')),
    stepsBetween: Joi.boolean(),
    transfers: Joi.boolean(),
    callCycles: cycles,
    priorities: Joi.object({
      scheme: Joi.string().valid('levels', 'fixed', 'single').required(),
      levels: whole
        .min(1)
        .max(256)
        .when('shared', { is: true, then: Joi.valid(2) })
        .required(),
      masks: Joi.valid(true),
      shared: Joi.valid(true),
      fields: Joi.object({
        numbered: Joi.string()
          .pattern(/^[A-Za-z_](?:[A-Za-z0-9_]|%[nw])*(?:\.[A-Za-z_](?:[A-Za-z0-9_]|%[nw])*)?$/, 'place')
          .max(100)
          .required(),
        vectors: Joi.object().pattern(identifier, place).max(100),
        scale: whole
          .min(1)
          .max(2 ** 31)
          .required(),
        most: whole.max(2 ** 31),
        with: writes,
      }),
    }).default({ scheme: 'fixed', levels: 1 }),
  }).required();
}

/** The shape of a part file: what `part/types.ts` says in types. What its names refer to is checked after it. */
export const partSchema = lazily(() => {
  const { hertz, id, name, text } = schemaWords();
  const { bringUp, clock } = clockSchemas();
  return Joi.object({
    format: Joi.string().valid('herzschlag-part').required(),
    version: Joi.number().valid(PART_VERSION).required(),
    id: id.required(),
    name: name.required(),
    about: text.required(),
    registers: Joi.array().items(registerSchema()).min(1).max(5000).unique('name').required(),
    clocks: Joi.array().items(clock).min(1).max(200).unique('id').required(),
    bringUp,
    defaultClock: Joi.object({
      source: id.required(),
      sourceHz: hertz.required(),
      settings: Joi.object().pattern(Joi.string(), Joi.alternatives().try(Joi.number(), id)),
    }).required(),
    timers: Joi.array().items(timerSchema()).min(1).max(100).unique('id').required(),
    pins: Joi.array().items(pinSchema()).unique('id').min(1).required(),
    cpu: cpuSchema(),
    limits: Joi.object({
      pinMilliamps: Joi.number().min(0).max(1e6).required(),
      maxHz: hertz.required(),
    }).required(),
    code: codeSchema().required(),
    leftOut: Joi.array().items(text).max(64),
    source: text.required(),
  });
});
