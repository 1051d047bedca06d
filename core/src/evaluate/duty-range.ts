import type { ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import type { Plan } from '../plan/plan.ts';
import { driveOf, outcomeUnder } from '../timer/drives/index.ts';
import type { Setting } from '../timer/setting.ts';
import { simulatePlan } from './interrupts.ts';

/** A duty that is set, and what the interrupts make of it: the shortest, mean and longest pulse as a share of the period. */
type DutyPoint = { set: number; min: number; mean: number; max: number };

/** What interrupts make of each duty of a signal, and the longest stretch of them that comes out right. */
export type DutyRange = {
  points: DutyPoint[];
  /** Between these, every simulated pulse is within 1 % of the period of what was set; absent where none is. */
  usable?: { min: number; max: number };
};

/** How far a pulse may be off, as a share of the period. */
const OFF = 0.01;

/** Duties that are tried, and periods of each. */
const SET = [0.002, 0.005, 0.01, 0.02, 0.03, 0.05, 0.08, 0.12, 0.2, 0.3, 0.4, 0.5];
const PERIODS = 120;
const MOST = 20_000;

/** The longest stretch of duties that all come out right. */
function longestRun(points: readonly DutyPoint[]): DutyRange['usable'] {
  let best: DutyRange['usable'];
  let from: number | undefined;
  for (const { set, min, max } of points) {
    if (set - min > OFF || max - set > OFF) {
      from = undefined;
      continue;
    }
    from ??= set;
    if (!best || set - from > best.max - best.min) best = { min: from, max: set };
  }
  return best;
}

/**
 * What the interrupts of a plan make of the duties of one signal whose pulses handlers make. Undefined where its duty cannot
 * be set or timers make it. @throws SettingError
 */
export function dutyRange(
  plan: Pick<Plan, 'signals' | 'cpu' | 'pinNames'>,
  part: Part,
  path: ClockPath,
  settings: ReadonlyMap<string, Setting>,
  id: string,
): DutyRange | undefined {
  const setting = settings.get(id);
  if (!setting) return undefined;
  const drive = driveOf(setting);
  const duty = drive.cause === 'interrupts' ? drive.movable(part, setting).duty : undefined;
  if (!duty) return undefined;
  const shares = [...SET, ...SET.map((share) => 1 - share).reverse()].filter(
    (share, i, all) => all.indexOf(share) === i,
  );
  const compares = [...new Set(shares.map((share) => Math.round(duty.min + share * (duty.max - duty.min))))];
  const points = compares.flatMap((compare): DutyPoint[] => {
    const own = { ...setting, [duty.field]: compare };
    const wanted = outcomeUnder(part, path, own);
    const period = 1 / wanted.frequency.valueOf();
    const { report } = simulatePlan(plan, part, path, new Map([...settings, [id, own]]), {
      seconds: PERIODS * period,
      seed: 1,
      most: MOST,
    });
    const { widthS } = report.edges.get(id) ?? {};
    const set = (compare - duty.min) / (duty.max - duty.min);
    return widthS
      ? [{ set, min: widthS.min / period, mean: widthS.mean / period, max: widthS.max / period }]
      : [];
  });
  const usable = longestRun(points);
  return { points, ...(usable ? { usable } : {}) };
}
