import { command } from '../command.ts';
import { UsageError } from '../usage-error.ts';

/** What can be done with a part file. */
export const part = command<object>({
  name: 'part',
  help: 'check a part file: what it refers to, what contradicts itself, every setting of it; exit code 1 if something is wrong',
  arguments: [
    { name: 'task', help: 'check' },
    { name: 'file', help: 'part file; - is standard input' },
  ],
  options: [],
  run: async ([task = '', file = '']) => {
    if (task !== 'check') throw new UsageError(`hz part has no task “${task}”; it has check.`);
    return (await import('../run/part.ts')).partCheckCommand(file);
  },
});
