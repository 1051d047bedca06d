import { amountOf, exact } from '../../quantity/exact.ts';
import { printHz, printNumber, printPercent } from '../../quantity/print.ts';
import { bandAround, bandPpm } from '../band.ts';
import type { Requirement } from '../requirement.ts';
import { TargetError } from '../target-error.ts';
import { spanOf } from './common.ts';
import type { Kind } from './kind.ts';
import { frequencyAlso, makerOf, words } from './pieces.ts';
import { POSITIVE, required, type Amount, type TargetOf } from './shape.ts';
import type { Facts } from '../wish/facts.ts';
import type { Wished } from './wish.ts';

/** The default error of a reading, as a share of a period. */
const RESOLUTION = 0.01;

const shape = {
  minHz: required(POSITIVE),
  maxHz: required(POSITIVE),
  resolution: { type: 'number', above: 0, max: 1 },
} as const;

/** An input: signals between two frequencies are measured, each period to a share of itself. */
export type MeasureTarget = TargetOf<typeof shape>;

function requirement(target: MeasureTarget): Requirement {
  const resolution = target.resolution ?? RESOLUTION;
  if (!(resolution > 0 && resolution <= 1)) {
    throw new TargetError('resolution', `resolution must lie between 0 and 1, and is ${resolution}.`);
  }
  const { low, high } = spanOf('frequency', target.minHz, target.maxHz, exact(resolution), 'minHz');
  return {
    frequency: { kind: 'near', ...bandPpm(high, Math.min(999999, resolution * 1e6)) },
    duty: bandAround(exact('0.5'), exact('0.5')),
    minSteps: 1,
    pin: true,
    input: { slowest: low, fastest: high, resolution },
  };
}

const tokens: Kind<MeasureTarget>['tokens'] = {
  minHz: { dimension: 'frequency', label: 'slowest', field: 'minHz' },
  maxHz: { dimension: 'frequency', label: 'fastest', field: 'maxHz' },
  resolution: { dimension: 'duty', label: 'resolution', field: 'resolution', plain: true },
};
const make = makerOf(tokens);

function rate(token: string, hz: Amount) {
  const value = exact(hz).valueOf();
  return make(token, printHz(value), frequencyAlso(value, 'speed'));
}

/** The share of a period that a wish allows: "within 1 %", or "to 0.5 %". */
function resolutionIn(facts: Facts): number | undefined {
  const within = facts.number('within');
  return within === undefined ? facts.number('share') : within / 1e6;
}

function wished(facts: Facts): Wished<MeasureTarget> {
  const pulses = exact(facts.number('pulses a turn') ?? 1);
  const resolution = resolutionIn(facts);
  const fine = resolution === undefined ? {} : { resolution: Number(resolution.toPrecision(12)) };
  const of = (hz: Amount): Amount => amountOf(exact(hz).mul(pulses));
  const span = facts.span('hz span');
  if (span) return { target: { minHz: of(span[0]), maxHz: of(span[1]), ...fine } };
  const maxHz = facts.amount('maxHz', 'hz', 'rpm', 'rate');
  if (maxHz === undefined) return { asks: 'Over which range of frequencies? Say for example 1 to 200 Hz.' };
  const low = exact(1).compare(exact(maxHz)) < 0 ? 1 : amountOf(exact(maxHz).div(100));
  facts.assume('from 1 Hz');
  return { target: { minHz: of(low), maxHz: of(maxHz), ...fine } };
}

/** An input whose periods are measured. */
export const measure: Kind<MeasureTarget, 'measure'> = {
  id: 'measure',
  verb: 'measures',
  high: 'high',
  name: 'Input',
  starter: {
    text: 'an input of 1 to 200 Hz to measure',
    target: { minHz: 1, maxHz: 200, resolution: 0.005 },
  },
  shape,
  on: 'input',
  requirement,
  tokens,
  sentence: (target) => {
    const share = target.resolution ?? RESOLUTION;
    const counts = `${printNumber(1 / share, 5)} counts or more in the shortest period`;
    return [
      words(' measures from '),
      rate('minHz', target.minHz),
      words(' to '),
      rate('maxHz', target.maxHz),
      words(' to '),
      make('resolution', printPercent(share, 4), `${printPercent(share, 4)} = ${counts}`),
      words(' of the period.'),
    ];
  },
  withFrequency: (target, frequency) => ({ ...target, minHz: amountOf(frequency) }),
  withDuty: () => undefined,
  relaxations: ({ resolution: now = RESOLUTION }) => [
    { field: 'resolution', now, max: 0.1, say: (value) => `to ${printPercent(value, 3)}` },
  ],
  wish: {
    rank: 1,
    says: ['measure', 'read', 'count', 'capture'],
    is: ['anemometer', 'input', 'tachometer'],
    things: ['sensor', 'encoder'],
    read: wished,
  },
};
