import { allot } from '@herzschlag/core/allot/allot.ts';
import type { Request } from '@herzschlag/core/allot/request.ts';
import { clockPath } from '@herzschlag/core/clock/path.ts';
import { partById } from '@herzschlag/core/part/catalogue.ts';
import { goalOf } from '@herzschlag/core/target/goal.ts';
import type { Aim } from '@herzschlag/core/target/signal.ts';
let seed = 1;
const rnd = () => { seed = (seed * 1103515245 + 12345) & 0x7fffffff; return seed / 0x7fffffff; };
const pick = <T,>(list: T[]): T => list[Math.floor(rnd() * list.length)]!;
const some = (): Aim => pick<() => Aim>([
  () => ({ kind: 'blink', target: { frequencyHz: pick([0.5, 1, 2, 4, 5]), duty: pick([0.1, 0.25, 0.5]) } }),
  () => ({ kind: 'tone', target: { frequencyHz: pick([440, 523.25, 660, 880, 1150, 2300]), toleranceCents: pick([3, 5, 10]) } }),
  () => ({ kind: 'dim', target: { minHz: pick([200, 300, 1000]), minSteps: pick([100, 256, 1000]), duty: pick([0.2, 0.5]) } }),
  () => ({ kind: 'pulse', target: { frameHz: 50, widthS: pick([0.0011, 0.0015, 0.0019]) } }),
  () => ({ kind: 'tick', target: { frequencyHz: pick([100, 1000, 250]) } }),
  () => ({ kind: 'strobe', target: { frequencyHz: pick([12, 25, 33]), duty: 0.05 } }),
])();
const N = Number(process.argv[2] ?? 12), LIM = Number(process.argv[3] ?? 3);
for (const [id, clock] of [['stm32f401', { source: 'crystal', sourceHz: 8e6, tolerancePpm: 30, settings: { pllM: 8, pllN: 336, pllP: 4 } }], ['atmega2560', { source: 'crystal', sourceHz: 16e6, tolerancePpm: 50 }]] as const) {
  const part = partById(id)!;
  const path = clockPath(part, clock);
  seed = 7;
  const out = [];
  for (let i = 0; i < 12; i++) {
    const pinned = i % 2 === 1;
    const pins = part.timers.flatMap((t) => t.channels.flatMap((c) => c.outputs.map((o) => o.pin)));
    const free = [...new Set(pins)];
    const requests: Request[] = Array.from({ length: N }, (_, at) => { const goal = goalOf(some()); const pin = pinned && goal.pin ? free.splice(Math.floor(rnd() * free.length), 1)[0] : undefined; return { id: `s${at}`, name: `s${at}`, goal, ...(pin ? { pin } : {}) }; });
    const t = performance.now();
    const r = allot(part, path, requests, { goOn: () => performance.now() - t < LIM * 1000 });
    out.push(`${pinned ? 'P' : 'f'}${(performance.now() - t).toFixed(0)}${r.feasible ? '' : '!'}${r.optimal ? '✓' : '–'}[${r.worth ? `${(r.worth.cpu * 100).toFixed(3)} ${r.worth.level} ${r.worth.timers}` : ''}]`);
  }
  console.log(id, out.join('  '));
}
