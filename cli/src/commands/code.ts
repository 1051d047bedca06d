import { command, PLAN } from '../command.ts';
import type { CodeOptions } from '../run/code.ts';

/** The C files of a plan. */
export const code = command<CodeOptions & { out: string }>({
  name: 'code',
  help: 'write the C files of a plan',
  arguments: [PLAN],
  options: [
    { flags: '--out <dir>', help: 'directory to write to; created if missing', is: 'required' },
    {
      flags: '--allow-interrupts',
      help: 'let the processor take interrupts at the end of the start routine',
    },
    {
      flags: '--device-header',
      help: 'call registers as the header of the device does, instead of by address',
    },
    {
      flags: '--start-up',
      help: 'add functions for the start-up: initialise the clocks from reset, route interrupts to lines of the processor',
    },
    { flags: '--main', help: 'add a minimal main program with places to fill in' },
  ],
  run: async ([plan = ''], options) =>
    (await import('../run/code.ts')).codeCommand(plan, options.out, options),
});
