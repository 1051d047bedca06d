import Joi from 'joi';
import { lazily } from '../result/lazily.ts';
import { schemaWords } from './schema-words.ts';

/** The shapes of a part's clocks: of the nodes of its clock path, and of the code that brings them up. */
export const clockSchemas = lazily(() => {
  const { condition, hertz, id, name, prescaler, text, whole, writes } = schemaWords();
  const limit = Joi.object({ name: name.required(), min: hertz.allow(0), max: hertz, notAbove: id });
  const startStep = Joi.alternatives().try(
    Joi.object({ set: writes.required() }),
    Joi.object({ until: condition.required() }),
    Joi.object({ waitUs: whole.min(1).max(10_000).required() }),
  );

  const CLOCKS = {
    source: Joi.object({
      kind: Joi.required(),
      id: id.required(),
      name: name.required(),
      hz: Joi.alternatives().try(hertz, Joi.array().items(hertz).length(2)).required(),
      tolerancePpm: Joi.number().min(0).max(1e6).required(),
      always: Joi.boolean(),
      needs: text,
      note: text,
    }),
    choice: Joi.object({
      kind: Joi.required(),
      id: id.required(),
      name: name.required(),
      from: Joi.array().items(id).min(1).required(),
      standard: id,
      start: Joi.object().pattern(Joi.string(), Joi.array().items(startStep)),
      limit,
      note: text,
    }),
    factor: Joi.object({
      kind: Joi.required(),
      id: id.required(),
      name: name.required(),
      from: id.required(),
      by: prescaler.required(),
      standard: Joi.number().greater(0).required(),
      limit,
      unlock: writes,
      always: Joi.boolean(),
      note: text,
    }),
    fixed: Joi.object({
      kind: Joi.required(),
      id: id.required(),
      name: name.required(),
      from: id.required(),
      hz: hertz.required(),
    }),
    doubler: Joi.object({
      kind: Joi.required(),
      id: id.required(),
      name: name.required(),
      from: id.required(),
      unless: id.required(),
    }),
  };

  /** A node of the clock path. */
  const clock = Joi.object({
    kind: Joi.string().valid('source', 'choice', 'divider', 'multiplier', 'doubler', 'fixed').required(),
  })
    .unknown()
    .when('.kind', {
      switch: [
        { is: 'source', then: CLOCKS.source },
        { is: 'choice', then: CLOCKS.choice },
        { is: 'doubler', then: CLOCKS.doubler },
        { is: 'fixed', then: CLOCKS.fixed },
      ],
      otherwise: CLOCKS.factor,
    });

  const bringUpStep = Joi.alternatives().try(
    Joi.object({ until: condition.required() }),
    Joi.object({ waitUs: whole.min(1).max(10_000).required() }),
    Joi.object({ factors: Joi.array().items(id).max(20), set: writes, by: id, whole: Joi.boolean() }).or(
      'factors',
      'set',
    ),
  );

  /** The steps that bring the clocks up, or why there are none. */
  const bringUp = Joi.alternatives().try(
    text,
    Joi.array()
      .items(
        Joi.object({
          say: text.required(),
          when: Joi.object({
            uses: id,
            takes: Joi.object().pattern(Joi.string(), id),
            at: Joi.object({ node: id.required(), above: hertz, upTo: hertz }),
          }),
          steps: Joi.array().items(bringUpStep).min(1).max(50).required(),
        }),
      )
      .max(50),
  );

  return { clock, bringUp };
});
