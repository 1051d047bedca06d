import Joi from 'joi';
import { MAX_PERIODS } from '../signal/sequence.ts';

const FRACTION = /^\d{1,20}\/0*[1-9]\d{0,19}$/;

/** A number of its own or a fraction as text; limits that need its value are checked with the target. */
const amount = Joi.alternatives().try(
  Joi.number().min(0).max(1e12),
  Joi.string().pattern(FRACTION, 'fraction'),
);
const above = Joi.alternatives().try(
  Joi.number().greater(0).max(1e12),
  Joi.string().pattern(FRACTION, 'fraction'),
);
const share = Joi.alternatives().try(Joi.number().min(0).max(1), Joi.string().pattern(FRACTION, 'fraction'));
const ppm = Joi.number().min(0).max(1e6);
const id = Joi.string().min(1).max(80);
const count = Joi.number()
  .integer()
  .min(0)
  .max(2 ** 48);

const TARGETS = {
  blink: Joi.object({
    frequencyHz: above,
    periodS: above,
    duty: share,
    onS: amount,
    frequencyTolerancePpm: ppm,
    dutyTolerance: Joi.number().min(0).max(1),
  }),
  tone: Joi.object({
    frequencyHz: above,
    note: Joi.string().max(12),
    cents: Joi.number().min(-1200).max(1200),
    toleranceCents: Joi.number().min(0).max(1200),
    frequencyTolerancePpm: ppm,
    duty: share,
    dutyTolerance: Joi.number().min(0).max(1),
  }),
  dim: Joi.object({
    minHz: above.required(),
    minSteps: Joi.number()
      .integer()
      .min(1)
      .max(2 ** 32)
      .required(),
    duty: share,
    dutyTolerance: Joi.number().min(0).max(1),
  }),
  strobe: Joi.object({
    frequencyHz: above,
    periodS: above,
    rpm: above,
    images: Joi.number().integer().min(1).max(1000),
    minHz: above,
    maxHz: above,
    onS: above,
    duty: share,
    frequencyTolerancePpm: ppm,
    dutyTolerance: Joi.number().min(0).max(1),
  }),
  level: Joi.object({
    volts: amount.required(),
    supplyV: above.required(),
    toleranceV: Joi.number().greater(0).max(1e6),
    rippleV: Joi.number().greater(0).max(1e6),
    ohms: Joi.number().greater(0).max(1e12),
    farads: Joi.number().greater(0).max(1e6),
    minHz: above,
  }),
  pulse: Joi.object({
    frameHz: above.required(),
    widthS: above,
    minS: above,
    maxS: above,
    stepS: Joi.number().greater(0).max(1e6),
    degrees: Joi.number().greater(0).max(36000),
    frameTolerancePpm: ppm,
    widthToleranceS: Joi.number().min(0).max(1e6),
  }),
  string: Joi.object({
    bitS: above.required(),
    zeroS: above.required(),
    oneS: above.required(),
    toleranceS: Joi.number().min(0).max(1),
    leds: Joi.number().integer().min(1).max(100000).required(),
    frameHz: above,
  }),
  measure: Joi.object({
    minHz: above.required(),
    maxHz: above.required(),
    resolution: Joi.number().greater(0).max(1),
  }),
  tick: Joi.object({
    frequencyHz: above,
    periodS: above,
    frequencyTolerancePpm: ppm,
    jitterS: Joi.number().min(0).max(1e6),
  }),
};

/** A field that only settings of some drives have. */
function only(drives: readonly string[], field: Joi.Schema, needed = true): Joi.Schema {
  const then = needed ? field.required() : field;
  return Joi.when('drive', { is: Joi.valid(...drives), then, otherwise: Joi.forbidden() });
}

const OUTPUTS = ['pwm', 'toggle'];
const TIMED = [...OUTPUTS, 'interrupt', 'software-pwm', 'interrupt-pair', 'capture'];

const setting = Joi.object({
  drive: Joi.string()
    .valid(...TIMED, 'delay-loop')
    .required(),
  timer: only(TIMED, id),
  mode: only(TIMED, id),
  channel: only([...OUTPUTS, 'interrupt-pair', 'capture'], id),
  pin: id,
  polarity: only(OUTPUTS, Joi.string().valid('normal', 'inverted'), false),
  prescaler: only(
    TIMED,
    Joi.number()
      .min(1)
      .max(2 ** 32),
  ),
  top: count.required(),
  compare: only([...OUTPUTS, 'software-pwm', 'interrupt-pair', 'delay-loop'], count),
  postscale: only(['interrupt', 'software-pwm'], count, false),
  divider: only(['interrupt', 'software-pwm'], count),
  complement: only(
    ['pwm'],
    Joi.object({ pin: id.required(), deadTicks: count.max(2 ** 24).required() }),
    false,
  ),
});

const segment = Joi.object({
  periods: Joi.number().integer().min(1).max(MAX_PERIODS),
  forS: above,
  rest: Joi.boolean(),
  duty: share,
  toDuty: share,
  widthS: amount,
  toWidthS: amount,
  frequencyHz: above,
  toHz: above,
});

const kind = Joi.string().valid(...Object.keys(TARGETS));

const signal = Joi.object({
  id: id.pattern(/^[A-Za-z0-9_-]+$/).required(),
  name: Joi.string().min(1).max(80).required(),
  kind: kind.required(),
  pin: id,
  target: Joi.any()
    .when('kind', { is: 'blink', then: TARGETS.blink.required() })
    .when('kind', { is: 'tone', then: TARGETS.tone.required() })
    .when('kind', { is: 'dim', then: TARGETS.dim.required() })
    .when('kind', { is: 'tick', then: TARGETS.tick.required() })
    .when('kind', { is: 'strobe', then: TARGETS.strobe.required() })
    .when('kind', { is: 'level', then: TARGETS.level.required() })
    .when('kind', { is: 'pulse', then: TARGETS.pulse.required() })
    .when('kind', { is: 'string', then: TARGETS.string.required() })
    .when('kind', { is: 'measure', then: TARGETS.measure.required() }),
  setting,
  locked: Joi.boolean(),
  sequence: Joi.object({
    steps: Joi.array().items(segment).min(1).max(200).required(),
    once: Joi.boolean(),
  }),
  phase: Joi.object({
    to: id.required(),
    degrees: Joi.number().min(-360).max(360).required(),
    toleranceDegrees: Joi.number().min(0).max(180),
  }),
  complement: Joi.object({ pin: id.required(), deadS: Joi.number().min(0).max(1).required() }),
  firstEdgeS: Joi.number().greater(0).max(1e6),
});

/** The shape of a plan file, version 1. What depends on the part is checked after it. */
export const planSchema = Joi.object({
  format: Joi.string().valid('herzschlag-plan').required(),
  version: Joi.number().valid(2).required(),
  name: Joi.string().min(1).max(120).required(),
  part: id.required(),
  ownPart: Joi.object(),
  pinNames: Joi.object().pattern(Joi.string(), Joi.string().min(1).max(40)),
  reserved: Joi.array().items(id).max(200).unique(),
  bookmarks: Joi.array()
    .items(
      Joi.object({
        atS: Joi.number().min(-1e9).max(1e9).required(),
        name: Joi.string().min(1).max(80).required(),
      }),
    )
    .max(500),
  clock: Joi.object({
    source: id.required(),
    sourceHz: above.required(),
    tolerancePpm: ppm,
    settings: Joi.object().pattern(Joi.string().max(80), Joi.alternatives().try(Joi.number(), id)),
  }).required(),
  signals: Joi.array().items(signal).max(500).unique('id').required(),
});
