import { amountOf, exact, type Exact } from '../../quantity/exact.ts';
import { printHz, printPercent, printUnit } from '../../quantity/print.ts';
import { dutyBand, positive } from '../band.ts';
import type { Requirement } from '../requirement.ts';
import { TargetError } from '../target-error.ts';
import type { Kind } from './kind.ts';
import { frequencyAlso, makerOf, voltsText, wantedHz, words } from './pieces.ts';
import { AMOUNT, POSITIVE, QUANTITY, required, type TargetOf } from './shape.ts';

/** The default tolerance of a level is this share of the supply, and is as fast as this. */
const TOLERANCE = 0.005;
const MIN_HZ = 1000;

const volts = { ...QUANTITY, max: 1e6 } as const;

const shape = {
  volts: required(AMOUNT),
  supplyV: required(POSITIVE),
  toleranceV: volts,
  rippleV: volts,
  ohms: QUANTITY,
  farads: volts,
  minHz: POSITIVE,
} as const;

/** A voltage behind a filter: the mean of a pulse train between 0 V and the supply, and how much ripple may be left. */
export type LevelTarget = TargetOf<typeof shape>;

/**
 * The minimum frequency at which a filter of one resistor and one capacitor leaves no more ripple, peak to peak, in Hz:
 * f = V x d x (1 - d) / (R x C x ripple), for periods well below R x C.
 */
function rippleHz({ volts: level, supplyV, rippleV, ohms, farads }: LevelTarget): Exact | undefined {
  if (rippleV === undefined || ohms === undefined || farads === undefined) return undefined;
  const supply = exact(supplyV);
  const share = exact(level).div(supply);
  const charge = positive(exact(ohms), 'ohms').mul(positive(exact(farads), 'farads'));
  return supply
    .mul(share)
    .mul(exact(1).sub(share))
    .div(charge.mul(positive(exact(rippleV), 'rippleV')));
}

function requirement(target: LevelTarget): Requirement {
  const supply = positive(exact(target.supplyV), 'supplyV');
  const share = exact(target.volts).div(supply);
  if (share.compare(1) > 0) {
    throw new TargetError('volts', `volts must lie between 0 and the supply of ${supply.valueOf()} V.`);
  }
  const asked = exact(target.minHz ?? MIN_HZ);
  const ripple = rippleHz(target);
  const low = ripple && ripple.compare(asked) > 0 ? ripple : asked;
  const off = target.toleranceV === undefined ? exact(TOLERANCE) : exact(target.toleranceV).div(supply);
  return {
    frequency: { kind: 'within', low: positive(low, 'minHz') },
    duty: dutyBand(share, off.valueOf(), 'volts'),
    minSteps: Math.max(1, Math.ceil(1 / (2 * off.valueOf() || 1))),
    pin: true,
    supply,
  };
}

const tokens: Kind<LevelTarget>['tokens'] = {
  volts: { dimension: 'volts', label: 'level', stepped: 'duty', field: 'volts' },
  supply: { dimension: 'volts', label: 'supply', field: 'supplyV' },
  tolerance: { dimension: 'volts', label: 'level tolerance', field: 'toleranceV', plain: true },
  minHz: { dimension: 'frequency', label: 'minimum frequency', stepped: 'frequency', field: 'minHz' },
  ripple: { dimension: 'volts', label: 'ripple', field: 'rippleV', plain: true },
  ohms: { dimension: 'ohms', label: 'resistor', field: 'ohms', plain: true },
  farads: { dimension: 'farads', label: 'capacitor', field: 'farads', plain: true },
};
const make = makerOf(tokens);

/** A voltage made of pulses and a filter. */
export const level: Kind<LevelTarget, 'level'> = {
  id: 'level',
  verb: 'holds',
  high: 'high',
  name: 'Level',
  starter: {
    text: 'a level of 1.1 V of 3.3 V behind a filter',
    target: { volts: 1.1, supplyV: 3.3, toleranceV: 0.01, minHz: 20000 },
  },
  shape,
  on: 'output',
  purpose: 'voltage',
  knob: { sets: 'duty' },
  readings: { of: 'duty', unit: 'V' },
  requirement,
  tokens,
  sentence: (target) => {
    const needed = requirement(target);
    const share = needed.duty.ideal;
    const supply = exact(target.supplyV).valueOf();
    const off = target.toleranceV ?? supply * TOLERANCE;
    const least = wantedHz(needed).valueOf();
    const { rippleV, ohms, farads } = target;
    const speed =
      rippleV !== undefined && ohms !== undefined && farads !== undefined
        ? [
            words(', with ripple below '),
            make('ripple', voltsText(rippleV), `${voltsText(rippleV)} = ${printHz(least)} or more`),
            words(' behind '),
            make('ohms', printUnit(ohms, 'Ω'), 'the resistor of the filter'),
            words(' and '),
            make('farads', printUnit(farads, 'F'), 'the capacitor of the filter'),
          ]
        : [words(', at '), make('minHz', printHz(least), frequencyAlso(least)), words(' or more')];
    return [
      words(' holds '),
      make(
        'volts',
        voltsText(target.volts),
        `${voltsText(target.volts)} = ${printPercent(share.valueOf(), 4)} = ${share.toFraction()} of the supply`,
      ),
      words(' of '),
      make('supply', voltsText(target.supplyV), voltsText(target.supplyV)),
      words(' within '),
      make(
        'tolerance',
        voltsText(off),
        `${voltsText(off)} = ±${printPercent(off / supply, 3)} of the supply`,
      ),
      ...speed,
      words('.'),
    ];
  },
  withFrequency: (target, frequency) => ({ ...target, minHz: amountOf(frequency) }),
  withDuty: (target, duty) => ({ ...target, volts: amountOf(duty.mul(exact(target.supplyV))) }),
  relaxations: ({ toleranceV: now }) =>
    now === undefined
      ? []
      : [
          {
            field: 'toleranceV',
            now,
            max: 20 * now,
            say: (value) => `within ±${printUnit(value, 'V')}`,
          },
        ],
  wish: {
    rank: 9,
    says: ['level', 'analog voltage', 'voltage'],
    things: ['meter', 'DAC', 'needle'],
    suits: (facts) => facts.has('volts'),
    read: (facts) => {
      const volts = facts.amount('volts');
      if (volts === undefined)
        return { asks: 'Which voltage, of which supply? Say for example 1.1 V of 3.3 V.' };
      const supplyV = facts.amount('supply', 'volts');
      if (supplyV === undefined) return { asks: 'Of which supply? Say for example 1.1 V of 3.3 V.' };
      const [ohms, farads] = [facts.number('ohms'), facts.number('farads')];
      const [toleranceV, rippleV] = [facts.number('within V'), facts.number('ripple')];
      const minHz = facts.amount('minHz', 'hz');
      return {
        target: {
          volts,
          supplyV,
          ...(toleranceV === undefined ? {} : { toleranceV }),
          ...(rippleV === undefined ? {} : { rippleV }),
          ...(ohms === undefined ? {} : { ohms }),
          ...(farads === undefined ? {} : { farads }),
          ...(minHz === undefined ? {} : { minHz }),
        },
      };
    },
  },
  supplyV: (target) => exact(target.supplyV).valueOf(),
};
