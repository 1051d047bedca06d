import { command, PLAN, TABLE } from '../command.ts';
import type { CheckOptions } from '../run/check.ts';

/** Every signal against its target, computed and captured. */
export const check = command<CheckOptions>({
  name: 'check',
  help: 'check every signal against its target; exit code 1 if a check fails',
  arguments: [PLAN],
  options: [
    { flags: '--capture <file>', help: 'also check this capture (.vcd, .csv, .wav)' },
    {
      flags: '--as <wire=signal>',
      help: 'which wire of the capture shows which signal; repeatable',
      is: 'repeatable',
      initial: [],
    },
    { flags: '--junit <file>', help: 'write a JUnit report' },
    TABLE,
  ],
  run: async ([plan = ''], options) => (await import('../run/check.ts')).checkCommand(plan, options),
});
