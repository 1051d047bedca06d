import Joi from 'joi';
import { lazily } from '../result/lazily.ts';

/** What a knob sets: in Hz, s, s, a fraction of one, V. */
export type KnobQuantity = 'frequency' | 'period' | 'width' | 'duty' | 'level';

/** How what a knob sets moves over its turn: evenly, by equal ratios, or by equal steps of lightness. */
export type KnobCurve = 'linear' | 'logarithmic' | 'lightness';

/** An input of some bits that sets one quantity of a signal, and how the firmware computes it. */
export type Knob = {
  bits: number;
  sets: KnobQuantity;
  /** The quantity at the lowest and at the highest reading; `from` may be the greater one. */
  from: number;
  to: number;
  curve?: KnobCurve;
  /** Readings at both ends that count as the end itself. */
  deadLow?: number;
  deadHigh?: number;
  /** Bits that the product of reading and span is computed in, 32 where absent. */
  wide?: 16 | 32;
  /** Whether the product or the quotient comes first, the product where absent. */
  first?: 'multiply' | 'divide';
  /** Readings vary by so many counts to either side. */
  noise?: number;
  /** Readings that are averaged, a power of two. */
  average?: number;
  /** Counts that an averaged reading must move before the output follows. */
  hysteresis?: number;
  /** What a display shows, evenly from one end to the other. */
  display?: { unit: 'Hz' | 'rpm' | 'ms' | '%' | 'V'; from: number; to: number };
};

/** The shape of `knob` in a signal. */
export const knobSchema = lazily(() => {
  const counts = Joi.number().integer().min(0).max(65_535);
  const value = Joi.number().min(0).max(1e12);
  return Joi.object({
    bits: Joi.number().integer().min(1).max(16).required().label('bits of a knob'),
    sets: Joi.string().valid('frequency', 'period', 'width', 'duty', 'level').required(),
    from: value.required().label('low end of a knob'),
    to: value.required().invalid(Joi.ref('from')).label('high end of a knob'),
    curve: Joi.string().valid('linear', 'logarithmic', 'lightness'),
    deadLow: counts.label('dead zone of a knob'),
    deadHigh: counts.label('dead zone of a knob'),
    wide: Joi.number().valid(16, 32),
    first: Joi.string().valid('multiply', 'divide'),
    noise: counts.label('noise of a knob'),
    average: Joi.number().valid(1, 2, 4, 8, 16, 32, 64).label('averaged readings of a knob'),
    hysteresis: counts.label('hysteresis of a knob'),
    display: Joi.object({
      unit: Joi.string().valid('Hz', 'rpm', 'ms', '%', 'V').required(),
      from: value.required(),
      to: value.required(),
    }),
  });
});

/** The highest reading of a knob. */
export function highestReading({ bits }: Pick<Knob, 'bits'>): number {
  return 2 ** bits - 1;
}
