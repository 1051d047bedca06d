import { labelsOf } from '../program/names.ts';
import type { ProgramSignal, ReadingsCode } from '../program/signal.ts';
import { clockPath, type ClockPath } from '../clock/path.ts';
import { thousandths } from '../codegen/bench-setters.ts';
import { cFiles, CodeError, type CodeFile, type CodeOptions } from '../codegen/c-files.ts';
import { interruptsIn } from '../part/find.ts';
import { inStyle, type RegisterStyle } from '../part/register-names.ts';
import type { Part } from '../part/types.ts';
import { pinName } from '../plan/pin-names.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { exact } from '../quantity/exact.ts';
import { readRange, seenAt } from '../readings/readings.ts';
import type { Span } from '../signal/requirement.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import { sentenceText } from '../signal/sentence.ts';
import { sequenceText } from '../signal/sequence-text.ts';
import { compareFor } from '../timer/count.ts';
import { isOutput, outcomeUnder, resolveSetting } from '../timer/drives/index.ts';
import { timerIdOf, type Setting } from '../timer/setting.ts';
import { codeSequence } from './code-sequence.ts';
import type { Holder } from './conflicts.ts';
import { knobCode } from './knob.ts';
import { evaluationMemory, type EvaluationMemory } from './memory.ts';
import { priorityWrites } from './priorities.ts';
import { senderOf } from './send.ts';
import { evaluatePlan, settingsOf } from './evaluate.ts';

/** The files of a plan, and what of the plan they do not do, a sentence each. */
export type PlanCode = { files: CodeFile[]; leftOut: string[] };

/** What a user chooses of the code: `startUp` adds functions for the start-up, `registers` says whose names registers have. */
export type PlanCodeOptions = Pick<CodeOptions, 'allowInterrupts' | 'startUp'> & {
  registers?: RegisterStyle;
};

/** The span of a target, narrowed to what was read on the bench. */
function usableSpan(signal: PlanSignal): Span | undefined {
  const { span } = requirementOf(signal);
  const { readings } = signal;
  if (!readings || readings.points.length < 2 || readings.of === 'frequency') return span;
  if (span && span.of !== readings.of) return span;
  const { low, high } = readRange(readings);
  const [from, to] = [exact(Number(low.toPrecision(9))), exact(Number(high.toPrecision(9)))];
  return {
    of: readings.of,
    low: span && span.low.compare(from) > 0 ? span.low : from,
    high: span && span.high.compare(to) < 0 ? span.high : to,
  };
}

/** A reading in the code: thousandths of what is seen. */
const THOUSANDTHS = 1000;

/** Readings as compare values; undefined where a setting has none, or where they go up and down. */
function readingsCode(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  setting: Setting,
): ReadingsCode | undefined {
  const { readings } = signal;
  if (!readings || readings.of === 'frequency' || !isOutput(setting)) return undefined;
  const { mode, timer } = resolveSetting(part, setting);
  const period = outcomeUnder(part, path, setting).frequency.inverse().valueOf();
  const { low, high } = readRange(readings);
  const byLine = readings.by === 'line' || readings.points.length === 1;
  const sets = byLine ? [low, high] : readings.points.map(({ set }) => set);
  const rows = sets
    .map((set) => ({
      seen: Math.round(seenAt(readings, set) * THOUSANDTHS),
      compare: compareFor(
        mode,
        setting.top,
        timer.width,
        Math.min(1, readings.of === 'width' ? set / period : set),
        setting.polarity === 'inverted',
      ),
    }))
    .sort((one, other) => one.seen - other.seen);
  const apart = rows.every((one, at) => at === 0 || one.seen > (rows[at - 1]?.seen ?? 0));
  const oneWay = [1, -1].some((way) =>
    rows.every((one, at) => at === 0 || way * (one.compare - (rows[at - 1]?.compare ?? 0)) >= 0),
  );
  const fits = rows.every(({ seen, compare }) => Math.abs(seen) < 2 ** 31 && compare < 2 ** 31);
  return apart && oneWay && fits ? { unit: readings.unit, rows } : undefined;
}

/** What the generated code does not do of a signal. */
function leftOutOf(
  part: Part,
  signal: PlanSignal,
  inCode: ReturnType<typeof codeSequence>,
  sending: ReturnType<typeof senderOf>,
): string[] {
  const { name, sequence } = signal;
  const reason = inCode && 'reason' in inCode ? inCode.reason : undefined;
  return [
    ...(sequence && reason !== undefined
      ? [`${name}: its sequence (${sequenceText(sequence)}); the signal runs steadily, since ${reason}.`]
      : []),
    ...(signal.handler?.priority && !part.cpu.priorities.fields
      ? [
          `${name}: the priority ${signal.handler.priority} of its interrupts; all have the priority that start-up code leaves them.`,
        ]
      : []),
    ...(sending && 'reason' in sending
      ? [
          `${name}: sending the bits, since ${sending.reason}; the timer repeats one of them until the program writes the next width.`,
        ]
      : []),
  ];
}

/** A signal with its setting and all that the code does beside it. */
function codeSignal(
  plan: Plan,
  part: Part,
  path: ClockPath,
  { signal, setting }: Holder,
  sequence: ReturnType<typeof codeSequence>,
  sending: ReturnType<typeof senderOf>,
): ProgramSignal {
  const { input } = requirementOf(signal);
  const span = usableSpan(signal);
  const knob = knobCode(part, path, signal, setting);
  const readings = readingsCode(part, path, signal, setting);
  return {
    name: signal.name,
    sentence: sentenceText(signal, (pin) => pinName(plan, pin)),
    setting,
    ...(sequence && 'entries' in sequence ? { sequence } : {}),
    ...(sending && 'one' in sending ? { sending } : {}),
    ...(span ? { span } : {}),
    ...(knob ? { knob } : {}),
    ...(readings ? { readings } : {}),
    ...(input ? { slowestHz: input.slowest.valueOf() } : {}),
  };
}

/** Why there is no code on demand for the start-up of a part; undefined where there is. */
export function noStartUpCode(part: Part): string | undefined {
  const { name, bringUp, code } = part;
  if (Array.isArray(bringUp) || interruptsIn(part).some(({ route }) => route !== undefined)) return undefined;
  if (typeof bringUp === 'string') return `${name}: no code for its clocks, since ${bringUp}.`;
  return code.setsClock
    ? `${name}: init sets the clocks in any case.`
    : `${name}: its data has no steps that bring its clocks up.`;
}

/**
 * The C files of a plan, with the settings of its evaluation. `allowInterrupts` lets the processor take interrupts at the end of
 * the start; else that is left to the program. `failing` also takes a plan whose checks fail, to count the cycles of its handlers.
 * @throws CodeError where code for the start-up is wanted and the part has none, the plan has no signal, a signal has no setting or fails a check, signals are in conflict, or
 * settings cannot be one program: the message names the signal and the reason.
 */
export function planCode(
  plan: Plan,
  part: Part,
  options: PlanCodeOptions & { failing?: boolean } = {},
  memory: EvaluationMemory = evaluationMemory(),
): PlanCode {
  const refusal = options.startUp === true ? noStartUpCode(part) : undefined;
  if (refusal !== undefined) throw new CodeError(refusal);
  const path = clockPath(part, plan.clock);
  const settings = settingsOf(plan, part, path, memory);
  const holders = plan.signals.flatMap((signal) => {
    const setting = settings.get(signal.id);
    return setting ? [{ signal, setting }] : [];
  });
  const senders = new Map(
    holders.map((holder) => [holder.signal.id, senderOf(part, path, holder, holders)] as const),
  );
  const timers = [...settings.values()].map(timerIdOf);
  const sequences = new Map(
    plan.signals.map((signal) => {
      const setting = settings.get(signal.id);
      const alone = timers.filter((timer) => setting && timer === timerIdOf(setting)).length === 1;
      return [signal.id, setting && codeSequence(part, path, signal, setting, alone)] as const;
    }),
  );
  const signals = plan.signals.flatMap((signal) => {
    const setting = settings.get(signal.id);
    if (!setting) return [];
    return [
      codeSignal(plan, part, path, { signal, setting }, sequences.get(signal.id), senders.get(signal.id)),
    ];
  });
  const { conflicts, failures } = evaluatePlan(plan, part, memory);
  const [conflict] = conflicts;
  if (conflict) throw new CodeError(conflict.sentence);
  const [failure] = failures;
  if (failure && options.failing !== true)
    throw new CodeError(`“${failure.name}”: ${failure.text.replace(/\.$/, '')}.`);
  const known = plan.signals.flatMap((signal) =>
    leftOutOf(part, signal, sequences.get(signal.id), senders.get(signal.id)),
  );
  const priorities = priorityWrites(part, path, holders);
  const written = (leftOut: readonly string[]): CodeFile[] =>
    cFiles(inStyle(part, options.registers ?? 'own'), path, plan.name, signals, {
      ...options,
      priorities,
      leftOut,
    });
  const files = written(known);
  const kept = plan.signals.filter(({ id }) => settings.has(id));
  const missing = missingSetters(kept, labelsOf(signals), files);
  const leftOut = [...known, ...missing];
  return { files: missing.length === 0 ? files : written(leftOut), leftOut };
}

/** Knobs and readings for which the code has no setter: their signals' values cannot be set while they run. */
function missingSetters(
  kept: readonly PlanSignal[],
  labels: readonly string[],
  files: readonly CodeFile[],
): string[] {
  const text = files.map((file) => file.text).join('\n');
  return kept.flatMap(({ name, knob, readings }, at) => {
    const has = (setter: string): boolean => text.includes(` ${labels[at]}_set_${setter}(`);
    return [
      ...(knob && !has('knob') ? [`${name}: its knob; nothing in the code moves this signal alone.`] : []),
      ...(readings && !has(thousandths(readings.unit))
        ? [`${name}: a setter by its readings; they go up and down, or its compare value decides nothing.`]
        : []),
    ];
  });
}
