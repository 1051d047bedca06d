import { Command, CommanderError, InvalidArgumentError, Option } from 'commander';
import type { CodeOptions } from './code.ts';
import type { Ranking } from '@herzschlag/core';
import type { AssignOptions } from './assign.ts';
import type { CheckOptions } from './check.ts';
import type { LengthsOptions } from './lengths.ts';
import type { InterruptsOptions } from './interrupts.ts';
import type { LoadOptions } from './load.ts';
import type { SayOptions } from './say.ts';
import manifest from '../package.json';
import { UsageError } from './usage-error.ts';

const commands = () => import('./commands.ts');

/** The orders in which settings can be listed; the core has the same ones. */
const RANKINGS: Record<Ranking, true> = {
  cpu: true,
  closest: true,
  finest: true,
  jitter: true,
  readable: true,
};

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
  if (!(value > 0) || value > 1e6) throw new InvalidArgumentError('It must be a time in s, up to 1 000 000.');
  return value;
}

function reading(text: string): number {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 0 || value > 65_535)
    throw new InvalidArgumentError('It must be a whole number from 0 to 65 535.');
  return value;
}

function seed(text: string): number {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 0 || value > 2 ** 32) {
    throw new InvalidArgumentError('It must be a whole number from 0 to 4 294 967 296.');
  }
  return value;
}

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
export async function run(args: readonly string[]): Promise<number> {
  let code = 0;
  const program = new Command('hz')
    .description('Timer settings, waveforms and verdicts for microcontroller pins.')
    .version(manifest.version)
    .exitOverride()
    .configureOutput({ writeErr: () => undefined });
  program
    .command('parts')
    .description('list the parts')
    .option('--table', 'print a table instead of JSON')
    .action(async (options: { table?: boolean }) =>
      console.log(await (await commands()).partsCommand(options)),
    );
  program
    .command('fit')
    .description('list the settings that meet the target of each signal, best first')
    .argument('<plan>', 'plan file; - is standard input')
    .option('--signal <id>', 'only this signal')
    .option('--limit <n>', 'maximum number of settings per signal', wholeNumber, 20)
    .addOption(new Option('--rank <order>', 'what to sort by').choices(Object.keys(RANKINGS)).default('cpu'))
    .option('--table', 'print a table instead of JSON')
    .action(
      async (plan: string, options: { signal?: string; limit: number; rank: Ranking; table?: boolean }) =>
        console.log(await (await commands()).fitCommand(plan, options)),
    );
  program
    .command('check')
    .description('check every signal against its target; exit code 1 if a check fails')
    .argument('<plan>', 'plan file; - is standard input')
    .option('--capture <file>', 'also check this capture (.vcd, .csv, .wav)')
    .option('--as <wire=signal>', 'which wire of the capture shows which signal; repeatable', collected, [])
    .option('--junit <file>', 'write a JUnit report')
    .option('--table', 'print a table instead of JSON')
    .action(async (plan: string, options: CheckOptions) => {
      const { text, fails } = await (await commands()).checkCommand(plan, options);
      console.log(text);
      if (fails) code = 1;
    });
  program
    .command('assign')
    .description('assign timers, channels and pins to all signals together; exit code 1 if they do not fit')
    .argument('<plan>', 'plan file; - is standard input')
    .option('--out <file>', 'write the assigned plan to this file')
    .option('--fixes', 'if the signals do not fit, try fixes for each conflict')
    .option('--steps <n>', 'maximum number of search steps', wholeNumber, 400)
    .option('--table', 'print a table instead of JSON')
    .action(async (plan: string, options: AssignOptions) => {
      const { text, feasible } = await (await commands()).assignCommand(plan, options);
      console.log(text);
      if (!feasible) code = 1;
    });
  program
    .command('compare')
    .description('try the same plan on every part')
    .argument('<plan>', 'plan file; - is standard input')
    .option('--steps <n>', 'maximum number of search steps on each part', wholeNumber, 100)
    .option('--table', 'print a table instead of JSON')
    .action(async (plan: string, options: { steps: number; table?: boolean }) =>
      console.log(await (await commands()).compareCommand(plan, options)),
    );
  program
    .command('trace')
    .description('write the waveforms to a file: .vcd, .csv, or one signal as .wav')
    .argument('<plan>', 'plan file; - is standard input')
    .requiredOption('--seconds <s>', 'duration', seconds)
    .requiredOption('--out <file>', 'file to write')
    .option('--signal <id>', 'only this signal')
    .action(async (plan: string, options: { seconds: number; out: string; signal?: string }) =>
      console.log(await (await commands()).traceCommand(plan, options)),
    );
  program
    .command('interrupts')
    .description('simulate the interrupts: waits, bounds, losses, deadlines; exit 1 when a deadline fails')
    .argument('<plan>', 'plan file; - is standard input')
    .option('--table', 'print a table instead of JSON')
    .option('--seconds <s>', 'time to simulate; 1 s without it', seconds)
    .option('--seed <n>', 'seed of what is random', seed)
    .action(async (plan: string, options: InterruptsOptions) => {
      const { text, fails } = await (await commands()).interruptsCommand(plan, options);
      console.log(text);
      if (fails) code = 1;
    });
  program
    .command('load')
    .description('tell what hangs on the pins: loads, readings, knobs; exit 1 when a limit of them fails')
    .argument('<plan>', 'plan file; - is standard input')
    .option('--table', 'print text instead of JSON')
    .option('--signal <id>', 'only this signal')
    .option('--knob <reading>', 'the setting that this reading of the knob makes', reading)
    .action(async (plan: string, options: LoadOptions) => {
      const { text, fails } = await (await commands()).loadCommand(plan, options);
      console.log(text);
      if (fails) code = 1;
    });
  program
    .command('lengths')
    .description('count the cycles of the generated handlers in the listing of the part’s compiler')
    .argument('<plan>', 'plan file; - is standard input')
    .option('--table', 'print a table instead of JSON')
    .option('--out <file>', 'write the plan with these lengths to this file')
    .action(async (plan: string, options: LengthsOptions) =>
      console.log(await (await commands()).lengthsCommand(plan, options)),
    );
  program
    .command('code')
    .description('write the C files of a plan')
    .argument('<plan>', 'plan file; - is standard input')
    .requiredOption('--out <dir>', 'directory to write to; created if missing')
    .option('--allow-interrupts', 'let the processor take interrupts at the end of the start routine')
    .option('--device-header', 'call registers as the header of the device does, instead of by address')
    .option(
      '--start-up',
      'add functions for the start-up: bring the clocks up from reset, lead interrupts to lines of the processor',
    )
    .action(async (plan: string, options: CodeOptions & { out: string }) =>
      console.log(await (await commands()).codeCommand(plan, options.out, options)),
    );
  program
    .command('decode')
    .description('show what register values produce, and which slip explains a difference from the target')
    .argument('<plan>', 'plan file: its part and clock')
    .argument('[values...]', 'REGISTER=VALUE, as C writes it')
    .option('--signal <id>', 'compare with this signal of the plan')
    .option('--file <file>', 'decode the statements in this file instead of values')
    .action(async (plan: string, values: string[], options: { signal?: string; file?: string }) =>
      console.log(await (await commands()).decodeCommand(plan, values, options)),
    );
  program
    .command('share-tick')
    .description('find the slowest interrupt of a free timer from which several signals can be counted')
    .argument('<plan>', 'plan file; - is standard input')
    .argument('[signals...]', 'ids of the signals; by default all slow ones that can be counted')
    .option('--table', 'print a table instead of JSON')
    .action(async (plan: string, ids: string[], options: { table?: boolean }) =>
      console.log(await (await commands()).shareTickCommand(plan, ids, options)),
    );
  program
    .command('say')
    .description('make a plan of wishes in plain words; exit code 1 if something was not understood')
    .argument('<part>', 'id of a part, as hz parts lists them')
    .argument('[wishes...]', 'one wish each, such as "fan 25 kHz 40 %"; without any, lines of standard input')
    .option('--name <name>', 'name of the plan', 'New plan')
    .option('--out <file>', 'write the plan to this file')
    .action(async (part: string, wishes: string[], options: SayOptions) => {
      const { text, problems } = await (await commands()).sayCommand(part, wishes, options);
      console.log(text);
      for (const problem of problems) console.error(problem);
      if (problems.length > 0) code = 1;
    });
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
