export default {
  displayName: 'interface',
  testEnvironment: 'node',
  testSequencer: '<rootDir>/../scripts/sequencer.mjs',
  testMatch: ['<rootDir>/test/**/*.test.ts'],
  globalSetup: '<rootDir>/support/setup.ts',
  globalTeardown: '<rootDir>/support/teardown.ts',
  // Each file has a browser of its own.
  maxWorkers: 2,
  testTimeout: 120000,
  transform: { '^.+\\.ts$': ['@swc/jest', { jsc: { parser: { syntax: 'typescript' }, target: 'es2022' } }] },
};
