import { clockAt, type ClockPath } from '../clock/path.ts';
import { signalFit } from '../evaluate/choose.ts';
import { allowedPpm } from '../fit/explain/oscillator.ts';
import type { Refusal } from '../fit/explain/refusal.ts';
import type { Part } from '../part/types.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { printPpm } from '../quantity/print.ts';
import { requirementOf } from '../signal/requirement-of.ts';

function plusMinus(ppm: number): string {
  return printPpm(ppm).replace('+', '±');
}

/** The oscillator against the target's tolerance, where no timer's clock is accurate enough. */
function oscillatorReason(
  part: Part,
  path: ClockPath,
  clock: Plan['clock'],
  signal: PlanSignal,
): string | undefined {
  const allowed = allowedPpm(requirementOf(signal));
  const best = Math.min(...part.timers.map((timer) => clockAt(path, timer.clock).tolerancePpm));
  if (best <= allowed) return undefined;
  const name = part.clocks.find((node) => node.id === clock.source)?.name ?? clock.source;
  return `${name} of ${plusMinus(best)}, the target allows ${plusMinus(allowed)}`;
}

/** What is said of most timers, those that name a number first, each timer's own name left out. */
function tellingRefusal(part: Part, refused: readonly Refusal[]): string | undefined {
  const nameOf = (id: string): string => part.timers.find((timer) => timer.id === id)?.name ?? id;
  const counts = new Map<string, { reason: string; timer: string; count: number }>();
  for (const { timer, reason } of refused) {
    const key = reason.replace(nameOf(timer), '');
    const before = counts.get(key);
    counts.set(key, { reason, timer: nameOf(timer), count: (before?.count ?? 0) + 1 });
  }
  // A timer that does not lead to the pin says less than one that does and still cannot make the signal.
  const rank = ({ reason, timer }: { reason: string; timer: string }): number =>
    / is not (?:an|a timer) output /.test(reason) ? 2 : /\d/.test(reason.replace(timer, '')) ? 0 : 1;
  const [first] = [...counts.values()].sort(
    (one, other) => rank(one) - rank(other) || other.count - one.count,
  );
  if (!first) return undefined;
  const { reason, timer, count } = first;
  const plain = reason.replace(/\.$/, '');
  if (count === refused.length && plain.startsWith(`${timer} has no `))
    return `no timer has a ${plain.slice(`${timer} has no `.length)}`;
  return plain.startsWith(timer) ? plain : `${timer}: ${continued(plain)}`;
}

/** A sentence behind a colon: it begins with a small letter, unless that is the first of a name such as PB1. */
function continued(sentence: string): string {
  return /^[A-Z](?:[a-z]|\s)/.test(sentence)
    ? `${sentence.charAt(0).toLowerCase()}${sentence.slice(1)}`
    : sentence;
}

/**
 * Why a part cannot make one signal by itself, in a sentence with its numbers: the oscillator where it is too inaccurate,
 * else what refuses most timers.
 */
export function reasonAlone(part: Part, path: ClockPath, clock: Plan['clock'], signal: PlanSignal): string {
  const why =
    oscillatorReason(part, path, clock, signal) ??
    tellingRefusal(part, signalFit(part, path, signal, 'all', new Set()).refused) ??
    'no setting meets the target';
  return `${signal.name}: ${why}.`;
}
