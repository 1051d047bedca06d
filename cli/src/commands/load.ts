import { command, ONE_SIGNAL, PLAN, whole } from '../command.ts';
import type { LoadOptions } from '../run/load.ts';

/** What hangs on the pins. */
export const load = command<LoadOptions>({
  name: 'load',
  help: 'report what hangs on the pins: loads, readings, knobs; exit code 1 if one of their limits fails',
  arguments: [PLAN],
  options: [
    { flags: '--table', help: 'print text instead of JSON' },
    ONE_SIGNAL,
    {
      flags: '--knob <reading>',
      help: 'the setting that this reading of the knob makes',
      read: whole(0, 65_535, 'It must be a whole number from 0 to 65 535.'),
    },
  ],
  run: async ([plan = ''], options) => (await import('../run/load.ts')).loadCommand(plan, options),
});
