import Joi from 'joi';
import { allKinds } from '../signal/kinds/index.ts';
import { amountSchema, targetSchema } from '../signal/target-schema.ts';
import { LONGEST_NAME } from '../signal/signal.ts';
import { cpuSchemas } from './cpu-load.ts';
import { PLAN_VERSION } from './versions.ts';
import { loadKinds, loadsSchema } from '../load/index.ts';
import { knobSchema } from '../knob/knob.ts';
import { readingsSchema } from '../readings/readings.ts';
import { allDrives, fieldsOf, type Drive, type SettingField } from '../timer/drives/index.ts';
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
  return { amount, above, share, ppm, id };
});

/** The shape of one field of a setting. */
function fieldSchema(field: SettingField): Joi.Schema {
  switch (field.is) {
    case 'id':
      return words().id;
    case 'choice':
      return Joi.string().valid(...field.choices);
    case 'number': {
      const number = Joi.number().min(field.min).max(field.max);
      return field.whole ? number.integer() : number;
    }
    case 'group':
      return Joi.object(
        Object.fromEntries(Object.entries(field.fields).map(([key, own]) => [key, requiredAs(own)])),
      );
  }
}

function requiredAs(field: SettingField): Joi.Schema {
  return field.optional ? fieldSchema(field) : fieldSchema(field).required();
}

/** Every field that some drive has, in an order that agrees with that of each drive. */
function fieldNames(drives: readonly Drive[]): string[] {
  const lists = drives.map((drive) => Object.keys(fieldsOf(drive)));
  const left = new Set(lists.flat());
  const names: string[] = [];
  const isNext = (name: string): boolean =>
    lists.every((list) => !list.slice(0, Math.max(0, list.indexOf(name))).some((one) => left.has(one)));
  while (left.size > 0) {
    const all = [...left];
    // Where two drives disagree, the first of them decides.
    const next = all.find(isNext) ?? all[0] ?? '';
    names.push(next);
    left.delete(next);
  }
  return names;
}

/** A setting of any drive: each field is as its drive says, or forbidden. Its pin may be left to the signal. */
function settingSchema(): Joi.ObjectSchema {
  const drives = allDrives();
  const fields = fieldNames(drives).map((key): [string, Joi.Schema] => {
    if (key === 'pin') return [key, words().id];
    const cases = drives.map((drive) => {
      const own = fieldsOf(drive)[key];
      return { is: drive.id, then: own ? requiredAs(own) : Joi.forbidden() };
    });
    return [key, Joi.when('drive', { switch: cases })];
  });
  return Joi.object({
    drive: Joi.string()
      .valid(...drives.map((drive) => drive.id))
      .required(),
    ...Object.fromEntries(fields),
  });
}

function stepSchema(): Joi.ObjectSchema {
  const { above, amount, share } = words();
  return Joi.object({
    rest: Joi.boolean(),
    periods: Joi.number().integer().min(1).max(MAX_PERIODS),
    forS: above,
    frequencyHz: above,
    widthS: amount,
    duty: share,
    toDuty: share,
    toHz: above,
    toWidthS: amount,
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
    sequence: Joi.object({
      steps: Joi.array().items(stepSchema()).min(1).max(200).required(),
      once: Joi.boolean(),
    }),
    phase: Joi.object({
      to: id.required(),
      degrees: Joi.number().min(-360).max(360).required().label('phase in degrees'),
      toleranceDegrees: Joi.number().min(0).max(180).label('tolerance of the phase in degrees'),
    }),
    firstEdgeS: Joi.number().greater(0).max(1e6).label('time of the first edge in s'),
    complement: Joi.object({
      pin: id.required(),
      deadS: Joi.number().min(0).max(1).required().label('dead time in s'),
    }),
    setting: settingSchema(),
    locked: Joi.boolean(),
    handler: cpuSchemas().handler,
    load: loadsSchema(),
    readings: readingsSchema(),
    knob: knobSchema(),
  });
}

/**
 * The shape of a plan file of the newest version, with the kinds and drives there are. What depends on the part is checked
 * after it.
 */
export function planSchema(): Joi.ObjectSchema {
  const known = [...allKinds(), ...allDrives(), ...loadKinds()].map((one) => one.id).join();
  if (known !== built?.known) built = { known, schema: builtSchema() };
  return built.schema;
}

let built: { known: string; schema: Joi.ObjectSchema } | undefined;

function builtSchema(): Joi.ObjectSchema {
  const { above, id, ppm } = words();
  return Joi.object({
    format: Joi.string().valid('herzschlag-plan').required(),
    version: Joi.number().valid(PLAN_VERSION).required(),
    name: Joi.string().min(1).max(120).required().label('name of the plan'),
    part: id.required(),
    clock: Joi.object({
      source: id.required(),
      sourceHz: above.required().label('frequency of the oscillator in Hz'),
      tolerancePpm: ppm.label('tolerance of the oscillator in ppm'),
      settings: Joi.object()
        .pattern(Joi.string().max(LONGEST_NAME), Joi.alternatives().try(Joi.number(), id))
        .max(200),
    }),
    signals: Joi.array().items(signalSchema()).max(500).unique('id').required(),
    cpu: cpuSchemas().cpu,
    reserved: Joi.array().items(id).max(200).unique(),
    pinNames: Joi.object().pattern(Joi.string().max(LONGEST_NAME), Joi.string().min(1).max(40)).max(1000),
    bookmarks: Joi.array()
      .items(
        Joi.object({
          name: Joi.string().min(1).max(80).required(),
          atS: Joi.number().min(-1e9).max(1e9).required(),
        }),
      )
      .max(500),
    code: Joi.object({
      registers: Joi.string().valid('own', 'device'),
      startUp: Joi.boolean(),
      allowInterrupts: Joi.boolean(),
    }),
    ownPart: Joi.object(),
  });
}
