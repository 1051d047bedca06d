import { clockPath, clockAt } from '../clock/path.ts';
import { checkCapture } from '../check/check-capture.ts';
import { checkPhase } from '../check/check-timing.ts';
import type { Check } from '../check/check.ts';
import type { NamedWaveform } from '../wave/merge.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import type { Part } from '../part/types.ts';
import { exact } from '../quantity/exact.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import { PHASE_DEGREES } from '../signal/sequence.ts';
import type { Setting } from '../timer/setting.ts';
import { alignByLevels } from '../wave/align.ts';
import { wireEdges, type Capture } from '../wave/capture.ts';
import { groupsOf, quickPeriod, rateInGroups, type PulseGroup } from '../wave/groups.ts';
import { firstEdge } from '../wave/waveform.ts';
import { passTicks } from '../wave/sequence-waveform.ts';
import { waveformSource, wireSource } from '../wave/source.ts';
import { lineOf, withoutGlitches, type EdgeLine } from '../wave/statistics.ts';
import type { EdgeList } from '../wave/edges.ts';
import { checkSequenceCapture, GAP } from './compare-sequence.ts';
import { signalWaveform } from '../evaluate/timing-checks.ts';
import { explainRate, type RateSlip } from '../slips/rate-slips.ts';
import { settingsOf } from '../evaluate/evaluate.ts';
import { isInput, clockNode, outcomeUnder } from '../timer/drives/index.ts';

/** Which wire shows which signal, by the wire's name. */
export type WireMap = Readonly<Record<string, string>>;

/** One wire compared with its signal. */
type Compared = {
  wire: string;
  signal: string;
  /** Mean frequency and duty as captured; absent where the capture is too short. */
  frequencyHz?: number;
  duty?: number;
  jitterS?: number;
  /** Against its setting, in ppm, once the clock ratio of the whole capture is taken out. */
  ownPpm?: number;
  /** When, in s of the capture, the first rise of the computed lane lies (maybe before the capture begins). */
  startS?: number;
  checks: Check[];
  slip?: RateSlip;
};

/** A capture compared with a plan. */
export type Comparison = {
  /** How many times as fast the capture is as the plan, all signals together, and how many of them say so. */
  ratio: number;
  agreeing: number;
  /** What the ratio means: the oscillator, a wrong clock, or nothing. */
  sentence: string;
  pairs: Compared[];
  unmapped: string[];
};

type Seen = {
  wire: string;
  trace: EdgeList;
  line?: EdgeLine;
  hz?: number;
  duty?: number;
  /** The rate where rests are left out. */
  quickHz?: number;
  /** Groups of pulses between rests, where its signal has a sequence. */
  groups?: PulseGroup[];
};
type Meant = {
  signal: PlanSignal;
  setting: Setting;
  hz: number;
  duty: number;
  tolerancePpm: number;
  waveform: NamedWaveform;
};

/** A rate with an error up to this is still taken for a signal's when wires are guessed. */
const GUESS = 0.08;

/** Ratios this near to each other are one, as a share. */
const SAME = 60e-6;

function seenOf(capture: Capture): Seen[] {
  return capture.wires.flatMap((wire): Seen[] => {
    const trace = wireEdges(wire, capture.to);
    if (!trace) return [];
    const clean = withoutGlitches(trace);
    const line = lineOf(clean);
    const { edges, start } = clean;
    const first = start === 0 ? 0 : 1;
    let high = 0;
    let periods = 0;
    for (let at = first; at + 2 < edges.length; at += 2) {
      high += (edges[at + 1] ?? 0) - (edges[at] ?? 0);
      periods += 1;
    }
    const period = line?.periodTicks;
    const quick = quickPeriod(clean);
    return [
      {
        wire: wire.name,
        trace,
        ...(line ? { line, hz: capture.tickHz / line.periodTicks } : {}),
        ...(period && periods > 0 ? { duty: high / periods / period } : {}),
        ...(quick ? { quickHz: capture.tickHz / quick } : {}),
      },
    ];
  });
}

function meantOf(plan: Plan, part: Part): Meant[] {
  const path = clockPath(part, plan.clock);
  const settings = settingsOf(plan, part, path);
  return plan.signals.flatMap((signal): Meant[] => {
    const setting = settings.get(signal.id);
    if (!setting || isInput(setting)) return [];
    const outcome = outcomeUnder(part, path, setting);
    const { tolerancePpm } = clockAt(path, clockNode(part, setting));
    const waveform = signalWaveform(part, path, signal, setting);
    return [
      {
        signal,
        setting,
        hz: outcome.frequency.valueOf(),
        duty: outcome.duty.valueOf(),
        tolerancePpm,
        waveform: { name: signal.name, waveform, tickHz: outcome.tickHz.valueOf() },
      },
    ];
  });
}

function plainName(name: string): string {
  return name.toLowerCase().replace(/[^a-z0-9]/g, '');
}

/** How well a wire goes with a signal; 0 where not at all. The name counts most, then the rate, then the duty. */
function likeness(seen: Seen, meant: Meant): number {
  const name = plainName(seen.wire);
  const named = name !== '' && [meant.signal.id, meant.signal.name].some((one) => plainName(one) === name);
  const hz = meant.signal.sequence ? seen.quickHz : seen.hz;
  const rate = hz === undefined ? 1 : Math.abs(Math.log(hz / meant.hz));
  const duty = seen.duty === undefined || meant.signal.sequence ? 1 : Math.abs(seen.duty - meant.duty);
  if (named) return 10 - rate;
  return rate < GUESS ? 2 - rate / GUESS - duty : 0;
}

/** Wires to signals: those the user said, then the likeliest pairs, each wire and each signal once. */
function guessWires(seen: readonly Seen[], meant: readonly Meant[], said: WireMap): Map<string, string> {
  const map = new Map<string, string>();
  for (const { wire } of seen) {
    const id = said[wire];
    if (id !== undefined && meant.some((one) => one.signal.id === id)) map.set(wire, id);
  }
  const scored = seen.flatMap((one) =>
    meant.map((other) => ({ wire: one.wire, id: other.signal.id, score: likeness(one, other) })),
  );
  scored.sort((one, other) => other.score - one.score);
  const taken = new Set(map.values());
  for (const { wire, id, score } of scored) {
    if (score <= 0 || map.has(wire) || said[wire] === '' || taken.has(id)) continue;
    map.set(wire, id);
    taken.add(id);
  }
  return map;
}

/** The ratio that most signals agree on; of several the one nearest to 1; then the mean of those that agree. */
function sharedRatio(ratios: readonly number[]): { ratio: number; agreeing: number } {
  let best = { count: 0, ratio: 1 };
  for (const ratio of ratios) {
    const near = ratios.filter((other) => Math.abs(other / ratio - 1) <= SAME);
    const mean = near.reduce((sum, one) => sum + one, 0) / near.length;
    const nearer = Math.abs(Math.log(mean)) < Math.abs(Math.log(best.ratio));
    if (near.length > best.count || (near.length === best.count && nearer))
      best = { count: near.length, ratio: mean };
  }
  return { ratio: best.ratio, agreeing: best.count };
}

function perMille(ratio: number): string {
  const ppm = (ratio - 1) * 1e6;
  const size = Math.abs(ppm);
  const text = size >= 1000 ? `${(size / 1000).toPrecision(3)} per mille` : `${Math.round(size)} ppm`;
  return `${text} ${ppm > 0 ? 'fast' : 'slow'}`;
}

function ratioSentence(ratio: number, agreeing: number, tolerancePpm: number): string {
  if (agreeing === 0)
    return 'No signal of the plan is seen in this capture for long enough to tell its rate.';
  const off = Math.abs(ratio - 1) * 1e6;
  if (off < 5) return 'The capture runs as fast as the plan.';
  if (agreeing < 2)
    return `The only signal seen is ${perMille(ratio)}; one signal alone cannot tell the oscillator from its dividers.`;
  const why =
    off <= tolerancePpm
      ? `within the ${tolerancePpm} ppm of its oscillator`
      : 'the oscillator, not the dividers';
  return `${agreeing} signals are all ${perMille(ratio)}: ${why}.`;
}

/** How large the error of a rate can be by chance: the scatter of its edges over the time that was seen, and one tick. */
function doubtOf(line: EdgeLine): number {
  const scatter = (line.sigmaTicks * 12 ** 0.5) / (line.periodTicks * line.rises ** 1.5);
  return 4 * scatter + 1 / (line.periodTicks * line.rises) + 4e-6;
}

/** What was seen of a signal with a sequence: its rate and duty within groups of pulses instead of over all. */
function inGroups(seen: Seen, { signal, hz }: Meant, tickHz: number): Seen {
  if (!signal.sequence) return seen;
  const { trace, wire } = seen;
  const groups = groupsOf(trace, (GAP * tickHz) / hz);
  const rate = rateInGroups(trace, groups);
  return {
    wire,
    trace,
    groups,
    ...(rate ? { hz: tickHz / rate.periodTicks, duty: rate.duty } : {}),
  };
}

/** Where the first rise of a signal with a sequence lies in the capture, in s, by correlation of the levels. */
function alignedStart(seen: Seen, { waveform }: Meant, ratio: number, capture: Capture): number | undefined {
  const wire = capture.wires.find(({ name }) => name === seen.wire);
  if (!wire || !('rows' in waveform.waveform)) return undefined;
  const stretched = wireSource(wire, capture, 0, ratio);
  const span = { fromS: (capture.from / capture.tickHz) * ratio, toS: (capture.to / capture.tickHz) * ratio };
  const passS = passTicks(waveform.waveform) / waveform.tickHz;
  const found = alignByLevels(waveformSource(waveform.waveform, waveform.tickHz), stretched, span, passS);
  const first = firstEdge(waveform.waveform);
  return found && first !== undefined ? (found.originS + first / waveform.tickHz) / ratio : undefined;
}

function compared(part: Part, seen: Seen, meant: Meant, ratio: number, capture: Capture): Compared {
  const { trace, line, hz, duty, groups } = seen;
  const { sequence } = meant.signal;
  const startS = line ? line.phaseTicks / capture.tickHz : alignedStart(seen, meant, ratio, capture);
  const own = hz === undefined ? undefined : hz / ratio / meant.hz;
  const slip =
    own === undefined || !line ? undefined : explainRate(part, meant.setting, own, doubtOf(line) + SAME);
  return {
    wire: seen.wire,
    signal: meant.signal.id,
    ...(hz === undefined ? {} : { frequencyHz: hz }),
    ...(duty === undefined ? {} : { duty }),
    ...(line ? { jitterS: line.peakTicks / capture.tickHz } : {}),
    ...(startS === undefined ? {} : { startS }),
    ...(own === undefined ? {} : { ownPpm: (own - 1) * 1e6 }),
    checks:
      groups && sequence
        ? checkSequenceCapture(trace, groups, meant.signal, sequence, capture.tickHz)
        : checkCapture(trace, requirementOf(meant.signal), exact(capture.tickHz)),
    ...(slip ? { slip } : {}),
  };
}

/** The phase of a captured signal to the one its target names, by the lines through the rises of both. */
function capturedPhase(
  { seen, meant }: { seen: Seen; meant: Meant },
  pairs: readonly { seen: Seen; meant: Meant }[],
  tickHz: number,
): Check[] {
  const { phase } = meant.signal;
  const other = phase && pairs.find((one) => one.meant.signal.id === phase.to);
  if (!phase || !seen.line || !other?.seen.line) return [];
  const [own, to] = [seen.line, other.seen.line];
  const period = (own.periodTicks + to.periodTicks) / 2;
  const apart = Math.abs(own.periodTicks / to.periodTicks - 1) > doubtOf(own) + doubtOf(to);
  const delayS = (own.phaseTicks - to.phaseTicks) / tickHz;
  const tolerance = phase.toleranceDegrees ?? PHASE_DEGREES;
  return [
    checkPhase(
      delayS,
      tickHz / (apart ? own.periodTicks : period),
      tickHz / (apart ? to.periodTicks : period),
      {
        degrees: phase.degrees,
        tolerance,
        other: other.meant.signal.name,
      },
    ),
  ];
}

/**
 * Holds a capture against a plan: finds which wire shows which signal (`said` decides first; an empty id leaves a wire
 * out), the ratio of the clocks that most of them agree on, and what each signal is off by on its own, with the mistake
 * that explains it.
 */
export function compareCapture(plan: Plan, part: Part, capture: Capture, said: WireMap = {}): Comparison {
  const seen = seenOf(capture);
  const meant = meantOf(plan, part);
  const map = guessWires(seen, meant, said);
  const pairs = seen.flatMap((one) => {
    const other = meant.find(({ signal }) => signal.id === map.get(one.wire));
    return other ? [{ seen: inGroups(one, other, capture.tickHz), meant: other }] : [];
  });
  const ratios = pairs.flatMap(({ seen: one, meant: other }) =>
    one.hz === undefined ? [] : [one.hz / other.hz],
  );
  const { ratio, agreeing } = sharedRatio(ratios);
  const alone = agreeing < 2;
  const tolerance = Math.max(0, ...pairs.map((pair) => pair.meant.tolerancePpm));
  const judged = pairs.map((pair) => compared(part, pair.seen, pair.meant, alone ? 1 : ratio, capture));
  const phase = (pair: (typeof pairs)[number]): Check[] => capturedPhase(pair, pairs, capture.tickHz);
  return {
    ratio,
    agreeing,
    sentence: ratioSentence(ratio, agreeing, tolerance),
    pairs: judged.map((one, at) => {
      const pair = pairs[at];
      return pair ? { ...one, checks: [...one.checks, ...phase(pair)] } : one;
    }),
    unmapped: capture.wires.map((wire) => wire.name).filter((name) => !map.has(name)),
  };
}
