import { exact } from '../../../src/quantity/exact.ts';
import { bandPpm } from '../../../src/signal/band.ts';
import type { Kind } from '../../../src/signal/kinds/index.ts';

type FlickerTarget = { frequencyHz: number };

/** A made-up kind: high for half of each period, within 500 ppm. */
export const flicker: Kind<FlickerTarget, 'flicker'> = {
  id: 'flicker',
  verb: 'flickers',
  high: 'on',
  name: 'Flicker',
  starter: { text: 'a lamp that flickers', target: { frequencyHz: 5 } },
  shape: { frequencyHz: { type: 'amount', above: 0, max: 1e9, required: true } },
  on: 'output',
  purpose: 'rhythm',
  requirement: ({ frequencyHz }) => {
    const half = exact('1/2');
    return {
      frequency: { kind: 'near', ...bandPpm(exact(frequencyHz), 500) },
      duty: { ideal: half, low: half, high: half },
      minSteps: 1,
      pin: true,
    };
  },
  sentence: ({ frequencyHz }) => [
    { text: ' flickers at ' },
    {
      token: 'rate',
      text: `${frequencyHz} Hz`,
      also: '',
      dimension: 'frequency',
      label: 'rate',
      stepped: 'frequency',
    },
    { text: '.' },
  ],
  tokens: { rate: { dimension: 'frequency', label: 'rate', field: 'frequencyHz', plain: true } },
  withFrequency: (_, frequency) => ({ frequencyHz: frequency.valueOf() }),
  withDuty: () => undefined,
  relaxations: () => [],
  wish: { rank: 99 },
};
