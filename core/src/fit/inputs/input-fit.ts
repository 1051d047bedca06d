import { clockOf, type ClockPath } from '../../clock/path.ts';
import { scaleOf } from '../../part/division.ts';
import type { CaptureUnit, Part, Timer } from '../../part/types.ts';
import type { Requirement } from '../../signal/requirement.ts';
import { interruptCycles } from '../../timer/run.ts';
import { modeOf } from '../../part/find.ts';
import { timerIdOf, topRange } from '../../timer/setting.ts';
import type { CaptureSetting } from '../../timer/setting.ts';
import type { Candidate } from '../candidate.ts';
import type { Refusal } from '../explain/refusal.ts';
import { printHz, printNumber } from '../../quantity/print.ts';

/** Interrupts at the fastest signal that take more of the processor than this are not offered. */
const MAX_CPU = 0.5;

/** Divisions by n parts of the clock worth trying: all of a list; of a range each power of two and the first that reaches. */
function divisionsOf({ prescaler }: Timer, slowest: number): number[] {
  if (prescaler.kind === 'list') return prescaler.options.map((one) => one.divide);
  const { min, max } = prescaler;
  const doubled: number[] = [];
  for (let n = min; n <= max; n *= 2) doubled.push(n);
  const first = Math.min(max, Math.max(min, Math.ceil(slowest - 1e-9)));
  return [...new Set([first, ...doubled])].sort((one, other) => one - other);
}

/** The pin of a capture: the wanted one, else the first that is not taken. */
function pinOf(
  { inputs }: CaptureUnit,
  pin: string | undefined,
  taken: ReadonlySet<string>,
): string | undefined {
  if (pin !== undefined) return inputs.find((one) => one.pin === pin)?.pin;
  return (inputs.find((one) => !taken.has(one.pin)) ?? inputs[0])?.pin;
}

type Asked = NonNullable<Requirement['input']>;

function candidateOf(
  part: Part,
  path: ClockPath,
  timer: Timer,
  setting: CaptureSetting,
  n: number,
  { slowest, fastest, resolution }: Asked,
): Candidate {
  const scale = scaleOf(timer.prescaler);
  const counts = setting.top + modeOf(timer, setting.mode).base;
  const countHz = clockOf(path, timer.clock).mul(scale).div(n);
  const steps = Math.floor(countHz.div(fastest).valueOf() + 1e-9);
  const reaches = countHz.div(counts).compare(slowest) <= 0;
  const cpu = (fastest.valueOf() * interruptCycles(part.cpu)) / clockOf(path, part.cpu.clock).valueOf();
  const share = steps > 0 ? 1 / steps : 1;
  return {
    setting,
    periodTicks: n * counts,
    frequencyHz: countHz.div(counts).valueOf(),
    errorPpm: share * 1e6,
    duty: 0,
    dutyError: 0,
    steps,
    bits: Math.log2(Math.max(1, steps)),
    stepS: countHz.inverse().valueOf(),
    meets: reaches && share <= resolution && cpu <= MAX_CPU,
    meetsDuty: true,
    cpu,
    jitterS: n % scale === 0 ? 0 : 1 / clockOf(path, timer.clock).valueOf(),
  };
}

/**
 * Ways to measure an input: each timer that can capture, on the wanted pin or any, at each division. A run of the
 * counter must last as long as the slowest period, a count must be fine enough against the fastest.
 */
export function inputFit(
  part: Part,
  path: ClockPath,
  input: Asked,
  pin: string | undefined,
  taken: ReadonlySet<string>,
): Candidate[] {
  return part.timers.flatMap((timer) =>
    (timer.captures ?? []).flatMap((capture) => {
      const place = pinOf(capture, pin, taken);
      if (place === undefined) return [];
      const mode = modeOf(timer, capture.mode);
      const top = topRange(mode).max;
      const scale = scaleOf(timer.prescaler);
      const reach = clockOf(path, timer.clock)
        .mul(scale)
        .div(input.slowest)
        .div(top + mode.base)
        .valueOf();
      return divisionsOf(timer, reach).map((n) => {
        const setting: CaptureSetting = {
          drive: 'capture',
          timer: timer.id,
          mode: mode.id,
          channel: capture.id,
          pin: place,
          prescaler: n / scale,
          top,
        };
        return candidateOf(part, path, timer, setting, n, input);
      });
    }),
  );
}

/** Why a timer cannot measure the input: no capture there, or no division reaches both ends. */
export function refuseInputs(
  part: Part,
  { slowest, resolution }: Asked,
  candidates: readonly Candidate[],
  pin: string | undefined,
): Refusal[] {
  return part.timers.flatMap((timer) => {
    const own = candidates.filter(({ setting }) => timerIdOf(setting) === timer.id);
    if (own.some((one) => one.meets)) return [];
    const refuse = (reason: string): Refusal[] => [{ timer: timer.id, reason }];
    if (own.length === 0) {
      const pins = (timer.captures ?? []).flatMap(({ inputs }) => inputs.map((one) => one.pin));
      return pins.length === 0 || pin === undefined
        ? refuse(`${timer.name} has no capture input.`)
        : refuse(`${pin} is no capture input of ${timer.name}; ${[...new Set(pins)].join(', ')} are.`);
    }
    const reaching = own.filter((one) => one.frequencyHz <= slowest.valueOf() * (1 + 1e-12));
    const finest = [...(reaching.length > 0 ? reaching : own)].sort((a, b) => b.steps - a.steps)[0];
    if (!finest) return [];
    if (reaching.length === 0) {
      return refuse(`The slowest it can tell is ${printHz(Math.min(...own.map((one) => one.frequencyHz)))}.`);
    }
    if (finest.cpu > MAX_CPU)
      return refuse('At the fastest its interrupts take more than half of the processor.');
    return refuse(
      `Where it reaches the slowest, the fastest is ${printNumber(finest.steps)} counts; ` +
        `${printNumber(Math.ceil(1 / resolution - 1e-9))} are asked for.`,
    );
  });
}
