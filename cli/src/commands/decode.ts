import { command } from '../command.ts';

/** What register values produce. */
export const decode = command<{ signal?: string; file?: string }>({
  name: 'decode',
  help: 'show what register values produce, and which slip explains a difference from the target',
  arguments: [
    { name: 'plan', help: 'plan file: its part and clock' },
    { name: 'values', help: 'REGISTER=VALUE, as C writes it', is: 'list' },
  ],
  options: [
    { flags: '--signal <id>', help: 'compare with this signal of the plan' },
    { flags: '--file <file>', help: 'decode the statements in this file instead of values' },
  ],
  run: async ([plan = '', ...values], options) =>
    (await import('../run/decode.ts')).decodeCommand(plan, values, options),
});
