import { checkCapture } from '../check/check-capture.ts';
import { checkPulses } from '../check/check-timing.ts';
import type { Check } from '../check/check.ts';
import { exact } from '../quantity/exact.ts';
import { printNumber } from '../quantity/print.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import { resolvedSteps, type Sequence, type ResolvedStep } from '../signal/sequence.ts';
import type { Signal } from '../signal/signal.ts';
import { longestGroup, type PulseGroup } from '../wave/groups.ts';
import type { EdgeList } from '../wave/edges.ts';
import { wantedPulses } from '../evaluate/sequence-rows.ts';

/** A rest is distinguished from a long period by this share of the period. */
export const GAP = 1.5;

/** Whether every row plays the target itself, so that rate and duty can be judged on any group of pulses. */
function plays(steps: readonly ResolvedStep[]): { rate: boolean; duty: boolean } {
  const playing = steps.filter(({ rest }) => !rest);
  const [first] = playing;
  return {
    rate: playing.every((one) => first && one.fromHz.equals(first.fromHz) && one.toHz.equals(first.fromHz)),
    duty: playing.every(
      (one) => first && one.fromDuty.equals(first.fromDuty) && one.toDuty.equals(first.fromDuty),
    ),
  };
}

/** How many pulses each group between two rests should have. A sequence without a rest has no groups. */
function wantedGroups(signal: Signal, sequence: Sequence): { low: number; high: number }[] {
  const at = sequence.steps.findIndex(({ rest }) => rest);
  if (at < 0) return [];
  const turned = sequence.once
    ? sequence.steps
    : [...sequence.steps.slice(at), ...sequence.steps.slice(0, at)];
  const runs: Sequence['steps'][] = [[]];
  for (const step of turned) {
    if (step.rest) runs.push([]);
    else runs[runs.length - 1]?.push(step);
  }
  return runs.filter((steps) => steps.length > 0).flatMap((steps) => wantedPulses(signal, { steps }) ?? []);
}

function groupCheck(
  groups: readonly PulseGroup[],
  wanted: readonly { low: number; high: number }[],
): Check[] {
  const whole = groups.slice(1, -1);
  if (wanted.length === 0) return [];
  if (whole.length === 0) {
    const note = 'No group of pulses lies wholly within the capture, with a rest on both sides.';
    return [{ property: 'pulses', unit: 'count', verdict: 'unknown', note }];
  }
  const offOf = (rises: number): number =>
    Math.min(...wanted.map(({ low, high }) => Math.max(low - rises, rises - high, 0)));
  const worst = whole.reduce((one, other) => (offOf(other.rises) > offOf(one.rises) ? other : one));
  const nearest = wanted.reduce((one, other) =>
    Math.abs(other.low - worst.rises) < Math.abs(one.low - worst.rises) ? other : one,
  );
  const wrong = whole.filter(({ rises }) => offOf(rises) > 0).length;
  const check = checkPulses(worst.rises, nearest);
  return [
    { ...check, note: `${printNumber(whole.length - wrong)} of ${printNumber(whole.length)} groups pass.` },
  ];
}

/**
 * Holds what was captured of a signal with a sequence against it: the pulses of each group between two rests; rate and duty
 * on the longest group, as far as the sequence leaves them as the target has them; glitches anywhere.
 */
export function checkSequenceCapture(
  trace: EdgeList,
  groups: readonly PulseGroup[],
  signal: Signal,
  sequence: Sequence,
  tickHz: number,
): Check[] {
  const requirement = requirementOf(signal);
  const { rate, duty } = plays(resolvedSteps(sequence, requirement));
  const ofGroup = checkCapture(longestGroup(trace, groups), requirement, exact(tickHz)).filter(
    ({ property }) =>
      (property === 'frequency' && rate) || ((property === 'duty' || property === 'width') && rate && duty),
  );
  const glitches = duty
    ? checkCapture(trace, requirement, exact(tickHz)).filter(({ property }) => property === 'glitches')
    : [];
  return [...ofGroup, ...groupCheck(groups, wantedGroups(signal, sequence)), ...glitches];
}
