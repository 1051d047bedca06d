import { SWC } from '../scripts/swc.mjs';

/** The tests of the core that can see a stage, from HZ_TESTS: folders and files of core/test, separated by commas. */
const tests = (process.env.HZ_TESTS ?? '').split(',').filter(Boolean);

export default {
  rootDir: '../core',
  testEnvironment: 'jest-environment-node',
  transform: {
    '^.+\\.(t|j|mj)sx?$': ['@swc/jest', SWC],
    '^.+\\.mjs$': ['@swc/jest', { jsc: { target: 'es2022' } }],
  },
  transformIgnorePatterns: ['/node_modules/(?!(d3|d3-[^/]+|internmap|chevrotain)/)'],
  moduleNameMapper: { '^chevrotain$': '<rootDir>/../node_modules/chevrotain/lib/chevrotain.min.mjs' },
  testMatch: tests.map((one) => `<rootDir>/test/${one}${one.endsWith('.ts') ? '' : '/**/*.test.ts'}`),
  setupFiles: ['<rootDir>/../mutation/few-runs.mjs'],
};
