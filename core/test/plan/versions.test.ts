import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Check } from '../../src/check/check.ts';
import { clockPath } from '../../src/clock/path.ts';
import { PART_VERSION } from '../../src/part/versions.ts';
import { readPart } from '../../src/timer/part-file.ts';
import { evaluateSetting } from '../../src/evaluate/signal.ts';
import { PARTS } from '../helpers/parts.ts';
import { checkPlan, readPlan } from '../../src/plan/check-plan.ts';
import { writePlan } from '../../src/plan/write-plan.ts';
import { PLAN_VERSION, upgradePlan } from '../../src/plan/versions.ts';

const FIXTURES = join(__dirname, '../fixtures');

/** What the program that wrote the version 1 plans computed for their settings. */
type Expected = Record<string, { id: string; frequency: string; duty: string; checks: string[] }[]>;

const expected = JSON.parse(readFileSync(join(FIXTURES, 'plan-v1/expected.json'), 'utf8')) as Expected;
const plans = readdirSync(join(FIXTURES, 'plan-v1')).filter((name) => name.endsWith('.plan.json'));

describe('plan files of version 1', () => {
  it('are all here: the two demos and 20 generated ones', () => {
    expect(plans).toHaveLength(22);
    expect(Object.keys(expected)).toHaveLength(20);
  });

  it.each(plans)('%s opens, gives the same numbers and verdicts, and is saved as version 2', (name) => {
    const read = readPlan(readFileSync(join(FIXTURES, 'plan-v1', name), 'utf8'), PARTS);
    if (!read.ok) throw new Error(read.fault.sentence);
    const { plan, part } = read.value;
    expect(plan.version).toBe(PLAN_VERSION);
    const path = clockPath(part, plan.clock);
    for (const { id, frequency, duty, checks } of expected[name.replace('.plan.json', '')] ?? []) {
      const signal = plan.signals.find((one) => one.id === id);
      if (!signal?.setting) throw new Error(`${id} has lost its setting`);
      const outcome = evaluateSetting(part, path, signal, signal.setting);
      expect([id, outcome.frequencyExact, outcome.dutyExact]).toEqual([id, frequency, duty]);
      // Rules that came after version 1: an LED string has to be fed, a delay loop takes no fixed time behind caches, a rhythm is checked, and a whole span.
      const since = ({ property, label, note, verdict }: Check): boolean =>
        property === 'feeding' ||
        ['least width', 'greatest width', 'worst place'].includes(label ?? '') ||
        (property === 'sequence' && verdict === 'pass') ||
        (property === 'jitter' && note?.startsWith('A delay loop') === true);
      const told = outcome.checks.filter((check) => !since(check));
      // So did the rule that a channel is not its own opposite, which version 1 let pass.
      const verdictThen = ({ note, verdict }: Check): string =>
        note?.includes('go the same way') === true ? 'pass' : verdict;
      expect(told.map((check) => `${check.property} ${verdictThen(check)}`)).toEqual(checks);
    }
    const again = readPlan(writePlan(plan), PARTS);
    expect(again).toMatchObject({ ok: true, value: { plan } });
  });

  it('give drives, sequences and locks their new names, and leave all else alone', () => {
    const old = {
      format: 'herzschlag-plan',
      version: 1,
      signals: [
        { stays: true, score: { steps: [] }, setting: { drive: 'busy', top: 3 } },
        { setting: { drive: 'toggle', polarity: 'inverted', postscale: 2 } },
        { setting: { drive: 'toString' } },
      ],
    };
    expect(upgradePlan(old)).toEqual({
      format: 'herzschlag-plan',
      version: PLAN_VERSION,
      signals: [
        { locked: true, sequence: { steps: [] }, setting: { drive: 'delay-loop', top: 3 } },
        { setting: { drive: 'toggle', polarity: 'inverted', postscale: 2 } },
        { setting: { drive: 'toString' } },
      ],
    });
  });
});

it.each(['part-v1', 'part-v2'])('reads the part file of %s as the one of today', (folder) => {
  const today = readPart(readFileSync(join(__dirname, '../../../examples/quill8.part.json'), 'utf8'));
  const read = readPart(readFileSync(join(FIXTURES, folder, 'quill8.part.json'), 'utf8'));
  expect(read).toMatchObject({ ok: true, value: { id: 'quill8', version: PART_VERSION } });
  expect(read).toEqual(today);
});

it('gives a plan without a clock the one its part starts with', () => {
  const read = checkPlan(
    { format: 'herzschlag-plan', version: PLAN_VERSION, name: 'Bare', part: 'rp2040', signals: [] },
    PARTS,
  );
  const part = PARTS.find(({ id }) => id === 'rp2040');
  expect(read).toMatchObject({ ok: true, value: { plan: { clock: part?.defaultClock } } });
});
