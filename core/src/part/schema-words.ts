import Joi from 'joi';
import { INHERITED } from '../result/inherited.ts';
import { lazily } from '../result/lazily.ts';

/** What the shapes of a part file are made of. */
export const schemaWords = lazily(() => {
  const name = Joi.string().min(1).max(120);
  const id = Joi.string()
    .pattern(/^[A-Za-z0-9_-]+$/, 'id')
    .invalid(...INHERITED)
    .max(80);
  const text = Joi.string().max(400);
  const whole = Joi.number().integer().min(0);
  const hertz = Joi.number().greater(0).max(1e12);
  const cycles = whole.max(1_000_000);

  const place = Joi.string().pattern(/^[A-Za-z_][A-Za-z0-9_]*(\.[A-Za-z_][A-Za-z0-9_]*)?$/, 'place');

  /** A place that must become one, zero with an exclamation mark, or a value with an equals sign. */
  const condition = Joi.string().pattern(
    /^(![A-Za-z_]\w*\.[A-Za-z_]\w*|[A-Za-z_]\w*\.[A-Za-z_]\w*(=\d{1,5})?)$/,
    'condition',
  );

  const encoded = Joi.object({
    of: Joi.string()
      .valid('top', 'compare', 'match', 'divide', 'bits', 'reload', 'postscale', 'dead', 'begin')
      .required(),
    scale: Joi.number().min(-65536).max(65536),
    bias: Joi.number()
      .integer()
      .min(-(2 ** 53 - 1))
      .max(2 ** 53 - 1),
    shift: whole.max(32),
    keep: whole.max(32),
  });
  const writes = Joi.object().pattern(place, Joi.alternatives().try(whole.max(2 ** 32 - 1), encoded));

  const prescaler = Joi.alternatives().conditional('.kind', {
    is: 'range',
    then: Joi.object({
      kind: Joi.string().valid('range').required(),
      min: whole.min(1).required(),
      max: whole
        .min(1)
        .max(2 ** 32)
        .required(),
      scale: whole.min(1).max(65536).required(),
      writes: writes.required(),
      whole: writes,
    }),
    otherwise: Joi.object({
      kind: Joi.string().valid('list').required(),
      options: Joi.array()
        .items(
          Joi.object({
            divide: Joi.number()
              .greater(0)
              .max(2 ** 32)
              .required(),
            writes: writes.required(),
            same: Joi.array().items(writes).max(40),
          }),
        )
        .min(1)
        .max(1024)
        .required(),
    }),
  });

  return { name, id, text, whole, hertz, cycles, place, condition, writes, prescaler };
});
