/** How SWC turns the TypeScript of units and their tests into what Jest runs. */
export const SWC = {
  jsc: {
    parser: { syntax: 'typescript', tsx: true },
    transform: { react: { runtime: 'automatic' } },
    target: 'es2022',
  },
  // Packages that take long to load are loaded when they are first used; most test files never do.
  module: { type: 'commonjs', lazy: ['joi', 'chevrotain', 'd3-dsv', 'diff', 'jsonc-parser'] },
};
