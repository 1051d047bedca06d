import { blink } from './blink.ts';
import { dim } from './dim.ts';
import { registerKind, type Kind } from './kind.ts';
import { ledString } from './led-string.ts';
import { level } from './level.ts';
import { measure } from './measure.ts';
import { pulse } from './pulse.ts';
import { pwm } from './pwm.ts';
import { strobe } from './strobe.ts';
import { tick } from './tick.ts';
import { tone } from './tone.ts';

/** The kinds that come with the product, in the order a list shows them. */
const SHIPPED = [blink, tone, pwm, dim, pulse, strobe, level, ledString, tick, measure] as const;

for (const kind of SHIPPED) registerKind<object, string>(kind as unknown as Kind);

export { allKinds, kindOf, registerKind } from './kind.ts';
export type { Kind, Piece, Relaxation, Token, Typed } from './kind.ts';
export type { Amount, FieldShape } from './shape.ts';

type TargetIn<K> = K extends Kind<infer T> ? T : never;

/** Kind of signal to its target's fields. */
export type Targets = { [K in (typeof SHIPPED)[number] as K['id']]: TargetIn<K> };
