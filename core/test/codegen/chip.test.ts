import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { outcomeUnder } from '../../src/timer/drives/index.ts';
import type { Setting } from '../../src/timer/setting.ts';
import { runOnChip, type Program, type Step } from '../helpers/chip.ts';
import { plansFor } from '../helpers/chip-plans.ts';
import { computedEdges, momentsOf, playedCalls, playedEdges, playLines } from '../helpers/chip-play.ts';
import { faultsOf } from '../helpers/chip-rules.ts';
import { PARTS } from '../helpers/parts.ts';

/** Plans to a part: five hundred in all. */
const RUNS = Number(process.env['HZ_RUNS'] ?? 40);
const SEED = 160_411;

/** Periods of a pin that are played, and the most interrupts for one. */
const PERIODS = 3;
const MOST = 20_000;

function settingsOf(part: Part, plan: Plan): Setting[] {
  return evaluatePlan(plan, part).signals.flatMap(({ outcome }) => (outcome ? [outcome.setting] : []));
}

/** The code of a plan: started, its interrupts played, stopped. */
function programOf(part: Part, plan: Plan): Program {
  const { files } = planCode(plan, part);
  const plays = settingsOf(part, plan).flatMap((setting, at) => [
    'on_chip_start();',
    `mark("play ${at}");`,
    ...playLines(part, setting, momentsOf(part, plan, setting, PERIODS, MOST)),
  ]);
  const body = [
    'on_chip_init();',
    'mark("start");',
    'on_chip_start();',
    'mark("run");',
    ...plays,
    'mark("stop");',
    'on_chip_stop();',
  ];
  return { part, files, body };
}

/** What happened in the play of a signal. */
function between(steps: readonly Step[], number: number): Step[] {
  const from = steps.findIndex((step) => step.do === 'mark' && step.name === `play ${number}`);
  const rest = steps.slice(from + 1);
  const end = rest.findIndex((step) => step.do === 'mark' && /^(?:play|stop)/.test(step.name));
  return rest.slice(0, end);
}

/** Holds the edges and calls of a play against the computed waveform; gives how many were compared. */
function comparePlay(part: Part, plan: Plan, setting: Setting, steps: readonly Step[]): number {
  const moments = momentsOf(part, plan, setting, PERIODS, MOST);
  const last = moments.at(-1);
  if (!last) return 0;
  const { frequency, tickHz } = outcomeUnder(part, clockPath(part, plan.clock), setting);
  const inTicks = (times: readonly number[]): number[] =>
    times.map((time) => Math.round(time * tickHz.valueOf()));
  const { pin } = setting;
  const made = pin === undefined ? playedCalls(moments, steps) : playedEdges(part, pin, moments, steps);
  const wanted =
    pin === undefined
      ? Array.from({ length: PERIODS }, (_, at) => (at + 1) / frequency.valueOf())
      : computedEdges(part, plan, setting, last.atS);
  expect([setting, inTicks(made)]).toEqual([setting, inTicks(wanted)]);
  return made.length;
}

describe.each(PARTS.map((part) => [part.name, part] as const))(
  'programs for %s on a model of it',
  (_, part) => {
    it('keep the order that the hardware needs, do what the table and the waveform say, and stop', () => {
      const drawn = fc.sample(plansFor(part), { numRuns: RUNS, seed: SEED });
      const plans = drawn.filter(({ signals }) => signals.length > 0);
      expect(plans.length).toBeGreaterThan(RUNS / 2);
      const runs = runOnChip(plans.map((plan) => programOf(part, plan)));
      let played = 0;
      for (const [at, plan] of plans.entries()) {
        const steps = runs[at] ?? [];
        const settings = settingsOf(part, plan);
        const faults = faultsOf(part, settings, evaluatePlan(plan, part).registers, steps);
        expect([plan.signals, faults]).toEqual([plan.signals, []]);
        const stuck = steps.filter((step) => step.do === 'mark' && step.name.startsWith('stuck'));
        expect(stuck).toEqual([]);
        settings.forEach((setting, number) => {
          played += comparePlay(part, plan, setting, between(steps, number));
        });
      }
      expect(played).toBeGreaterThan(0);
    });
  },
);
