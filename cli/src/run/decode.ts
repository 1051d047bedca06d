import { type Effect, type Wanted, clockPath, decodeText, exactText, requirementOf } from '@herzschlag/core';
import { readText } from '../files.ts';
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

function textOf(values: readonly string[], file: string | undefined): Promise<string> {
  if (file !== undefined) return readText(file, LONGEST);
  return Promise.resolve(values.map((value) => `${value};`).join('\n'));
}

/**
 * What register values produce on the plan's part and clock, and, compared with one of its signals, the slips that
 * explain the difference. Values are expressions as C writes them; a file holds lines of code.
 */
export async function decodeCommand(
  plan: string,
  values: readonly string[],
  options: { signal?: string; file?: string },
): Promise<string> {
  if (values.length === 0 && options.file === undefined) {
    throw new UsageError(
      'Give some values, for example TCCR1B=0x0B OCR1A=249, or --file with lines of code.',
    );
  }
  const loaded = await loadPlan(plan);
  const signal = loaded.plan.signals.find((one) => one.id === options.signal);
  if (options.signal !== undefined && !signal) {
    const ids = loaded.plan.signals.map((one) => one.id).join(', ');
    throw new UsageError(`${plan}: no signal has the id “${options.signal}”; there are ${ids || 'none'}.`);
  }
  const wanted: Wanted | undefined = signal && {
    requirement: requirementOf(signal),
    ...(signal.pin === undefined ? {} : { pin: signal.pin }),
  };
  const path = clockPath(loaded.part, loaded.plan.clock);
  const read = decodeText(loaded.part, path, await textOf(values, options.file), wanted);
  if (!read.ok) throw new UsageError(read.fault.sentence);
  const { timers, slips, reading } = read.value;
  return json({
    ...(signal ? { signal: signal.id } : {}),
    timers: timers.map((timer) => ({ ...timer, effects: timer.effects.map(describe) })),
    slips: slips.map(({ id, title, text }) => ({ id, title, text })),
    reading,
  });
}
