import { readFileSync } from 'node:fs';
import { readPlan } from '@herzschlag/core/format/read.ts';
import { allotAll } from '@herzschlag/core/outcome/allotment.ts';
import { PARTS, partById } from '@herzschlag/core/part/catalogue.ts';
const read = readPlan(readFileSync('examples/harbour-buoy.plan.json', 'utf8'), PARTS);
if (!read.ok) throw new Error('x');
const part = partById('stm32f401')!;
const plan = { ...read.plan, reserved: ['TIM2'], signals: read.plan.signals.map((one) => { const r = { ...one }; if (r.id === 'anemometer') delete r.pin; return r; }) };
for (const s of [1, 6, 30]) {
  const t = performance.now();
  const r = allotAll(plan, part, () => performance.now() - t < s * 1000);
  console.log(s, (performance.now() - t).toFixed(0), r.feasible, r.optimal, r.nodes, r.worth, r.settings.map(({ signal, setting }) => `${signal} ${setting.drive} ${'timer' in setting ? setting.timer : ''} ${setting.pin}`));
}
