import { Command, InvalidArgumentError, Option } from 'commander';

/** What a command prints; `fails` makes the exit code 1, `problems` go to standard error and do so too. */
export type Printed = { text: string; fails?: boolean; problems?: readonly string[] };

/** An argument by its place. */
export type ArgumentRecord = { name: string; help: string; is?: 'optional' | 'list' };

/** An option of a command: how it is written, what it is for, and how its value is read. */
export type OptionRecord = {
  flags: string;
  help: string;
  read?: (text: string) => unknown;
  choices?: readonly string[];
  initial?: unknown;
  is?: 'required' | 'repeatable';
};

/** A command of `hz`, complete: its name, what it takes, what it says of itself in the help, and what it does. */
export type CommandRecord = {
  name: string;
  help: string;
  arguments: readonly ArgumentRecord[];
  options: readonly OptionRecord[];
  /** Arguments come as text, a list as several; what it loads is loaded when it runs, so that the help need not wait. */
  run: (given: readonly string[], options: Record<string, unknown>) => Promise<Printed>;
};

/** What a record's function is given: its arguments and its options as the record reads them. */
type Run<O> = (given: readonly string[], options: O) => Promise<string | Printed>;

/** A record whose function takes options of a type, which its option records must read. */
export function command<O extends object>(
  record: Omit<CommandRecord, 'run'> & { run: Run<O> },
): CommandRecord {
  const { run } = record;
  return {
    ...record,
    run: async (given, options) => {
      const printed = await run(given, options as O);
      return typeof printed === 'string' ? { text: printed } : printed;
    },
  };
}

/** The plan file that most commands take first. */
export const PLAN: ArgumentRecord = { name: 'plan', help: 'plan file; - is standard input' };

/** The option of a table. */
export const TABLE: OptionRecord = { flags: '--table', help: 'print a table instead of JSON' };

/** The option of one signal. */
export const ONE_SIGNAL: OptionRecord = { flags: '--signal <id>', help: 'only this signal' };

/** A reader of whole numbers of a range. */
export function whole(min: number, max: number, sentence: string): (text: string) => number {
  return (text) => {
    const value = Number(text);
    if (!Number.isInteger(value) || value < min || value > max) throw new InvalidArgumentError(sentence);
    return value;
  };
}

/** Reads a number of steps or rows. */
export const count = whole(1, Infinity, 'It must be a whole number, 1 or more.');

/** Reads a time in s. */
export function seconds(text: string): number {
  const value = Number(text);
  if (!(value > 0) || value > 1e6) throw new InvalidArgumentError('It must be a time in s, up to 1 000 000.');
  return value;
}

function optionOf({ flags, help, read, choices, initial, is }: OptionRecord): Option {
  const option = new Option(flags, help);
  if (choices) option.choices(choices);
  if (read) option.argParser(read);
  if (is === 'repeatable') option.argParser((one: string, others: string[]) => [...others, one]);
  if (initial !== undefined) option.default(initial);
  return option.makeOptionMandatory(is === 'required');
}

/** A record as a command of the argument parser; what it prints goes to `print`. */
export function parserOf(record: CommandRecord, print: (printed: Printed) => void): Command {
  const parser = new Command(record.name).description(record.help);
  for (const { name, help, is } of record.arguments) {
    parser.argument(is === 'list' ? `[${name}...]` : is === 'optional' ? `[${name}]` : `<${name}>`, help);
  }
  for (const option of record.options) parser.addOption(optionOf(option));
  return parser.action(async (...all: unknown[]) => {
    const given = all.slice(0, record.arguments.length).flat() as string[];
    print(await record.run(given, all[record.arguments.length] as Record<string, unknown>));
  });
}
