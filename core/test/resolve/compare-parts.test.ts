import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { partById, PARTS } from '../helpers/parts.ts';
import type { Part } from '../../src/part/types.ts';
import { readPlan } from '../../src/plan/check-plan.ts';
import { assignPlan } from '../../src/resolve/assign-plan.ts';
import { searchClocks, tryPart } from '../../src/resolve/compare-parts.ts';
import { withSettings } from '../../src/plan/edit.ts';

const read = readPlan(
  readFileSync(join(__dirname, '../../../examples/harbour-buoy.plan.json'), 'utf8'),
  PARTS,
);
if (!read.ok) throw new Error(read.fault.sentence);
const { plan, part } = read.value;

function reasonsOn(id: string): string[] {
  const other = partById(id) as Part;
  return tryPart(plan, other, other.defaultClock)?.reasons ?? [];
}

describe('a plan on another part', () => {
  it('says why it does not fit: the oscillator against the target’s tolerance', () => {
    // The lantern allows 0.2 %, the internal oscillators are worse by far.
    expect(reasonsOn('attiny85')[0]).toMatch(
      /^Lantern: .*oscillator of ±10 %, the target allows ±2\s000 ppm\.$/,
    );
    expect(reasonsOn('pic16f18875')[0]).toMatch(
      /^Lantern: .*oscillator of ±2 %, the target allows ±2\s000 ppm\.$/,
    );
    // One sentence for each signal that cannot be made; the lamp that a knob dims wants an output of 1000 steps.
    expect(reasonsOn('attiny85')).toHaveLength(6);
  });

  it('says what refuses a signal on every timer, with the number where there is one', () => {
    expect(reasonsOn('rp2040')).toEqual(['Anemometer: no timer has a capture input.']);
    expect(reasonsOn('pic18f4620')[0]).toMatch(
      /^Anemometer: Timer \d: the slowest it can tell is [\d.\s]+ Hz\.$/,
    );
  });

  it('gives no reason where it fits', () => {
    expect(reasonsOn('stm32f401')).toEqual([]);
  });
});

it('offers no other clock where none makes anything fit or is markedly better', () => {
  const settled = withSettings(plan, assignPlan(plan, part).settings);
  expect(tryPart(settled, part, settled.clock)?.feasible).toBe(true);
  expect(searchClocks(settled, part)).toEqual([]);
});
