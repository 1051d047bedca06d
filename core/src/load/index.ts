import Joi from 'joi';
import { lazily } from '../result/lazily.ts';
import { buzzer, type BuzzerLoad } from './buzzer.ts';
import { filter, type FilterLoad } from './filter.ts';
import { lampModule, type LampModuleLoad } from './lamp-module.ts';
import { led, type LedLoad } from './led.ts';
import { ledChain, type LedChainLoad } from './led-chain.ts';
import { loadSchema, type Driven, type LoadModel, type LoadReport } from './model.ts';
import { motor, type MotorLoad } from './motor.ts';
import { servo, type ServoLoad } from './servo.ts';
import { sounder, type SounderLoad } from './sounder.ts';
import { strobedDisc, type StrobedDiscLoad } from './strobed-disc.ts';

/** The values of each load, by the id of its model. */
type Loads = {
  led: LedLoad;
  sounder: SounderLoad;
  buzzer: BuzzerLoad;
  servo: ServoLoad;
  motor: MotorLoad;
  filter: FilterLoad;
  'lamp-module': LampModuleLoad;
  'strobed-disc': StrobedDiscLoad;
  'led-chain': LedChainLoad;
};

/** What kinds of load there are. */
export type LoadType = keyof Loads;

/** What hangs on a pin: a kind of load with its values. */
export type Load = { [K in LoadType]: { type: K } & Loads[K] }[LoadType];

const MODELS: { [K in LoadType]: LoadModel<Loads[K]> } = {
  led,
  sounder,
  buzzer,
  servo,
  motor,
  filter,
  'lamp-module': lampModule,
  'strobed-disc': strobedDisc,
  'led-chain': ledChain,
};

/** What an editor has to know of a kind of load. */
export type LoadKind = Pick<LoadModel, 'name' | 'suits' | 'fields'> & { id: LoadType; starter: Load };

/** All kinds of load; those that suit a kind of signal first. */
export function loadKinds(kind?: string): LoadKind[] {
  const all = (Object.keys(MODELS) as LoadType[]).map((id): LoadKind => {
    const { name, suits, fields, starter } = MODELS[id];
    return { id, name, suits, fields, starter: { type: id, ...starter } as Load };
  });
  if (kind === undefined) return all;
  const rank = ({ suits }: LoadKind): number => (suits.includes(kind) ? suits.indexOf(kind) : 99);
  return all.sort((one, other) => rank(one) - rank(other));
}

/** What a load does with what its pin does. */
export function loadReport(load: Load, driven: Driven): LoadReport {
  const { type, ...values } = load;
  // The compiler cannot see that the model of a type takes the values of the same type.
  return (MODELS[type] as LoadModel<typeof values>).report(values, driven);
}

/** The shape of `load` in a signal. */
export const loadsSchema = lazily((): Joi.Schema =>
  (Object.keys(MODELS) as LoadType[]).reduce<Joi.AlternativesSchema>(
    (schema, id) =>
      schema.conditional(Joi.object({ type: Joi.string().valid(id).required() }).unknown(), {
        then: loadSchema(MODELS[id]),
      }),
    Joi.alternatives(),
  ),
);
