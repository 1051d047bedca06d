import type { ClockPath } from '../../clock/path.ts';
import { hasTimer } from '../../timer/setting.ts';
import { divisionRange, scaleOf } from '../../part/division.ts';
import type { Part } from '../../part/types.ts';
import {
  counterContext,
  changesOf,
  runOf,
  type CounterContext,
  type Shared,
  type Use,
  isInputUse,
} from './context.ts';
import { cpuSteps } from './quality.ts';
import type { Option } from '../request.ts';
import { sharedAt } from './counter-at.ts';

/** How many run lengths that are closer than the known ones but unusable are tried before the search stops. */
const MAX_FAILING = 256;

/** Divisions of a range that are tried: finer steps come with the least of them. */
const MAX_DIVISIONS = 4096;

/** What is the same to a double. */
const SAME = 1e-13;

/** The runs that are wanted most, in ticks: one for each use with a frequency to be near to, in its number of runs. */
function wantedRuns({ uses, wanted }: CounterContext, runs: readonly number[]): number[] {
  return uses.flatMap((use, at) => {
    const period = wanted[at]?.periodFloat;
    return period === undefined ? [] : [period / changesOf(use) / (runs[at] ?? 1)];
  });
}

/** How far a run is off at the worst, as a fraction of what is wanted. */
function worstError(wanted: readonly number[], run: number): number {
  return wanted.reduce((worst, one) => Math.max(worst, Math.abs(run / one - 1)), 0);
}

/** The smallest dividers of a counter’s clock, up to a maximum number of them, that can make these run lengths. */
function divisions({ timer: { prescaler }, counter }: CounterContext, wanted: readonly number[]): number[] {
  if (prescaler.kind === 'list') return prescaler.options.map(({ divide }) => divide);
  const { min, max } = divisionRange(prescaler);
  const { factor, shift } = counter;
  const from = Math.max(min, Math.floor(Math.min(...wanted) / factor / (counter.max + shift)));
  const to = Math.min(max, from + MAX_DIVISIONS, Math.ceil(Math.max(...wanted) / factor));
  return Array.from({ length: Math.max(0, to - from + 1) }, (_, at) => from + at);
}

/** The numbers that all uses have now, where it is one counter. */
function presentOf(
  uses: readonly Use[],
  { timer, mode }: Pick<Option, 'timer' | 'mode'>,
): { n: number; top: number } | undefined {
  const scale = scaleOf(timer.prescaler);
  const counters = uses.map(({ request: { present } }) =>
    present && hasTimer(present) && present.timer === timer.id && present.mode === mode.id
      ? { n: present.prescaler * scale, top: present.top }
      : undefined,
  );
  const [first] = counters;
  return first && counters.every((one) => one?.n === first.n && one.top === first.top) ? first : undefined;
}

/** The tops just below and just above a wanted run, those that the counter can have. */
function topsBeside(counter: CounterContext['counter'], n: number, run: number): number[] {
  const ideal = (run - counter.hold) / (counter.factor * n) - counter.shift;
  return [Math.floor(ideal), Math.ceil(ideal)].filter(
    (top) =>
      top >= counter.min && top <= counter.max && (!counter.powers || Number.isInteger(Math.log2(top + 1))),
  );
}

/**
 * Of the counters that are worth the same as one that was found, the one whose frequencies are nearest to what is wanted;
 * the present one, where nothing comes nearer. The numbers of runs stay. Shares are in the order of the uses.
 */
export function refined(
  part: Part,
  path: ClockPath,
  option: Pick<Option, 'timer' | 'mode'>,
  uses: readonly Use[],
  found: Shared,
): Shared {
  const context = counterContext(part, path, option, uses, { hit: false });
  if (!context || uses.some(({ drive, request }) => isInputUse({ drive }) || request.locked)) return found;
  const { counter } = context;
  const runs = found.shares.map(({ divider }) => divider ?? 1);
  const wanted = wantedRuns(context, runs);
  const at = (n: number, top: number): Shared | undefined => {
    const one = sharedAt(context, n, top, runs);
    return one && one.level >= found.level && cpuSteps(one.cpu) <= cpuSteps(found.cpu) ? one : undefined;
  };
  let best = found;
  let error = worstError(
    wanted,
    runOf(counter, found.prescaler * scaleOf(option.timer.prescaler), found.top),
  );
  const present = presentOf(uses, option);
  const kept = present && at(present.n, present.top);
  if (present && kept) {
    const own = worstError(wanted, runOf(counter, present.n, present.top));
    if (own <= error + SAME) [best, error] = [kept, own];
  }
  let failing = MAX_FAILING;
  for (const n of wanted.length > 0 ? divisions(context, wanted) : []) {
    if (error <= SAME || failing <= 0) break;
    for (const top of wanted.flatMap((run) => topsBeside(counter, n, run))) {
      const own = worstError(wanted, runOf(counter, n, top));
      if (own >= error - SAME) continue;
      const one = at(n, top);
      if (one) [best, error] = [one, own];
      else failing -= 1;
    }
  }
  return best;
}
