import { STAGES } from './stages.mjs';

const stage = process.env.HZ_STAGE ?? '';
const { mutate, tests } = STAGES[stage] ?? { mutate: [], tests: [] };
process.env.HZ_TESTS = tests.join();

/** Mutation testing of one stage, named by HZ_STAGE. */
export default {
  testRunner: 'jest',
  plugins: ['@stryker-mutator/jest-runner'],
  jest: { configFile: 'mutation/jest.config.mjs', enableFindRelatedTests: false },
  mutate: mutate.map((one) => `core/src/${one}${one.endsWith('.ts') ? '' : '/**/*.ts'}`),
  coverageAnalysis: 'perTest',
  // What runs once as a module is loaded would need every test again, for a constant that few of them see.
  ignoreStatic: true,
  testRunnerNodeArgs: ['--import', new URL('../scripts/compile-once.mjs', import.meta.url).href],
  concurrency: Number(process.env.HZ_WORKERS ?? 2),
  timeoutMS: 20_000,
  reporters: ['progress-append-only', 'clear-text', 'json'],
  clearTextReporter: { allowColor: false, logTests: false, reportTests: false, reportScoreTable: true },
  jsonReporter: { fileName: `out/mutation/${stage}.json` },
  tempDirName: '.cache/stryker',
  ignorePatterns: ['web', 'e2e', 'cli', 'docs', 'out', 'bench', 'examples/*.vcd', '.cache'],
  inPlace: false,
};
