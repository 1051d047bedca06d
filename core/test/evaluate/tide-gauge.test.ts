import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { clockPath } from '../../src/clock/path.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { readPlan } from '../../src/plan/check-plan.ts';
import { ratio } from '../../src/quantity/exact.ts';
import { outcomeUnder } from '../../src/timer/drives/index.ts';
import type { Setting } from '../../src/timer/setting.ts';
import { PARTS, shipped } from '../helpers/parts.ts';

const text = readFileSync(join(__dirname, '../../../examples/tide-gauge.plan.json'), 'utf8');
const SAMPLING: Setting = {
  drive: 'interrupt',
  timer: 'TMR1',
  mode: 'reload',
  prescaler: 1,
  top: 7999,
  divider: 1,
};

describe('a counter that its interrupt reloads', () => {
  const part = shipped('pic16f684');
  const path = clockPath(part, { source: 'crystal', sourceHz: 8_000_000 });
  const hz = (setting: Setting): string => outcomeUnder(part, path, setting).frequency.toFraction();

  it('takes 9 cycles of 500 ns more than its counts: 8000 of them are 2 MHz / 8009, 7991 are 250 Hz', () => {
    expect(hz(SAMPLING)).toBe('2000000/8009');
    expect(hz({ ...SAMPLING, top: 7990 })).toBe('250');
  });

  it('loses what its prescaler of 8 had counted when it is written, besides', () => {
    // 8 x 1000 + 9, and the cycles from the overflow to the write that do not make a count of 8.
    const latency = part.cpu.entryCycles + part.cpu.reloadCycles;
    expect(hz({ ...SAMPLING, prescaler: 8, top: 999 })).toBe(
      ratio(2_000_000, 8009 + (latency % 8)).toFraction(),
    );
  });
});

it('the demo Tide gauge samples at 250 Hz, and loses the second of two events in a masked section', () => {
  const read = readPlan(text, PARTS);
  if (!read.ok) throw new Error(read.fault.sentence);
  const { signals, interrupts, failures, passing, total } = evaluatePlan(read.value.plan, read.value.part);
  expect(signals.find(({ signal }) => signal.id === 'sampling')?.outcome?.frequencyExact).toBe('250');
  // Masked from 200 ms for 1000 cycles of 500 ns; events at 200.1 and 200.3 ms: one flag holds one of them.
  const contact = interrupts.rows.find(({ name }) => name === 'Float contact');
  expect([contact?.served, contact?.lost]).toEqual([3, 1]);
  expect([passing, total]).toEqual([5, 6]);
  expect(failures.map(({ name }) => name)).toEqual(['Float contact']);
});
