/**
 * The stages that are tested by mutation: what of core/src is mutated, and which of core/test can see it. Tests that search or
 * compile for seconds are left out, since every mutant runs those that reach it.
 */
export const STAGES = {
  check: { mutate: ['check'], tests: ['check'] },
  slips: { mutate: ['slips'], tests: ['slips'] },
  knob: { mutate: ['knob'], tests: ['knob'] },
  wave: {
    mutate: ['wave'],
    tests: [
      'wave/begin.test.ts',
      'wave/counter.test.ts',
      'wave/first-edge.test.ts',
      'wave/measure.test.ts',
      'wave/sequence.test.ts',
      'wave/sound.test.ts',
      'wave/source.test.ts',
      'wave/threshold.test.ts',
      'wave/wave.test.ts',
      'capture/compare.test.ts',
    ],
  },
  machine: { mutate: ['machine'], tests: ['machine'] },
  timer: {
    mutate: ['timer'],
    tests: ['timer', 'wave/counter.test.ts', 'codegen/emitted.test.ts', 'evaluate/evaluate.test.ts'],
  },
  counter: { mutate: ['assign/counter'], tests: ['assign/share-counter.test.ts'] },
  evaluate: { mutate: ['evaluate'], tests: ['evaluate'] },
};
