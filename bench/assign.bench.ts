import {
  type Assignment,
  type ClockSetting,
  type KindAndTarget,
  type Part,
  type Request,
  assign,
  clockPath,
  fetchPart,
  requirementOf,
} from '@herzschlag/core';
import { quantile, timings } from './table.ts';

/** Twelve signals in six groups of one frequency each, on no pin in particular. */
const AIMS: KindAndTarget[] = [
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

/** Numbers from 0 to 1 that are the same in every run. */
function seeded(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state * 1103515245 + 12345) & 0x7fffffff;
    return state / 0x7fffffff;
  };
}

/** Twelve signals of all kinds, as chance has them; every other time each on a pin of its own. */
function mixed(part: Part, random: () => number, pinned: boolean): Request[] {
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)] as T;
  const kinds: (() => KindAndTarget)[] = [
    () => ({ kind: 'blink', target: { frequencyHz: pick([0.5, 1, 2, 4, 5]), duty: pick([0.1, 0.25, 0.5]) } }),
    () => ({
      kind: 'tone',
      target: { note: pick(['A4', 'C5', 'E5', 'A5', 'D6']), toleranceCents: pick([3, 5]) },
    }),
    () => ({
      kind: 'dim',
      target: { minHz: pick([200, 300, 1000]), minSteps: pick([100, 256, 1000]), duty: pick([0.2, 0.5]) },
    }),
    () => ({ kind: 'pulse', target: { frameHz: 50, widthS: pick([0.0011, 0.0015, 0.0019]) } }),
    () => ({ kind: 'tick', target: { frequencyHz: pick([100, 250, 1000]) } }),
    () => ({ kind: 'strobe', target: { frequencyHz: pick([12, 25, 33]), duty: 0.05 } }),
  ];
  const channels = part.timers.flatMap((timer) => timer.channels);
  const pins = [...new Set(channels.flatMap(({ outputs }) => outputs.map(({ pin }) => pin)))];
  return AIMS.map((_, at) => {
    const requirement = requirementOf(pick(kinds)());
    const own = pinned && requirement.pin ? pins.splice(Math.floor(random() * pins.length), 1)[0] : undefined;
    return { id: `s${at}`, name: `signal ${at}`, requirement, ...(own === undefined ? {} : { pin: own }) };
  });
}

/** So often the twelve are placed. */
const RUNS = 40;

/** Problems that are as likely as others, so that what holds for the twelve is no accident. */
const MIXED = 24;

const rows = [];
const lines: string[] = [];
for (const [id, clock] of Object.entries(CLOCKS)) {
  const part = await fetchPart(id);
  if (!part) throw new Error(`no ${id}`);
  const path = clockPath(part, clock);
  const timed = (requests: readonly Request[]): { found: Assignment; ms: number } => {
    const start = performance.now();
    const found = assign(part, path, requests, { mayContinue: () => performance.now() - start < 10_000 });
    return { found, ms: performance.now() - start };
  };
  const requests = AIMS.map((aim, at) => ({
    id: `s${at}`,
    name: `signal ${at}`,
    requirement: requirementOf(aim),
  }));
  const cold = timed(requests).ms;
  const runs = Array.from({ length: RUNS }, () => timed(requests));
  const times = runs.map(({ ms }) => ms);
  rows.push(timings(`assign: 12 signals on ${part.name}`, times));
  const random = seeded(7);
  const chance = Array.from({ length: MIXED }, (_, at) => timed(mixed(part, random, at % 2 === 1)));
  rows.push(
    timings(
      `assign: 12 mixed signals on ${part.name}`,
      chance.map(({ ms }) => ms),
    ),
  );
  const { feasible, optimal, nodes, objective } = runs[0]?.found ?? chance[0]!.found;
  const proven = chance.filter(({ found }) => found.optimal).length;
  lines.push(
    `${part.name}: ${feasible ? 'goes' : 'does not fit'}, ${optimal ? 'proven' : 'NOT proven'}, ${nodes} groups, ` +
      `${objective?.timers} timers, ${((objective?.cpu ?? 0) * 100).toFixed(3)} % of the CPU; the first time ${cold.toFixed(0)} ms; ` +
      `requirement 500 ms: ${quantile(times, 0.95) < 500 ? 'reached' : 'NOT reached'}; ` +
      `of ${MIXED} mixed ones ${proven} are proven`,
  );
}
console.table(rows);
console.log(lines.join('\n'));
