import { clockAt, clockOf, type ClockPath } from '../../clock/path.ts';
import { timerPins } from '../../part/find.ts';
import type { Part } from '../../part/types.ts';
import type { Exact } from '../../quantity/exact.ts';
import { heldOn, onOscillator } from '../../signal/drift.ts';
import { needsEdges, type Requirement } from '../../signal/requirement.ts';
import { allDrives, driveOf, outcomeUnder } from '../../timer/drives/index.ts';
import { interruptSources } from '../../timer/interrupt-sources.ts';
import type { Outcome } from '../../timer/outcome.ts';
import type { Setting } from '../../timer/setting.ts';
import type { Candidate } from '../candidate.ts';

/** Where only a minimum frequency is asked for, so much above it, for oscillators that are slow. */
const ABOVE_MIN = 1.01;

function within(value: Exact, low: Exact, high: Exact | undefined): boolean {
  return value.compare(low) >= 0 && (high === undefined || value.compare(high) <= 0);
}

/** The widest step between two widths of a span that still will do, in s. */
function coarsestS({ span }: Requirement): number {
  return span?.of === 'width' ? span.within.mul(2).valueOf() : Infinity;
}

/** Whether both ends of a span of widths can be made. */
function reachesWidths({ span }: Requirement, { reach, frequency }: Outcome): boolean {
  if (span?.of !== 'width') return true;
  const [least, most] = [reach.min.div(frequency), reach.max.div(frequency)];
  return least.compare(span.low) <= 0 && most.compare(span.high) >= 0;
}

/** A software setting as a candidate, judged against its requirement. */
export function softwareCandidate(requirement: Requirement, setting: Setting, outcome: Outcome): Candidate {
  const { frequency } = requirement;
  const { duty } = outcome;
  const still = needsEdges(requirement) && (duty.compare(0) <= 0 || duty.compare(1) >= 0);
  const inBand = requirement.width
    ? within(outcome.duty.div(outcome.frequency), requirement.width.low, requirement.width.high)
    : within(outcome.duty, requirement.duty.low, requirement.duty.high);
  const meetsDuty = inBand && !still;
  const inTime = within(outcome.frequency, frequency.low, frequency.high);
  const steady = requirement.jitterS === undefined || outcome.jitterS <= requirement.jitterS;
  const stepS = outcome.stepTicks / outcome.tickHz.valueOf();
  const spanned = reachesWidths(requirement, outcome) && stepS <= coarsestS(requirement);
  return {
    setting,
    periodTicks: outcome.cycle.periodTicks,
    frequencyHz: outcome.frequency.valueOf(),
    errorPpm:
      frequency.kind === 'near' ? outcome.frequency.div(frequency.ideal).sub(1).mul(1000000).valueOf() : 0,
    duty: outcome.duty.valueOf(),
    dutyError: outcome.duty.sub(requirement.duty.ideal).valueOf(),
    steps: outcome.steps,
    bits: outcome.bits,
    stepS,
    meets:
      spanned && inTime && meetsDuty && steady && outcome.steps >= requirement.minSteps && outcome.cpu <= 1,
    meetsDuty,
    cpu: outcome.cpu,
    jitterS: outcome.jitterS,
    ...(requirement.alsoWidths ? { sends: true } : {}),
  };
}

/** The pin for a software drive: the wanted one, else one that no timer could drive, else any the program can. */
function softwarePinFor(
  part: Part,
  wanted: string | undefined,
  taken: ReadonlySet<string>,
): string | undefined {
  const able = part.pins.filter((pin) => pin.software).map((pin) => pin.id);
  if (wanted !== undefined) return able.includes(wanted) ? wanted : undefined;
  const driven = new Set(timerPins(part));
  const free = able.filter((pin) => !taken.has(pin));
  return free.find((pin) => !driven.has(pin)) ?? free[0] ?? able[0];
}

/**
 * Settings in which the program makes the signal: what every drive proposes that does not leave it to the hardware, in the
 * order of the drives, each judged by its exact outcome.
 */
export function softwareFit(
  part: Part,
  path: ClockPath,
  requirement: Requirement,
  pin?: string,
  taken: ReadonlySet<string> = new Set(),
): Candidate[] {
  const { frequency } = requirement;
  const place = requirement.pin ? softwarePinFor(part, pin, taken) : undefined;
  if ((requirement.pin && place === undefined) || requirement.span?.of === 'frequency') return [];
  const lowHz = frequency.low.valueOf();
  const middleHz = Math.sqrt(lowHz * (frequency.high?.valueOf() ?? Infinity));
  const wantedHz =
    frequency.kind === 'near' ? frequency.ideal.valueOf() : Math.min(middleHz, lowHz * ABOVE_MIN);
  const proposal = {
    part,
    requirement,
    cpuHz: clockOf(path, part.cpu.clock),
    wantedHz,
    ...(place === undefined ? {} : { pin: place }),
    sources: interruptSources(part, path),
  };
  // A period of two widths is for drives that send bits, which make nothing else.
  const able = allDrives().filter(
    ({ bits }) => (bits === undefined) === (requirement.alsoWidths === undefined),
  );
  const settings = able.flatMap((drive) => drive.propose?.(proposal) ?? []);
  return settings.map((setting) => {
    const outcome = outcomeUnder(part, path, setting);
    const { tolerancePpm } = clockAt(path, driveOf(setting).clockNode(part, setting));
    const held = heldOn(requirement, tolerancePpm);
    const { unsurePpm = 0 } = outcome;
    if (unsurePpm === 0 || held === requirement) return softwareCandidate(held, setting, outcome);
    // What reloads may lose counts like the oscillator; where both leave nothing, this way fails for its reloads.
    const sure = onOscillator(requirement, tolerancePpm + unsurePpm);
    const candidate = softwareCandidate(sure ?? held, setting, outcome);
    return sure ? candidate : { ...candidate, meets: false };
  });
}
