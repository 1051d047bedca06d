import Joi from 'joi';
import { allKinds } from '../signal/kinds/index.ts';
import { amountSchema, targetSchema } from '../signal/target-schema.ts';
import { LONGEST_NAME } from '../signal/signal.ts';
import { cpuSchemas } from './cpu-load.ts';
import { loadsSchema } from '../load/index.ts';
import { knobSchema } from '../knob/knob.ts';
import { readingsSchema } from '../readings/readings.ts';
import { allDrives } from '../timer/drives/index.ts';
import { INHERITED } from '../result/inherited.ts';
import { lazily } from '../result/lazily.ts';
import { MAX_PERIODS } from '../signal/sequence.ts';

/** What the shape of a plan is made of. */
const words = lazily(() => {
  const amount = amountSchema((schema) => schema.min(0).max(1e12));
  const above = amountSchema((schema) => schema.greater(0).max(1e12));
  const share = amountSchema((schema) => schema.min(0).max(1));
  const ppm = Joi.number().min(0).max(1e6);
  const id = Joi.string()
    .min(1)
    .max(LONGEST_NAME)
    .invalid(...INHERITED);
  const count = Joi.number()
    .integer()
    .min(0)
    .max(2 ** 48);
  return { amount, above, share, ppm, id, count };
});

/** What each number or name of a setting may be, whatever its drive. */
const settingFields = (): Readonly<Record<string, Joi.Schema>> => {
  const { id, count } = words();
  return {
    timer: id,
    mode: id,
    channel: id,
    polarity: Joi.string().valid('normal', 'inverted'),
    prescaler: Joi.number()
      .min(1)
      .max(2 ** 32),
    top: count,
    compare: count,
    begin: count,
    zero: count,
    postscale: count,
    divider: count,
    complement: Joi.object({ pin: id.required(), deadTicks: count.max(2 ** 24).required() }),
  };
};

/** A field is required, optional or forbidden as the drive says. */
function settingSchema(): Joi.ObjectSchema {
  const drives = allDrives();
  const fields = Object.entries(settingFields()).map(([key, schema]): [string, Joi.Schema] => {
    const cases = drives.map(({ id: drive, fields: own }) => ({
      is: drive,
      then: own[key] === 'required' ? schema.required() : own[key] === 'optional' ? schema : Joi.forbidden(),
    }));
    return [key, Joi.when('drive', { switch: cases })];
  });
  return Joi.object({
    drive: Joi.string()
      .valid(...drives.map((drive) => drive.id))
      .required(),
    pin: words().id,
    ...Object.fromEntries(fields),
  });
}

function stepSchema(): Joi.ObjectSchema {
  const { above, amount, share } = words();
  return Joi.object({
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
}

function signalSchema(): Joi.ObjectSchema {
  const kinds = allKinds();
  const { id } = words();
  const target = kinds.reduce<Joi.AnySchema>(
    (schema, kind) => schema.when('kind', { is: kind.id, then: targetSchema(kind).required() }),
    Joi.any(),
  );
  return Joi.object({
    id: id.pattern(/^[A-Za-z0-9_-]+$/).required(),
    name: Joi.string().min(1).max(LONGEST_NAME).required().label('name'),
    kind: Joi.string()
      .valid(...kinds.map((kind) => kind.id))
      .required(),
    pin: id,
    target,
    setting: settingSchema(),
    locked: Joi.boolean(),
    sequence: Joi.object({
      steps: Joi.array().items(stepSchema()).min(1).max(200).required(),
      once: Joi.boolean(),
    }),
    phase: Joi.object({
      to: id.required(),
      degrees: Joi.number().min(-360).max(360).required().label('phase in degrees'),
      toleranceDegrees: Joi.number().min(0).max(180).label('tolerance of the phase in degrees'),
    }),
    complement: Joi.object({
      pin: id.required(),
      deadS: Joi.number().min(0).max(1).required().label('dead time in s'),
    }),
    handler: cpuSchemas().handler,
    load: loadsSchema(),
    readings: readingsSchema(),
    knob: knobSchema(),
    firstEdgeS: Joi.number().greater(0).max(1e6).label('time of the first edge in s'),
  });
}

/**
 * The shape of a plan file of the newest version, with the kinds and drives there are. What depends on the part is checked
 * after it.
 */
export function planSchema(): Joi.ObjectSchema {
  const known = [...allKinds(), ...allDrives()].map((one) => one.id).join();
  if (known !== built?.known) built = { known, schema: builtSchema() };
  return built.schema;
}

let built: { known: string; schema: Joi.ObjectSchema } | undefined;

function builtSchema(): Joi.ObjectSchema {
  const { above, id, ppm } = words();
  return Joi.object({
    format: Joi.string().valid('herzschlag-plan').required(),
    version: Joi.number().valid(2).required(),
    name: Joi.string().min(1).max(120).required().label('name of the plan'),
    part: id.required(),
    ownPart: Joi.object(),
    pinNames: Joi.object().pattern(Joi.string().max(LONGEST_NAME), Joi.string().min(1).max(40)).max(1000),
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
      sourceHz: above.required().label('frequency of the oscillator in Hz'),
      tolerancePpm: ppm.label('tolerance of the oscillator in ppm'),
      settings: Joi.object()
        .pattern(Joi.string().max(LONGEST_NAME), Joi.alternatives().try(Joi.number(), id))
        .max(200),
    }),
    cpu: cpuSchemas().cpu,
    signals: Joi.array().items(signalSchema()).max(500).unique('id').required(),
  });
}
