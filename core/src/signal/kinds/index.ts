import { blink, type BlinkTarget } from './blink.ts';
import { dim, type DimTarget } from './dim.ts';
import { registerKind } from './kind.ts';
import { ledString, type StringTarget } from './led-string.ts';
import { level, type LevelTarget } from './level.ts';
import { measure, type MeasureTarget } from './measure.ts';
import { pulse, type PulseTarget } from './pulse.ts';
import { pwm, type PwmTarget } from './pwm.ts';
import { strobe, type StrobeTarget } from './strobe.ts';
import { tick, type TickTarget } from './tick.ts';
import { tone, type ToneTarget } from './tone.ts';

registerKind(blink);
registerKind(tone);
registerKind(pwm);
registerKind(dim);
registerKind(pulse);
registerKind(strobe);
registerKind(level);
registerKind(ledString);
registerKind(tick);
registerKind(measure);

export { allKinds, findKind, kindOf, registerKind } from './kind.ts';
export type { Kind, Piece, Relaxation, Token, Typed } from './kind.ts';
export type { Wish, Wished } from './wish.ts';
export type { Amount, FieldShape, Shape, TargetOf } from './shape.ts';

/** Kind of signal to its target's fields. */
export type Targets = {
  blink: BlinkTarget;
  strobe: StrobeTarget;
  tone: ToneTarget;
  pwm: PwmTarget;
  dim: DimTarget;
  level: LevelTarget;
  pulse: PulseTarget;
  tick: TickTarget;
  string: StringTarget;
  measure: MeasureTarget;
};
