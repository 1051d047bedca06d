import { command } from '../command.ts';

/** What a program or register values do. */
export const decode = command<{ signal?: string; file?: string; out?: string }>({
  name: 'decode',
  help: 'show what a program or some register values do, and which slip explains a difference from a target',
  arguments: [
    { name: 'plan', help: 'plan file: its part and clock; or the id of a part, or a part file' },
    {
      name: 'values',
      help: 'a file with a program (- is standard input), or REGISTER=VALUE, as C writes it',
      is: 'list',
    },
  ],
  options: [
    { flags: '--signal <id>', help: 'compare with this signal of the plan' },
    { flags: '--file <file>', help: 'decode the program in this file instead of values' },
    { flags: '--out <file>', help: 'write a plan with a signal for everything that was read' },
  ],
  run: async ([plan = '', ...values], options) =>
    (await import('../run/decode.ts')).decodeCommand(plan, values, options),
});
