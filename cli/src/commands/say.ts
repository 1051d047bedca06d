import { command } from '../command.ts';
import type { SayOptions } from '../run/say.ts';

/** A plan of wishes in plain words. */
export const say = command<SayOptions>({
  name: 'say',
  help: 'make a plan of wishes in plain words; exit code 1 if something was not understood',
  arguments: [
    { name: 'part', help: 'id of a part, as hz parts lists them, or a part file' },
    {
      name: 'wishes',
      help: 'one wish each, such as "fan 25 kHz 40 %"; without any, lines of standard input',
      is: 'list',
    },
  ],
  options: [
    { flags: '--name <name>', help: 'name of the plan', initial: 'New plan' },
    { flags: '--out <file>', help: 'write the plan to this file' },
  ],
  run: async ([part = '', ...wishes], options) =>
    (await import('../run/say.ts')).sayCommand(part, wishes, options),
});
