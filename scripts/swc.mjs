/** How SWC turns the TypeScript of units and their tests into what Jest runs. */
export const SWC = {
  jsc: {
    parser: { syntax: 'typescript', tsx: true },
    transform: { react: { runtime: 'automatic' } },
    target: 'es2022',
  },
};
