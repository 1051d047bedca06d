import Joi from 'joi';
import { buzzer } from './buzzer.ts';
import { filter } from './filter.ts';
import { lampModule } from './lamp-module.ts';
import { led } from './led.ts';
import { ledChain } from './led-chain.ts';
import { loadSchema, type Driven, type LoadModel, type LoadReport, type Purpose } from './model.ts';
import { motor } from './motor.ts';
import { servo } from './servo.ts';
import { sounder } from './sounder.ts';
import { strobedDisc } from './strobed-disc.ts';

/** The kinds of load that come with the product, in the order a list shows them. */
const SHIPPED = [led, sounder, buzzer, servo, motor, filter, lampModule, strobedDisc, ledChain] as const;

type LoadOf<M> = M extends LoadModel<infer T, infer Id> ? { type: Id } & T : never;

/** What hangs on a pin: a kind of load with its values. */
export type Load = LoadOf<(typeof SHIPPED)[number]>;

/** What kinds of load there are. */
export type LoadType = Load['type'];

const records = new Map<string, LoadModel>();

/** Adds a kind of load, or replaces the one of that id; gives a function that takes it away again. */
export function registerLoad<T, Id extends string>(model: LoadModel<T, Id>): () => void {
  records.set(model.id, model as unknown as LoadModel);
  return () => {
    records.delete(model.id);
  };
}

for (const model of SHIPPED)
  registerLoad<Record<string, number | string>, LoadType>(
    model as unknown as LoadModel<Record<string, number | string>, LoadType>,
  );

/** What an editor has to know of a kind of load. */
export type LoadKind = Omit<LoadModel, 'id' | 'starter' | 'report'> & { id: LoadType; starter: Load };

/** All kinds of load; those that suit what a signal is made for first. */
export function loadKinds(purpose?: Purpose): LoadKind[] {
  const all = [...records.values()].map(({ id, starter, ...rest }): LoadKind => ({
    ...rest,
    id: id as LoadType,
    starter: { type: id, ...starter } as unknown as Load,
  }));
  if (purpose === undefined) return all;
  const rank = ({ suits }: LoadKind): number => (suits.includes(purpose) ? suits.indexOf(purpose) : Infinity);
  return all.sort((one, other) => (rank(one) === rank(other) ? 0 : rank(one) - rank(other)));
}

/** The kind of a load. @throws RangeError if it is not registered. */
export function loadModel({ type }: { type: string }): LoadModel {
  const found = records.get(type);
  if (!found) throw new RangeError(`there is no load “${type}”; there are ${[...records.keys()].join(', ')}`);
  return found;
}

/** What a load does with what its pin does. */
export function loadReport({ type, ...values }: Load, driven: Driven): LoadReport {
  return loadModel({ type }).report(values, driven);
}

/** The shape of `load` in a signal, with the kinds of load there are. */
export function loadsSchema(): Joi.Schema {
  return [...records.values()].reduce<Joi.AlternativesSchema>(
    (schema, model) =>
      schema.conditional(Joi.object({ type: Joi.string().valid(model.id).required() }).unknown(), {
        then: loadSchema(model),
      }),
    Joi.alternatives(),
  );
}
