import { allot, type Allotment } from '@herzschlag/core/allot/allot.ts';
import type { Request } from '@herzschlag/core/allot/request.ts';
import { clockPath, type ClockSetting } from '@herzschlag/core/clock/path.ts';
import { partById } from '@herzschlag/core/part/catalogue.ts';
import { goalOf } from '@herzschlag/core/target/goal.ts';
import type { Aim } from '@herzschlag/core/target/signal.ts';
import { quantile, timings } from './table.ts';

/** Twelve signals in six groups of one frequency each, on no pin in particular. */
const AIMS: Aim[] = [
  { kind: 'blink', target: { frequencyHz: 1, duty: 0.1 } },
  { kind: 'blink', target: { frequencyHz: 1, duty: 0.5 } },
  { kind: 'blink', target: { frequencyHz: 2, duty: 0.25 } },
  { kind: 'tone', target: { note: 'C5' } },
  { kind: 'tone', target: { note: 'C5', toleranceCents: 3 } },
  { kind: 'dim', target: { minHz: 1200, minSteps: 100, duty: 0.4 } },
  { kind: 'dim', target: { minHz: 1200, minSteps: 100, duty: 0.8 } },
  { kind: 'blink', target: { frequencyHz: 2, duty: 0.5 } },
  { kind: 'pulse', target: { frameHz: 50, widthS: 0.0015 } },
  { kind: 'pulse', target: { frameHz: 50, widthS: 0.0011 } },
  { kind: 'pulse', target: { frameHz: 50, widthS: 0.0019 } },
  { kind: 'tick', target: { frequencyHz: 100 } },
];

const CLOCKS: Record<string, ClockSetting> = {
  stm32f401: {
    source: 'crystal',
    sourceHz: 8e6,
    tolerancePpm: 30,
    settings: { pllM: 8, pllN: 336, pllP: 4 },
  },
  atmega2560: { source: 'crystal', sourceHz: 16e6, tolerancePpm: 50 },
};

const requests: Request[] = AIMS.map((aim, at) => ({
  id: `s${at}`,
  name: `signal ${at}`,
  goal: goalOf(aim),
}));
const rows = [];
const lines: string[] = [];
for (const [id, clock] of Object.entries(CLOCKS)) {
  const part = partById(id);
  if (!part) throw new Error(`no ${id}`);
  const path = clockPath(part, clock);
  let last: Allotment | undefined;
  allot(part, path, requests);
  const times = Array.from({ length: 12 }, () => {
    const start = performance.now();
    last = allot(part, path, requests);
    return performance.now() - start;
  });
  rows.push(timings(`allot: 12 signals on ${part.name}`, times));
  const { feasible, optimal, nodes = 0, worth } = last ?? {};
  lines.push(
    `${part.name}: ${feasible ? 'goes' : 'does not go'}, ${optimal ? 'proven' : 'NOT proven'}, ${nodes} places, ` +
      `${worth?.timers} timers, ${((worth?.cpu ?? 0) * 100).toFixed(3)} % of the CPU; ` +
      `goal 500 ms: ${quantile(times, 0.95) < 500 ? 'reached' : 'NOT reached'}`,
  );
}
console.table(rows);
console.log(lines.join('\n'));
