import { command, PLAN } from '../command.ts';

/** Everything of a plan in one file. */
export const archive = command<{ out: string; capture?: string }>({
  name: 'archive',
  help: 'pack a plan, its code, its report and a capture into one ZIP archive, which opens like a plan',
  arguments: [PLAN],
  options: [
    { flags: '--out <file>', help: 'the archive to write', is: 'required' },
    { flags: '--capture <file>', help: 'a capture (VCD, CSV or WAV) to put beside the plan, as it is' },
  ],
  run: async ([plan = ''], { out, capture }) =>
    (await import('../run/archive.ts')).archiveCommand(plan, out, capture),
});
