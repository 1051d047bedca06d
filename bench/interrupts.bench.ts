import { readFileSync } from 'node:fs';
import {
  checkPlan,
  clockPath,
  fetchParts,
  type Plan,
  type PlanTask,
  settingsOf,
  simulatePlan,
} from '@herzschlag/core';
import { timings } from './table.ts';

/** The requirements: so many interrupts in less than so many milliseconds. */
const REQUIREMENTS = [
  { interrupts: 10_000, ms: 50 },
  { interrupts: 100_000, ms: 300 },
];

const ROUNDS = 30;

const parts = await fetchParts();
const read = checkPlan(JSON.parse(readFileSync('examples/tower-clock.plan.json', 'utf8')) as unknown, parts);
if (!read.ok) throw new Error(read.fault.sentence);
const { plan, part } = read.value;
const path = clockPath(part, plan.clock);

/** The tower clock with eight more interrupts of different rates and priorities. */
const tasks = [37, 53, 71, 97, 130, 210, 330, 470].map((everyUs, at): PlanTask => ({
  id: `more-${at}`,
  name: `More ${at}`,
  arrives: { everyS: everyUs / 1e6 },
  cycles: { min: 20, max: 60 },
  priority: at % 4,
}));
const loaded: Plan = { ...plan, cpu: { ...plan.cpu, tasks: [...(plan.cpu?.tasks ?? []), ...tasks] } };
const settings = settingsOf(loaded, part, path);

const rows = REQUIREMENTS.map(({ interrupts, ms }) => {
  const once = (seed: number): number => {
    const start = performance.now();
    simulatePlan(loaded, part, path, settings, { seconds: 100, seed, most: interrupts });
    return performance.now() - start;
  };
  for (let seed = 0; seed < 5; seed += 1) once(seed);
  const values = Array.from({ length: ROUNDS }, (_, seed) => once(seed));
  return { ...timings(`${interrupts} interrupts simulated, with bounds`, values), 'required ms': ms };
});
console.table(rows);
