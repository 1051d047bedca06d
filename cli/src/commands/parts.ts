import { command, TABLE } from '../command.ts';

/** The parts there are. */
export const parts = command<{ table?: boolean }>({
  name: 'parts',
  help: 'list the parts',
  arguments: [],
  options: [TABLE],
  run: async (_, options) => (await import('../run/parts.ts')).partsCommand(options),
});
