import { Command, CommanderError, InvalidArgumentError, Option } from 'commander';
import { RANKINGS, type Ranking } from '@herzschlag/core';
import { assignCommand, whichCommand } from './assign.ts';
import { checkCommand, type CheckOptions } from './check.ts';
import { codeCommand } from './code.ts';
import { fitCommand } from './fit.ts';
import { partsCommand } from './parts.ts';
import { UsageError } from './plan.ts';
import { readCommand } from './decode.ts';
import { tickCommand } from './share-tick.ts';
import { traceCommand } from './trace.ts';

function wholeNumber(text: string): number {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 1)
    throw new InvalidArgumentError('It must be a whole number from 1 up.');
  return value;
}

function collected(one: string, others: string[]): string[] {
  return [...others, one];
}

function seconds(text: string): number {
  const value = Number(text);
  if (!(value > 0) || value > 1e6) throw new InvalidArgumentError('It must be a time in s, up to a million.');
  return value;
}

function oneLine(text: string): string {
  return text.replace(/\s*\n\s*/g, ' ').trim();
}

/**
 * Runs `hz` with its arguments; output on standard output, errors as one line on standard error.
 * @returns the exit code: 0, 1 when a check misses, 2 for any error.
 */
export async function run(args: readonly string[]): Promise<number> {
  let code = 0;
  const program = new Command('hz')
    .description('Timer settings, waveforms and verdicts for microcontroller pins.')
    .exitOverride()
    .configureOutput({ writeErr: () => undefined });
  program
    .command('parts')
    .description('list the parts')
    .option('--table', 'print a table instead of JSON')
    .action((options: { table?: boolean }) => console.log(partsCommand(options)));
  program
    .command('fit')
    .description('find the settings that can serve the signals of a plan, best first')
    .argument('<plan>', 'plan file')
    .option('--signal <id>', 'only this signal')
    .option('--limit <n>', 'most candidates for each signal', wholeNumber, 20)
    .addOption(new Option('--rank <order>', 'what counts first').choices([...RANKINGS]).default('cpu'))
    .option('--table', 'print a table instead of JSON')
    .action(
      async (plan: string, options: { signal?: string; limit: number; rank: Ranking; table?: boolean }) =>
        console.log(await fitCommand(plan, options)),
    );
  program
    .command('check')
    .description('hold every signal against its target; exit code 1 when one misses')
    .argument('<plan>', 'plan file')
    .option('--capture <file>', 'hold this capture (.vcd, .csv, .wav) against it too')
    .option('--as <wire=signal>', 'which wire shows which signal; may be said again', collected, [])
    .option('--junit <file>', 'write a JUnit report')
    .option('--table', 'print a table instead of JSON')
    .action(async (plan: string, options: CheckOptions) => {
      const { text, fails } = await checkCommand(plan, options);
      console.log(text);
      if (fails) code = 1;
    });
  program
    .command('allot')
    .description('place all signals of a plan together; exit code 1 where that does not go')
    .argument('<plan>', 'plan file')
    .option('--ways', 'where it does not go, try ways out of each conflict')
    .option('--seconds <s>', 'stop after this time with the best found', seconds, 10)
    .option('--table', 'print a table instead of JSON')
    .action(async (plan: string, options: { seconds: number; routes?: boolean; table?: boolean }) => {
      const { text, feasible } = await assignCommand(plan, options);
      console.log(text);
      if (!feasible) code = 1;
    });
  program
    .command('which')
    .description('try the same plan on every part')
    .argument('<plan>', 'plan file')
    .option('--seconds <s>', 'stop after this time with each part', seconds, 3)
    .option('--table', 'print a table instead of JSON')
    .action(async (plan: string, options: { seconds: number; table?: boolean }) =>
      console.log(await whichCommand(plan, options)),
    );
  program
    .command('trace')
    .description('write what the pins do into a file: .vcd, .csv, or one signal as .wav')
    .argument('<plan>', 'plan file')
    .requiredOption('--seconds <s>', 'how long', seconds)
    .requiredOption('--out <file>', 'file to write')
    .option('--signal <id>', 'only this signal')
    .action(async (plan: string, options: { seconds: number; out: string; signal?: string }) =>
      console.log(await traceCommand(plan, options)),
    );
  program
    .command('code')
    .description('write the C files of a plan')
    .argument('<plan>', 'plan file')
    .requiredOption('--out <dir>', 'directory to write to; it is made where it is missing')
    .action(async (plan: string, options: { out: string }) =>
      console.log(await codeCommand(plan, options.out)),
    );
  program
    .command('read')
    .description('say what register values produce, and which slip explains why it is not what was wanted')
    .argument('<plan>', 'plan file: its part and clock')
    .argument('[values...]', 'REGISTER=VALUE, as C writes it')
    .option('--signal <id>', 'hold it against this signal of the plan')
    .option('--file <file>', 'lines of code to read instead of values')
    .action(async (plan: string, values: string[], options: { signal?: string; file?: string }) =>
      console.log(await readCommand(plan, values, options)),
    );
  program
    .command('tick')
    .description('find the slowest tick of a free timer from which several signals can be counted')
    .argument('<plan>', 'plan file')
    .argument('[signals...]', 'ids of the signals; all slow ones that can be counted where none is given')
    .option('--table', 'print a table instead of JSON')
    .action(async (plan: string, ids: string[], options: { table?: boolean }) =>
      console.log(await tickCommand(plan, ids, options)),
    );
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
