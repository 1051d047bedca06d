import { Command, CommanderError } from 'commander';
import manifest from '../package.json';
import { parserOf, type CommandRecord } from './command.ts';
import { COMMANDS } from './commands/index.ts';
import { UsageError } from './usage-error.ts';

function oneLine(text: string): string {
  return text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
    .join(' ');
}

/**
 * Runs `hz` with its arguments; output on standard output, errors as one line on standard error.
 * @returns the exit code: 0, 1 if a check fails or signals do not fit, 2 for any error.
 */
export async function run(
  args: readonly string[],
  commands: readonly CommandRecord[] = COMMANDS,
): Promise<number> {
  let code = 0;
  const program = new Command('hz')
    .description('Timer settings, waveforms and verdicts for microcontroller pins.')
    .version(manifest.version)
    .exitOverride()
    .configureOutput({ writeErr: () => undefined });
  for (const record of commands) {
    const parser = parserOf(record, ({ text, fails, problems = [] }) => {
      if (text !== '') console.log(text);
      for (const problem of problems) console.error(problem);
      if (fails || problems.length > 0) code = 1;
    });
    program.addCommand(parser.copyInheritedSettings(program));
  }
  try {
    await program.parseAsync(args, { from: 'user' });
  } catch (error) {
    if (error instanceof CommanderError) {
      if (error.exitCode === 0) return 0;
      console.error(
        oneLine(error.message === '(outputHelp)' ? 'hz: a command is missing; see hz --help' : error.message),
      );
      return 2;
    }
    if (!(error instanceof UsageError)) throw error;
    console.error(oneLine(`hz: ${error.message}`));
    return 2;
  }
  return code;
}
