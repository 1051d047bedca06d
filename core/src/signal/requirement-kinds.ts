import { exact, type Exact } from '../quantity/exact.ts';
import { bandAround, bandPpm, dutyBand, positive, rateOf, type Band } from './band.ts';
import { TargetError } from './target-error.ts';
import type { Requirement, Span } from './requirement.ts';
import type {
  Amount,
  LevelTarget,
  MeasureTarget,
  PulseTarget,
  StringTarget,
  StrobeTarget,
} from './signal.ts';
import { DEFAULTS } from './defaults.ts';

/** A width in s against a period: its band as times, and as shares of the period. @throws TargetError */
function widthBand(width: Exact, off: Exact, frequency: Exact, key: string): { width: Band; duty: Band } {
  const share = positive(width, key).mul(frequency);
  if (share.compare(1) > 0) {
    throw new TargetError(key, `${key} is longer than its period of ${frequency.inverse().valueOf()} s.`);
  }
  return { width: bandAround(width, off), duty: bandAround(share, off.mul(frequency)) };
}

/** Two ends of a span, in order. @throws TargetError */
function spanOf(of: Span['of'], low: Amount, high: Amount, key: string): Span {
  const span: Span = { of, low: positive(exact(low), key), high: exact(high) };
  if (span.high.compare(span.low) <= 0) {
    throw new TargetError(key, `${key} must lie below the other end of the span.`);
  }
  return span;
}

/** A strobe's frequency: said as such, as a period, as a speed with images a turn, or the lower end of its span. */
export function strobeHz(target: StrobeTarget): Exact {
  const { rpm, images = 1, minHz } = target;
  if (rpm !== undefined) return positive(exact(rpm), 'rpm').mul(exact(images)).div(60);
  if (minHz !== undefined && target.frequencyHz === undefined && target.periodS === undefined) {
    return positive(exact(minHz), 'minHz');
  }
  return rateOf('A strobe', target);
}

/** A strobe: its flash is a time or a share; a span is between minHz and maxHz. @throws TargetError */
export function strobeRequirement(target: StrobeTarget): Requirement {
  const frequency = strobeHz(target);
  if (target.duty !== undefined && target.onS !== undefined) {
    throw new TargetError('onS', 'A strobe has either duty or onS, not both.');
  }
  if ((target.minHz === undefined) !== (target.maxHz === undefined)) {
    throw new TargetError('maxHz', 'The span of a strobe has both minHz and maxHz.');
  }
  const span =
    target.minHz === undefined ? {} : { span: spanOf('frequency', target.minHz, target.maxHz ?? 0, 'minHz') };
  const tolerance = target.dutyTolerance ?? DEFAULTS.duty;
  const lit =
    target.onS === undefined
      ? { duty: dutyBand(exact(target.duty ?? DEFAULTS.strobeDuty), tolerance, 'duty') }
      : widthBand(exact(target.onS), exact(target.onS).mul(exact(tolerance)), frequency, 'onS');
  return {
    frequency: { kind: 'near', ...bandPpm(frequency, target.frequencyTolerancePpm ?? DEFAULTS.strobePpm) },
    ...lit,
    minSteps: 1,
    pin: true,
    ...span,
  };
}

/**
 * The least frequency at which a filter of one resistor and one capacitor leaves no more ripple, peak to peak, in Hz:
 * f = V x d x (1 - d) / (R x C x ripple), for periods well below R x C.
 */
export function rippleHz({ volts, supplyV, rippleV, ohms, farads }: LevelTarget): Exact | undefined {
  if (rippleV === undefined || ohms === undefined || farads === undefined) return undefined;
  const supply = exact(supplyV);
  const share = exact(volts).div(supply);
  const charge = positive(exact(ohms), 'ohms').mul(positive(exact(farads), 'farads'));
  return supply
    .mul(share)
    .mul(exact(1).sub(share))
    .div(charge.mul(positive(exact(rippleV), 'rippleV')));
}

/** A level: its share of the supply, as fast as the ripple asks. @throws TargetError */
export function levelRequirement(target: LevelTarget): Requirement {
  const supply = positive(exact(target.supplyV), 'supplyV');
  const share = exact(target.volts).div(supply);
  if (share.compare(1) > 0) {
    throw new TargetError('volts', `volts must lie between 0 and the supply of ${supply.valueOf()} V.`);
  }
  const asked = exact(target.minHz ?? DEFAULTS.levelHz);
  const ripple = rippleHz(target);
  const low = ripple && ripple.compare(asked) > 0 ? ripple : asked;
  const off = target.toleranceV === undefined ? exact(DEFAULTS.level) : exact(target.toleranceV).div(supply);
  return {
    frequency: { kind: 'min', low: positive(low, 'minHz') },
    duty: dutyBand(share, off.valueOf(), 'volts'),
    minSteps: Math.max(1, Math.ceil(1 / (2 * off.valueOf() || 1))),
    pin: true,
    supply,
  };
}

/** A pulse in each frame: near the frame's rate, and as wide as said, in steps fine enough. @throws TargetError */
export function pulseRequirement(target: PulseTarget): Requirement {
  const frame = positive(exact(target.frameHz), 'frameHz');
  const { widthS, minS, maxS, stepS } = target;
  if ((minS === undefined) !== (maxS === undefined)) {
    throw new TargetError('maxS', 'The span of a pulse has both minS and maxS.');
  }
  const span = minS === undefined || maxS === undefined ? undefined : spanOf('width', minS, maxS, 'minS');
  const width = widthS !== undefined ? exact(widthS) : span?.low.add(span.high).div(2);
  if (!width) throw new TargetError('widthS', 'A pulse has widthS, or minS and maxS.');
  if (span && (width.compare(span.low) < 0 || width.compare(span.high) > 0)) {
    throw new TargetError('widthS', 'widthS lies outside its span from minS to maxS.');
  }
  const off = exact(target.widthToleranceS ?? (stepS === undefined ? DEFAULTS.widthS : stepS / 2));
  const steps = stepS === undefined ? 1 : Math.ceil(1 / (frame.valueOf() * stepS) - 1e-9);
  return {
    frequency: { kind: 'near', ...bandPpm(frame, target.frameTolerancePpm ?? DEFAULTS.framePpm) },
    ...widthBand(width, off, frame, widthS !== undefined ? 'widthS' : 'maxS'),
    minSteps: steps,
    pin: true,
    ...(span ? { span } : {}),
  };
}

/** An input: both ends of what it may be, and how finely. @throws TargetError */
export function measureRequirement(target: MeasureTarget): Requirement {
  const { low, high } = spanOf('frequency', target.minHz, target.maxHz, 'minHz');
  const resolution = target.resolution ?? DEFAULTS.resolution;
  if (!(resolution > 0 && resolution <= 1)) {
    throw new TargetError('resolution', `resolution must lie between 0 and 1, and is ${resolution}.`);
  }
  return {
    frequency: { kind: 'near', ...bandPpm(high, Math.min(999999, resolution * 1e6)) },
    duty: bandAround(exact('0.5'), exact('0.5')),
    minSteps: 1,
    pin: true,
    input: { slowest: low, fastest: high, resolution },
  };
}

/** The bits of a string: one counter makes the width of a one and that of a zero. @throws TargetError */
export function stringRequirement(target: StringTarget): Requirement {
  const bit = positive(exact(target.bitS), 'bitS');
  const off = exact(target.toleranceS ?? DEFAULTS.stringS);
  const frequency = bit.inverse();
  const zero = widthBand(exact(target.zeroS), off, frequency, 'zeroS');
  if (!Number.isInteger(target.leds) || target.leds < 1) {
    throw new TargetError('leds', `leds must be a whole number from 1 up, and is ${target.leds}.`);
  }
  return {
    frequency: { kind: 'near', ideal: frequency, low: bit.add(off).inverse(), high: bit.sub(off).inverse() },
    ...widthBand(exact(target.oneS), off, frequency, 'oneS'),
    alsoWidths: [zero.width],
    minSteps: 1,
    pin: true,
  };
}
