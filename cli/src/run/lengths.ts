import { spawnSync } from 'node:child_process';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  avrSet,
  clockPath,
  CodeError,
  type CodeFile,
  cyclesInListing,
  cyclesText,
  handlerSymbol,
  type Part,
  planCode,
  type PlanSignal,
  planCpu,
  settingsOf,
  thumbSet,
  withHandlerCycles,
  writePlan,
} from '@herzschlag/core';
import { writeWhole } from '../files.ts';
import { loadPlan } from '../plan.ts';
import { json, table } from '../table.ts';
import { UsageError } from '../usage-error.ts';

/** What `hz lengths` may be asked for. */
export type LengthsOptions = { table?: boolean; out?: string };

/** The length of one handler as it was compiled, or why it could not be counted. */
type Length = {
  interrupt: string;
  estimate: string;
  min?: number;
  max?: number;
  /** Functions of the user's that it calls; their own cycles are not in it. */
  calls: string[];
  /** Functions of the handler that wait for a peripheral, which counts as passed once. */
  waits?: string[];
  reason?: string;
};

/** Cycles of a handler, and the signals that it serves. */
type Told = { uses: { signal: string; length: 'cycles' | 'match' }[]; min: number; max: number };

/** Signals with the lengths of their handlers, each its own; a handler that signals share is listed with the first. */
function withLengths(signals: readonly PlanSignal[], told: readonly Told[]): PlanSignal[] {
  return signals.map((signal) =>
    told.reduce((made, { uses, min, max }) => {
      const at = uses.findIndex((use) => use.signal === signal.id);
      const use = uses[at];
      if (!use) return made;
      return withHandlerCycles(made, at > 0 ? 0 : min === max ? max : { min, max }, use.length);
    }, signal),
  );
}

/** A signal whose handlers are as long as their operations. */
function withoutLengths(signal: PlanSignal): PlanSignal {
  return withHandlerCycles(withHandlerCycles(signal, undefined), undefined, 'match');
}

function run(command: string, args: readonly string[]): string {
  const { error, status, stdout, stderr } = spawnSync(command, args, { encoding: 'utf8' });
  if (error) throw new UsageError(`${command} cannot be run: ${error.message}`);
  if (status !== 0)
    throw new UsageError(`${command} ended with code ${status}: ${stderr.trim().slice(0, 300)}`);
  return stdout;
}

type Compiler = NonNullable<Part['code']['compiler']>;

/** The compiler of a family, its options for the part, and what prints its listing. */
function toolsOf(compiler: Compiler): { command: string; options: string[]; objdump: string } {
  return compiler.family === 'avr'
    ? { command: 'avr-gcc', options: [`-mmcu=${compiler.device}`], objdump: 'avr-objdump' }
    : {
        command: 'arm-none-eabi-gcc',
        options: [`-mcpu=${compiler.device}`, '-mthumb', '-ffreestanding'],
        objdump: 'arm-none-eabi-objdump',
      };
}

function instructionsOf(compiler: Compiler): ReturnType<typeof avrSet> {
  return compiler.family === 'avr' ? avrSet(compiler.wide) : thumbSet(compiler.device);
}

/** The compiled code of a plan as a listing. @throws UsageError where the compiler is not there. */
async function listingOf(compiler: Compiler, files: readonly CodeFile[]): Promise<string> {
  const directory = await mkdtemp(join(tmpdir(), 'hz-lengths-'));
  try {
    for (const { name, text } of files) await writeFile(join(directory, name), text);
    const source = files.find(({ name }) => name.endsWith('.c'))?.name ?? '';
    const object = join(directory, 'plan.o');
    const { command, options, objdump } = toolsOf(compiler);
    run(command, [...options, '-Os', '-std=c11', '-c', join(directory, source), '-o', object]);
    return run(objdump, ['-dr', object]);
  } finally {
    await rm(directory, { recursive: true });
  }
}

/**
 * The cycles of the handlers that are generated for a plan, counted in the listing of the part's compiler; with `out` the plan is
 * written with them. @throws UsageError when the plan is no program or cannot be compiled.
 */
export async function lengthsCommand(file: string, options: LengthsOptions): Promise<string> {
  const { plan, part } = await loadPlan(file);
  const { compiler } = part.code;
  if (!compiler) {
    throw new UsageError(
      `No compiler is known whose listing tells how long the handlers of ${part.name} are.`,
    );
  }
  const path = clockPath(part, plan.clock);
  const estimates = { ...plan, signals: plan.signals.map(withoutLengths) };
  const { model, origins } = planCpu(estimates, part, path, settingsOf(plan, part, path));
  let files;
  try {
    files = planCode(plan, part, { failing: true }).files;
  } catch (error) {
    if (error instanceof CodeError) throw new UsageError(`${file}: ${error.message}`);
    throw error;
  }
  const listing = await listingOf(compiler, files);
  const told: Told[] = [];
  const lengths = model.tasks.flatMap((task, at): Length[] => {
    const origin = origins[at];
    if (!origin?.interrupt) return [];
    const base = { interrupt: task.name, estimate: cyclesText(task.cycles) };
    const read = cyclesInListing(listing, handlerSymbol(part, origin.interrupt), instructionsOf(compiler));
    if (!read.ok) return [{ ...base, calls: [], reason: read.fault.sentence }];
    const { min, max, calls, waits } = read.value;
    told.push({ uses: origin.uses, min, max });
    return [{ ...base, min, max, calls, ...(waits.length === 0 ? {} : { waits }) }];
  });
  if (options.out !== undefined) {
    await writeWhole(options.out, writePlan({ ...plan, signals: withLengths(plan.signals, told) }));
  }
  if (!options.table) return json({ lengths, ...(options.out === undefined ? {} : { plan: options.out }) });
  return table(
    ['interrupt', 'estimate', 'compiled', 'calls', 'waits in'],
    lengths.map(({ interrupt, estimate, min = 0, max = 0, calls, waits = [], reason }) => [
      interrupt,
      estimate,
      reason ?? cyclesText({ min, max }),
      calls.join(', '),
      waits.join(', '),
    ]),
  );
}
