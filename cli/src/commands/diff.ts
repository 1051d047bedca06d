import { command, PLAN } from '../command.ts';

/** What is different between two plans. */
export const diff = command<{ table?: boolean }>({
  name: 'diff',
  help: 'show what is different between two plans: signals, settings, registers, code, checks; exit code 1 if a check got worse',
  arguments: [PLAN, { name: 'other', help: 'the plan file that it is compared with' }],
  options: [{ flags: '--table', help: 'print lines for people instead of JSON' }],
  run: async ([plan = '', other = ''], options) =>
    (await import('../run/diff.ts')).diffCommand(plan, other, options),
});
