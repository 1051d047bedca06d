import {
  clockPath,
  decodedSignals,
  decodeText,
  type Effect,
  exactText,
  type Part,
  type Plan,
  PLAN_VERSION,
  requirementOf,
  shippedParts,
  type Wanted,
  writePlan,
} from '@herzschlag/core';
import { isFile, readText, writeWhole } from '../files.ts';
import { partNamed } from '../part.ts';
import { loadPlan } from '../plan.ts';
import { UsageError } from '../usage-error.ts';
import { json } from '../table.ts';

function describe({ setting, outcome }: Effect) {
  return {
    ...setting,
    frequencyHz: outcome.frequency.valueOf(),
    frequencyExact: exactText(outcome.frequency),
    duty: outcome.duty.valueOf(),
    steps: outcome.steps,
    cpu: outcome.cpu,
  };
}

/** The longest file of statements, in bytes; what is read of it is shorter still. */
const LONGEST = 10_000_000;

/** Values as statements; one that names a file, or is “-”, is the program itself. */
async function textOf(values: readonly string[], file: string | undefined): Promise<string> {
  if (file !== undefined) return readText(file, LONGEST);
  const [only, ...others] = values;
  const named = only !== undefined && others.length === 0 && !only.includes('=');
  if (named && (only === '-' || (await isFile(only)))) return readText(only, LONGEST);
  return values.map((value) => `${value};`).join('\n');
}

/** The plan that code is read for: that of a file, or an empty one of a part at its usual clock. */
async function planNamed(named: string): Promise<{ plan: Plan; part: Part }> {
  if (!shippedParts().includes(named) && !named.endsWith('.part.json')) return loadPlan(named);
  const { part, own } = await partNamed(named);
  const plan: Plan = {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Decoded',
    part: part.id,
    clock: part.defaultClock,
    signals: [],
    ...(own ? { ownPart: part } : {}),
  };
  return { plan, part };
}

/**
 * What code does on the plan's part and clock, and, compared with one of its signals, the slips that explain the
 * difference. Values are expressions as C writes them; a file holds a program or lines of one. `out` gets the plan with
 * a signal for everything that was read.
 */
export async function decodeCommand(
  named: string,
  values: readonly string[],
  options: { signal?: string; file?: string; out?: string },
): Promise<string> {
  if (values.length === 0 && options.file === undefined) {
    throw new UsageError(
      'Give some values, for example TCCR1B=0x0B OCR1A=249, or the name of a file with a program; - is standard input.',
    );
  }
  const { plan, part } = await planNamed(named);
  const signal = plan.signals.find((one) => one.id === options.signal);
  if (options.signal !== undefined && !signal) {
    const ids = plan.signals.map((one) => one.id).join(', ');
    throw new UsageError(`${named}: no signal has the id “${options.signal}”; there are ${ids || 'none'}.`);
  }
  const wanted: Wanted | undefined = signal && {
    requirement: requirementOf(signal),
    ...(signal.pin === undefined ? {} : { pin: signal.pin }),
  };
  const read = decodeText(part, clockPath(part, plan.clock), await textOf(values, options.file), wanted);
  if (!read.ok) throw new UsageError(read.fault.sentence);
  const { timers, slips, reading } = read.value;
  if (options.out !== undefined) {
    const signals = [...plan.signals, ...decodedSignals(read.value, plan, part)];
    await writeWhole(options.out, writePlan({ ...plan, signals }));
  }
  return json({
    ...(signal ? { signal: signal.id } : {}),
    timers: timers.map((timer) => ({ ...timer, effects: timer.effects.map(describe) })),
    slips: slips.map(({ id, title, text }) => ({ id, title, text })),
    reading,
  });
}
