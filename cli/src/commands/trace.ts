import { command, ONE_SIGNAL, PLAN, seconds } from '../command.ts';

/** The waveforms as a file. */
export const trace = command<{ seconds: number; out: string; signal?: string }>({
  name: 'trace',
  help: 'write the waveforms to a file: .vcd, .csv, or one signal as .wav',
  arguments: [PLAN],
  options: [
    { flags: '--seconds <s>', help: 'duration', read: seconds, is: 'required' },
    { flags: '--out <file>', help: 'file to write', is: 'required' },
    ONE_SIGNAL,
  ],
  run: async ([plan = ''], options) => (await import('../run/trace.ts')).traceCommand(plan, options),
});
