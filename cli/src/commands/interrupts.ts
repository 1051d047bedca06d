import { command, PLAN, seconds, TABLE, whole } from '../command.ts';
import type { InterruptsOptions } from '../run/interrupts.ts';

/** The interrupts of a plan, simulated. */
export const interrupts = command<InterruptsOptions>({
  name: 'interrupts',
  help: 'simulate the interrupts: waits, bounds, losses, deadlines; exit code 1 if a deadline fails',
  arguments: [PLAN],
  options: [
    TABLE,
    { flags: '--seconds <s>', help: 'time to simulate; 1 s by default', read: seconds },
    {
      flags: '--seed <n>',
      help: 'seed of what is random',
      read: whole(0, 2 ** 32, 'It must be a whole number from 0 to 4 294 967 296.'),
    },
  ],
  run: async ([plan = ''], options) =>
    (await import('../run/interrupts.ts')).interruptsCommand(plan, options),
});
