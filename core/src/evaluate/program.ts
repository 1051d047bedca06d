import type { ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import { pinName } from '../plan/pin-names.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { settersOf } from '../program/setters.ts';
import type { ProgramSignal, ReadingsCode } from '../program/signal.ts';
import { exact } from '../quantity/exact.ts';
import { readRange, seenAt } from '../readings/readings.ts';
import type { Ends } from '../signal/requirement.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import { sentenceText } from '../signal/sentence.ts';
import { sequenceText } from '../signal/sequence-text.ts';
import { compareFor } from '../timer/count.ts';
import { isOutput, outcomeUnder, resolveSetting } from '../timer/drives/index.ts';
import { aloneOnTimers, type Setting } from '../timer/setting.ts';
import { codeSequence } from './code-sequence.ts';
import type { Holder } from './conflicts.ts';
import { knobCode } from './knob.ts';
import { senderOf } from './send.ts';

/** Something of a signal that the program does not do, in a sentence. */
type LeftOut = { signal: string; text: string };

/** A plan's signals as the program makes them, and what it does not do of them. */
export type PlanProgram = { signals: ProgramSignal[]; leftOut: LeftOut[] };

/** The span of a target, narrowed to what was read on the bench. */
function usableSpan(signal: PlanSignal): Ends | undefined {
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

/** A priority that the part does not have, or that the program does not write. */
function priorityLeftOut({ name: of, cpu }: Part, { name, handler }: PlanSignal): string[] {
  const priority = handler?.priority ?? 0;
  const { fields, levels } = cpu.priorities;
  if (priority === 0) return [];
  if (!fields)
    return [
      `${name}: the priority ${priority} of its interrupts; all have the priority that start-up code leaves them.`,
    ];
  return priority < levels
    ? []
    : [`${name}: the priority ${priority} of its interrupts; ${of} has 0 to ${levels - 1}.`];
}

/** What the program does not do of a signal, a sentence each. */
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
    ...priorityLeftOut(part, signal),
    ...(sending && 'reason' in sending
      ? [
          `${name}: sending the bits, since ${sending.reason}; the timer repeats one of them until the program writes the next width.`,
        ]
      : []),
  ];
}

/** A signal with its setting and all that the program does beside it. */
function programSignal(
  plan: Pick<Plan, 'signals' | 'pinNames'>,
  part: Part,
  path: ClockPath,
  { signal, setting }: Holder,
  sequence: ReturnType<typeof codeSequence>,
  sending: ReturnType<typeof senderOf>,
): ProgramSignal {
  const { input, width } = requirementOf(signal);
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
    ...(width ? { keepsWidth: true } : {}),
    ...(knob ? { knob } : {}),
    ...(readings ? { readings } : {}),
    ...(input ? { slowestHz: input.slowest.valueOf() } : {}),
  };
}

/** Knobs and readings for which the program has no setter: their signals' values cannot be set while they run. */
function missingSetters(part: Part, signal: PlanSignal, own: ProgramSignal, alone: boolean): string[] {
  const has = settersOf(part, own, alone);
  const { name, knob, readings } = signal;
  return [
    ...(knob && !has.knob ? [`${name}: its knob; nothing in the code moves this signal alone.`] : []),
    ...(readings && !has.readings
      ? [`${name}: a setter by its readings; they go up and down, or its compare value decides nothing.`]
      : []),
  ];
}

/** The signals of a plan as the program makes them with their settings. @throws SettingError */
export function planProgram(
  plan: Pick<Plan, 'signals' | 'pinNames'>,
  part: Part,
  path: ClockPath,
  settings: ReadonlyMap<string, Setting>,
): PlanProgram {
  const holders = plan.signals.flatMap((signal) => {
    const setting = settings.get(signal.id);
    return setting ? [{ signal, setting }] : [];
  });
  const alones = aloneOnTimers(holders.map(({ setting }) => setting));
  const made = holders.map((holder, at) => {
    const { signal, setting } = holder;
    const alone = alones[at] ?? false;
    const sending = senderOf(part, path, holder, holders);
    const sequence = codeSequence(part, path, signal, setting, alone);
    const own = programSignal(plan, part, path, holder, sequence, sending);
    const texts = [
      ...leftOutOf(part, signal, sequence, sending),
      ...missingSetters(part, signal, own, alone),
    ];
    return { own, leftOut: texts.map((text) => ({ signal: signal.id, text })) };
  });
  return {
    signals: made.map(({ own }) => own),
    leftOut: made.flatMap(({ leftOut }) => leftOut),
  };
}
