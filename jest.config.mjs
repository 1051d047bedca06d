import { SWC } from './scripts/swc.mjs';

const esm = 'd3|d3-[^/]+|internmap|delaunator|robust-predicates|comlink|chevrotain';
const transform = {
  '^.+\\.(t|j|mj)sx?$': ['@swc/jest', SWC],
  '^.+\\.mjs$': ['@swc/jest', { jsc: { target: 'es2022' } }],
};
const shared = {
  transform,
  transformIgnorePatterns: [`/node_modules/(?!(${esm})/)`],
  modulePathIgnorePatterns: ['/.next/'],
  // Globals of a test's context are looked up anew at each use, which takes arithmetic ten times as long.
  sandboxInjectedGlobals: [
    'Math',
    'Number',
    'Array',
    'Object',
    'Map',
    'Set',
    'BigInt',
    'Float64Array',
    'JSON',
    'Infinity',
    'String',
    'Error',
    'RangeError',
    'WeakMap',
    'RegExp',
    'Boolean',
    'Uint8Array',
    'Float32Array',
    'Int32Array',
    'isNaN',
    'isFinite',
    'parseInt',
    'DataView',
  ],
  // Its packages can only be imported, which CommonJS cannot; the bundle of them can be transformed.
  moduleNameMapper: {
    '^chevrotain$': '<rootDir>/../node_modules/chevrotain/lib/chevrotain.min.mjs',
  },
};

export default {
  testSequencer: '<rootDir>/scripts/sequencer.mjs',
  projects: [
    {
      ...shared,
      displayName: 'core',
      rootDir: 'core',
      testEnvironment: process.env.HZ_COVERAGE
        ? '<rootDir>/../scripts/coverage/environment.mjs'
        : '<rootDir>/../scripts/environment.mjs',
      testMatch: ['<rootDir>/test/**/*.test.ts'],
    },
    {
      ...shared,
      displayName: 'cli',
      rootDir: 'cli',
      testEnvironment: '<rootDir>/../scripts/environment.mjs',
      testMatch: ['<rootDir>/test/**/*.test.ts'],
    },
    {
      ...shared,
      displayName: 'web',
      rootDir: 'web',
      testEnvironment: '<rootDir>/../scripts/page-environment.mjs',
      testMatch: ['<rootDir>/test/**/*.test.{ts,tsx}'],
      moduleNameMapper: { ...shared.moduleNameMapper, '\\.module\\.css$': '<rootDir>/test/styles.mjs' },
    },
  ],
};
