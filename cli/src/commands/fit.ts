import type { Ranking } from '@herzschlag/core';
import { command, count, ONE_SIGNAL, PLAN, TABLE } from '../command.ts';

/** The orders in which settings can be listed; the core has the same ones. */
const RANKINGS: Record<Ranking, true> = {
  cpu: true,
  closest: true,
  finest: true,
  jitter: true,
  readable: true,
};

/** The settings of each signal. */
export const fit = command<{ signal?: string; limit: number; rank: Ranking; table?: boolean }>({
  name: 'fit',
  help: 'list the settings that meet the target of each signal, best first',
  arguments: [PLAN],
  options: [
    ONE_SIGNAL,
    { flags: '--limit <n>', help: 'maximum number of settings per signal', read: count, initial: 20 },
    { flags: '--rank <order>', help: 'what to sort by', choices: Object.keys(RANKINGS), initial: 'cpu' },
    TABLE,
  ],
  run: async ([plan = ''], options) => (await import('../run/fit.ts')).fitCommand(plan, options),
});
