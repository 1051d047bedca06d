import { quoted } from '../quantity/words.ts';
import { deadBandsOf } from '../part/find.ts';
import type { Channel, Mode, Part, Timer } from '../part/types.ts';
import { kindOf } from '../signal/kinds/index.ts';
import { phaseText, sequenceText } from '../signal/sequence-text.ts';
import { sentenceText } from '../signal/sentence.ts';
import { firstEdgeText, oppositeText } from '../signal/timing-text.ts';
import { canPair } from '../timer/drives/index.ts';
import { readWish, type WishReading } from '../signal/wish/read.ts';
import type { Stretch } from '../signal/wish/stretches.ts';
import { planFault } from './check-plan.ts';
import { easedSignal } from './ease.ts';
import { freeId, freeName } from './edit.ts';
import { pinName } from './pin-names.ts';
import type { Plan, PlanSignal } from './plan.ts';

/** One way to understand a line of wishes, as a signal of the plan. */
export type LineReading = {
  signal: PlanSignal;
  /** The whole signal as a sentence, its sequence, phase and opposite included. */
  sentence: string;
  text: Stretch[];
  /** Words that found no place. */
  left: string[];
  /** What was understood, but this part cannot do; a sentence each. */
  cannot: string[];
  assumed: string[];
};

/** A line of wishes: the ways to understand it, or the question that is open. */
export type WishLine = { line: number; text: string; readings: LineReading[]; question?: string };

/** No more lines are read at once. */
const MOST_WISHES = 100;

type PinPair = { pin: string; other: string };

/** The pins on which a channel has PWM of a polarity. */
function pwmPins({ outputs }: Channel, polarity: 'normal' | 'inverted'): string[] {
  return outputs.filter((one) => one.drive === 'pwm' && one.polarity === polarity).map(({ pin }) => pin);
}

/** The pins of two channels of a timer that can be an output and its opposite, both edges of their pulses moving in a mode. */
function pairsIn(mode: Mode, { channels }: Timer): PinPair[] {
  return channels.flatMap((first) =>
    channels
      .filter((second) => canPair(mode, first.id, second.id))
      .flatMap((second) =>
        pwmPins(first, 'normal').flatMap((pin) =>
          pwmPins(second, 'inverted').flatMap((other) => (other === pin ? [] : [{ pin, other }])),
        ),
      ),
  );
}

/** The same for all timers of a part; those whose frequency is free come first. */
function pairedChannels({ timers }: Part): PinPair[] {
  const all = timers.flatMap((timer) =>
    timer.modes.filter(({ count }) => count === 'updown').map((mode) => ({ mode, timer })),
  );
  const isFixed = ({ mode }: { mode: Mode }): boolean => mode.top.kind === 'fixed';
  return [...all.filter((one) => !isFixed(one)), ...all.filter(isFixed)].flatMap(({ mode, timer }) =>
    pairsIn(mode, timer),
  );
}

/**
 * A second pin for the opposite of an output: on a timer of the part that keeps dead times, else by a second channel; the wanted pin
 * first.
 */
function oppositeOn(part: Part, pin: string | undefined): PinPair | undefined {
  const kept = part.timers.flatMap((timer) =>
    timer.channels
      .filter((channel) => (deadBandsOf(timer, channel)?.length ?? 0) > 0)
      .flatMap(({ outputs, complement = [] }) => {
        // A pin with the opposite itself goes the same way as the other one.
        const own = outputs.filter((output) => complement.every((other) => other.pin !== output.pin));
        return own.flatMap((output) => complement.map((other) => ({ pin: output.pin, other: other.pin })));
      }),
  );
  const pairs = [...kept, ...pairedChannels(part)];
  return pairs.find((pair) => pin === undefined || pair.pin === pin);
}

type Completed = Pick<LineReading, 'left' | 'cannot' | 'assumed'> & { signal: Omit<PlanSignal, 'id'> };

/** A reading with the pins of its opposite, where a dead time was said. */
function completed({ signal: { deadS, ...signal }, left, assumed }: WishReading, part: Part): Completed {
  if (deadS === undefined) return { signal, left, cannot: [], assumed };
  const pair = oppositeOn(part, signal.pin);
  if (!pair) {
    const where = signal.pin === undefined ? part.name : `${signal.pin} of ${part.name}`;
    const cannot = [`The dead time is left out: no timer of ${where} keeps one.`];
    return { signal, left, cannot, assumed };
  }
  return {
    signal: { ...signal, pin: pair.pin, complement: { pin: pair.other, deadS } },
    left,
    cannot: [],
    assumed: [...assumed, `its opposite on ${pair.other}`],
  };
}

function wholeSentence(signal: PlanSignal, plan: Plan): string {
  const nameOf = (id: string): string => plan.signals.find((one) => one.id === id)?.name ?? id;
  return [
    sentenceText(signal, (pin) => pinName(plan, pin)),
    ...(signal.sequence ? [`Sequence: ${sequenceText(signal.sequence)}.`] : []),
    ...(signal.phase ? [`Phase: ${phaseText(signal.phase, nameOf)}.`] : []),
    ...(signal.complement ? [`Opposite: ${oppositeText(signal.complement)}.`] : []),
    ...(signal.firstEdgeS === undefined ? [] : [`First edge: ${firstEdgeText(signal.firstEdgeS)}.`]),
  ].join(' ');
}

/** The reading as a signal of the plan, or why the plan could not hold it. */
function lineReading(reading: WishReading, plan: Plan, part: Part): LineReading | { fault: string } {
  const whole = completed(reading, part);
  const { left, cannot } = whole;
  const { signal: made, assumed: suited } = easedSignal(whole.signal, part, plan.clock);
  const assumed = [...whole.assumed, ...suited];
  const taken = plan.signals.map(({ name }) => name);
  const signal = { ...made, id: freeId(plan, made.name), name: freeName(made.name, taken) } as PlanSignal;
  const fault = planFault({ ...plan, signals: [...plan.signals, signal] }, [part]);
  if (fault) return { fault: fault.plain ?? fault.sentence };
  return { signal, sentence: wholeSentence(signal, plan), text: reading.text, left, cannot, assumed };
}

/**
 * Reads wishes, one a line, as signals that may be added to a plan; ids and names are free in it, and each line may refer
 * to signals of the plan and of the lines before it. Lines without a word are passed over. Never throws.
 */
export function readWishes(text: string, plan: Plan, part: Part): WishLine[] {
  const pins = part.pins.map(({ id }) => ({
    id,
    names: plan.pinNames && Object.hasOwn(plan.pinNames, id) ? [plan.pinNames[id] ?? id] : [],
  }));
  const lines: WishLine[] = [];
  let grown = plan;
  for (const [at, raw] of text.split('\n').entries()) {
    const line = raw.trim();
    if (line === '') continue;
    if (lines.length === MOST_WISHES) {
      lines.push({
        line: at + 1,
        text: line,
        readings: [],
        question: `Up to ${MOST_WISHES} wishes are read at once.`,
      });
      break;
    }
    const others = grown.signals.filter((signal) => kindOf(signal).on === 'output');
    const { readings, question } = readWish(line, { pins, others });
    const tried = readings.map((reading) => lineReading(reading, grown, part));
    const ways = tried.flatMap((one) => ('fault' in one ? [] : [one]));
    const fault = tried.flatMap((one) => ('fault' in one ? [one.fault] : []))[0];
    const open = question ?? (ways.length === 0 ? fault : undefined);
    lines.push({
      line: at + 1,
      text: line,
      readings: ways,
      ...(open === undefined ? {} : { question: open }),
    });
    const [only] = ways;
    if (only && ways.length === 1) grown = { ...grown, signals: [...grown.signals, only.signal] };
  }
  return lines;
}

/** What a person should know of a line besides the signal it becomes; empty where all was understood. */
export function wishProblems({ readings, question, text }: WishLine): string[] {
  if (question !== undefined) return [`${quoted(text)}: ${question}`];
  if (readings.length > 1) {
    const ways = readings.map(({ signal }) => `“${kindOf(signal).verb}”`).join(' or ');
    return [`${quoted(text)} may mean ${ways}; say which.`];
  }
  return readings.flatMap(({ left, cannot }) => [
    ...(left.length > 0 ? [`${quoted(text)}: not understood: ${left.map(quoted).join(', ')}.`] : []),
    ...cannot.map((sentence) => `${quoted(text)}: ${sentence}`),
  ]);
}
