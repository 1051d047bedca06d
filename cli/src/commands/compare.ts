import { command, count, PLAN, TABLE } from '../command.ts';

/** The same plan on every part. */
export const compare = command<{ steps: number; table?: boolean }>({
  name: 'compare',
  help: 'try the same plan on every part',
  arguments: [PLAN],
  options: [
    { flags: '--steps <n>', help: 'maximum number of search steps on each part', read: count, initial: 100 },
    TABLE,
  ],
  run: async ([plan = ''], options) => (await import('../run/assign.ts')).compareCommand(plan, options),
});
