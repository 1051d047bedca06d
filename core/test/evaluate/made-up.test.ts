import { PLAN_VERSION } from '../../src/plan/versions.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { bestSetting, signalFit } from '../../src/evaluate/choose.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { clockPath } from '../../src/clock/path.ts';
import { atmega328p as part } from '../../src/part/parts/avr/atmega328p.ts';
import { checkPlan } from '../../src/plan/check-plan.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { exact } from '../../src/quantity/exact.ts';
import { bandPpm } from '../../src/signal/band.ts';
import { editToken } from '../../src/signal/edit.ts';
import { registerKind, type Kind } from '../../src/signal/kinds/index.ts';
import { sentenceText } from '../../src/signal/sentence.ts';
import { driveById, driveOf, registerDrive, type Drive } from '../../src/timer/drives/index.ts';
import type { InterruptSetting } from '../../src/timer/setting.ts';

type FlickerTarget = { frequencyHz: number };

/** A made-up kind: high for half of each period, within 500 ppm. */
const flicker: Kind<FlickerTarget> = {
  id: 'flicker',
  verb: 'flickers',
  high: 'on',
  name: 'Flicker',
  starter: { text: 'a lamp that flickers', target: { frequencyHz: 5 } },
  shape: { frequencyHz: { type: 'amount', above: 0, max: 1e9, required: true } },
  on: 'output',
  requirement: ({ frequencyHz }) => {
    const half = exact('1/2');
    return {
      frequency: { kind: 'near', ...bandPpm(exact(frequencyHz), 500) },
      duty: { ideal: half, low: half, high: half },
      minSteps: 1,
      pin: true,
    };
  },
  sentence: ({ frequencyHz }) => [
    { text: ' flickers at ' },
    {
      token: 'rate',
      text: `${frequencyHz} Hz`,
      also: '',
      dimension: 'frequency',
      label: 'rate',
      stepped: 'frequency',
    },
    { text: '.' },
  ],
  tokens: { rate: { dimension: 'frequency', label: 'rate', field: 'frequencyHz', plain: true } },
  withFrequency: (_, frequency) => ({ frequencyHz: frequency.valueOf() }),
  withDuty: () => undefined,
  relaxations: () => [],
  wish: { rank: 99 },
};

const interrupt = driveById('interrupt') as unknown as Drive<InterruptSetting>;

/** The plain interrupt setting that does the same: its handler waits for twice as many interrupts. */
const plain = (setting: InterruptSetting): InterruptSetting => ({
  ...setting,
  drive: 'interrupt',
  divider: 2 * setting.divider,
});

/** A made-up drive: the handler toggles the pin at every second count of its divider. */
const everySecond: Drive<InterruptSetting> = {
  ...interrupt,
  id: 'every-second',
  name: 'toggled at every second count',
  short: 'second',
  check: (own, setting) => interrupt.check(own, plain(setting)),
  outcome: (own, setting, clockHz, cpuHz) => interrupt.outcome(own, plain(setting), clockHz, cpuHz),
  clockNode: (own, setting) => interrupt.clockNode(own, plain(setting)),
  countTicks: (own, setting) => interrupt.countTicks(own, plain(setting)),
  numbers: (own, setting) => interrupt.numbers(own, plain(setting)),
  writes: (own, setting) => interrupt.writes(own, plain(setting)),
  pinWrites: (own, setting) => interrupt.pinWrites(own, plain(setting)),
  ladder: (own, path, setting) => interrupt.ladder(own, path, plain(setting)),
  handlers: (own, setting) => interrupt.handlers(own, plain(setting)),
  movable: (own, setting) => interrupt.movable(own, plain(setting)),
  means: () => 'every second',
  numbersText: (setting) => interrupt.numbersText(plain(setting)),
  method: (own, setting) => interrupt.method(own, plain(setting)),
  place: (own, setting) => `${interrupt.place(own, plain(setting))}, every second`,
  propose: (proposal) =>
    (interrupt.propose?.({ ...proposal, wantedHz: 2 * proposal.wantedHz }) ?? []).map(
      (setting) => ({ ...setting, drive: 'every-second' }) as unknown as InterruptSetting,
    ),
};

const CLOCK = { source: 'crystal', sourceHz: 16000000, tolerancePpm: 50 };

function planOf(signal: object): Plan {
  return {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Made up',
    part: 'atmega328p',
    clock: CLOCK,
    signals: [signal as PlanSignal],
  };
}

describe('a kind and a drive that are registered', () => {
  let takeAway: (() => void)[];
  beforeEach(() => {
    takeAway = [registerKind(flicker), registerDrive(everySecond)];
  });
  afterEach(() => takeAway.forEach((undo) => undo()));

  // PC3 is on no timer's output, so that only the program can serve it.
  const signal = { id: 'eye', name: 'Eye', kind: 'flicker', pin: 'PC3', target: { frequencyHz: 5 } };

  it('work through sentence and edit', () => {
    expect(sentenceText(signal as unknown as PlanSignal)).toBe('Eye on PC3 flickers at 5 Hz.');
    const edited = editToken(signal as unknown as PlanSignal, 'rate', '100 ms', {});
    expect(edited).toMatchObject({ ok: true, value: { target: { frequencyHz: 10 } } });
  });

  it('work through fit, evaluate and code', () => {
    const plan = planOf(signal);
    const fit = signalFit(part, clockPath(part, CLOCK), plan.signals[0] as PlanSignal, 'all', new Set());
    const own = fit.candidates.find(({ setting }) => (setting.drive as string) === 'every-second');
    expect(own?.errorPpm).toBe(0);
    const setting = own?.setting as unknown as InterruptSetting;
    // A toggle at every second count of the divider: 10 changes a second for 5 Hz.
    const chosen = planOf({ ...signal, setting });
    const [evaluated] = evaluatePlan(chosen, part).signals;
    expect(evaluated).toMatchObject({
      verdict: 'pass',
      outcome: { frequencyExact: '5', dutyExact: '1/2', place: { means: 'every second', pin: 'PC3' } },
    });
    const text = planCode(chosen, part)
      .files.map((file) => file.text)
      .join('\n');
    expect(text).toContain('Eye on PC3 flickers at 5 Hz');
    expect(text).toMatch(new RegExp(`\\b${2 * setting.divider}U?\\b`));
    expect(bestSetting(plan, part, plan.signals[0] as PlanSignal, 'cpu')).toBeDefined();
    expect(driveOf(setting).name).toBe('toggled at every second count');
  });

  it('are read from a plan file, and refused once they are gone', () => {
    const stored = planOf(signal);
    expect(checkPlan(stored, [part])).toMatchObject({ ok: true });
    takeAway.splice(0).forEach((undo) => undo());
    expect(checkPlan(stored, [part])).toMatchObject({ ok: false, fault: { path: 'signals[0].kind' } });
  });
});
