import { command, PLAN, TABLE } from '../command.ts';
import type { LengthsOptions } from '../run/lengths.ts';

/** The cycles of the generated handlers. */
export const lengths = command<LengthsOptions>({
  name: 'lengths',
  help: 'count the cycles of the generated handlers in the listing of the part’s compiler',
  arguments: [PLAN],
  options: [TABLE, { flags: '--out <file>', help: 'write the plan with these lengths to this file' }],
  run: async ([plan = ''], options) => (await import('../run/lengths.ts')).lengthsCommand(plan, options),
});
