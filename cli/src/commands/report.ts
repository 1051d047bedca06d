import { command, PLAN } from '../command.ts';

/** A plan for a review. */
export const report = command<{ out?: string }>({
  name: 'report',
  help: 'describe a plan for a review: targets, settings, checks, interrupts, registers, and what they rest on',
  arguments: [PLAN],
  options: [
    { flags: '--out <file>', help: 'write it to this file, .html or .md; without it Markdown is printed' },
  ],
  run: async ([plan = ''], { out }) => (await import('../run/report.ts')).reportCommand(plan, out),
});
