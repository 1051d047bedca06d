/**
 * The stages that are tested by mutation: what is mutated, and the tests that can see it. A line of tests is worth adding
 * where a mutant survives that one of its tests would find.
 */
export const STAGES = {
  check: { mutate: ['check'], tests: ['check'] },
};
