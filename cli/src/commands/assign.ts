import { command, count, PLAN, TABLE } from '../command.ts';
import type { AssignOptions } from '../run/assign.ts';

/** Timers, channels and pins for all signals together. */
export const assign = command<AssignOptions>({
  name: 'assign',
  help: 'assign timers, channels and pins to all signals together; exit code 1 if they do not fit',
  arguments: [PLAN],
  options: [
    { flags: '--out <file>', help: 'write the assigned plan to this file' },
    { flags: '--fixes', help: 'if the signals do not fit, try fixes for each conflict' },
    { flags: '--steps <n>', help: 'maximum number of search steps', read: count, initial: 400 },
    TABLE,
  ],
  run: async ([plan = ''], options) => (await import('../run/assign.ts')).assignCommand(plan, options),
});
