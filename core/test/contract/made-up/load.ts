import type { LoadModel, LoadValues } from '../../../src/load/model.ts';

const fields = {
  holdA: { label: 'current', dimension: 'amps', above: 0, max: 10 },
  sense: { label: 'pulls in when', choices: ['high', 'low'], optional: true },
} as const;

/** A made-up load: a relay, with the current that its coil takes. */
export const relay: LoadModel<LoadValues<typeof fields>, 'relay'> = {
  id: 'relay',
  name: 'Relay',
  suits: ['rhythm'],
  demo: { kind: 'blink', target: { frequencyHz: 0.5, duty: 0.5 } },
  fields,
  starter: { holdA: 0.01 },
  report: ({ holdA, sense = 'high' }, { frequencyHz, duty, pinA }) => ({
    headline: `${sense === 'high' ? duty : 1 - duty} on`,
    facts: [],
    advice: [],
    checks: [{ label: 'current of the coil', unit: 'A', value: holdA, high: pinA }],
    picture: { kind: 'rhythm', frequencyHz, duty },
  }),
};
