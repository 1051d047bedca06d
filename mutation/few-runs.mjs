import fc from 'fast-check';

// Each mutant runs its tests again: few cases, and the same ones each time, so that a score can be repeated.
fc.configureGlobal({ seed: 20_261, numRuns: 40 });
