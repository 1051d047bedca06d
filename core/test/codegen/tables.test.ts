import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { planCode } from '../../src/evaluate/code.ts';
import type { PlanSignal } from '../../src/plan/plan.ts';
import { benchPlans } from '../helpers/bench-plans.ts';
import { planOn } from '../helpers/plan.ts';
import { shipped } from '../helpers/parts.ts';

const LAMP: PlanSignal = {
  id: 'lamp',
  name: 'Lamp',
  kind: 'blink',
  pin: 'PB1',
  target: { frequencyHz: 50, duty: 0.4, frequencyTolerancePpm: 1000 },
  sequence: { steps: [{ periods: 7 }, { periods: 3, duty: 0.1 }, { rest: true, periods: 5 }] },
};

describe('tables that never change', () => {
  const part = shipped('atmega328p');
  const plans = [planOn(part, LAMP), ...benchPlans(part).map(({ plan }) => plan)];
  let directory = '';
  beforeAll(() => {
    directory = mkdtempSync(join(tmpdir(), 'tables-'));
  });
  afterAll(() => rmSync(directory, { recursive: true, force: true }));

  it('take no RAM of an AVR: its section of initialised data is empty', () => {
    let tables = 0;
    for (const plan of plans) {
      const { files } = planCode(plan, part);
      for (const { name, text } of files) writeFileSync(join(directory, name), text);
      tables += files.filter(({ text }) => text.includes('PROGMEM')).length;
      const header = files.find(({ name }) => name.endsWith('.h'))?.name ?? '';
      const setters = files.flatMap(({ text }) =>
        [...text.matchAll(/^void (\w+_set_(?:knob|milli\w+|thousandths))\(/gm)].map(([, one]) => one),
      );
      // Functions of the header are kept by taking their addresses.
      writeFileSync(
        join(directory, 'use.c'),
        `#include "${header}"\n${setters.map((one, at) => `void *use_${at}(void); void *use_${at}(void) { return (void *)${one}; }`).join('\n')}\n`,
      );
      const sources = ['use.c', ...files.map(({ name }) => name).filter((name) => name.endsWith('.c'))];
      const run = { cwd: directory, stdio: ['ignore', 'pipe', 'pipe'] as ['ignore', 'pipe', 'pipe'] };
      execFileSync('avr-gcc', ['-mmcu=atmega328p', '-Os', '-std=c11', '-c', ...sources], run);
      for (const source of sources) {
        const sizes = execFileSync('avr-size', ['-A', source.replace(/c$/, 'o')], run).toString();
        const data = [...sizes.matchAll(/^\.(?:data|rodata)\S*\s+(\d+)/gm)].map(([, size]) => Number(size));
        expect([plan.name, source, data.reduce((sum, size) => sum + size, 0)]).toEqual([
          plan.name,
          source,
          0,
        ]);
      }
    }
    expect(tables).toBeGreaterThan(1);
  });
});
