import { command, PLAN, TABLE } from '../command.ts';

/** One interrupt from which several signals are counted. */
export const shareTick = command<{ table?: boolean }>({
  name: 'share-tick',
  help: 'find the slowest interrupt of a free timer from which several signals can be counted',
  arguments: [
    PLAN,
    { name: 'signals', help: 'ids of the signals; by default all slow ones that can be counted', is: 'list' },
  ],
  options: [TABLE],
  run: async ([plan = '', ...ids], options) =>
    (await import('../run/share-tick.ts')).shareTickCommand(plan, ids, options),
});
