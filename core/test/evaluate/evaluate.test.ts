import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { clockPath, clockPhrase } from '../../src/clock/path.ts';
import { stepTarget } from '../../src/fit/step.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { readPlan } from '../../src/plan/check-plan.ts';
import { editSignal } from '../../src/evaluate/edit-signal.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { renewedSetting } from '../../src/evaluate/choose.ts';
import { PARTS } from '../helpers/parts.ts';
import { atmega328p as part } from '../../src/part/parts/avr/atmega328p.ts';
import { exact } from '../../src/quantity/exact.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import { adjust, isOutput } from '../../src/timer/drives/index.ts';
import { evaluateSetting } from '../../src/evaluate/signal.ts';
import { signalSurroundings } from '../../src/evaluate/surroundings.ts';

function outputOf(signal: PlanSignal): OutputSetting {
  if (!signal.setting || !isOutput(signal.setting)) throw new Error(`${signal.id} has no output`);
  return signal.setting;
}

function demo(): Plan {
  const read = readPlan(
    readFileSync(join(__dirname, '../../../examples/greenhouse.plan.json'), 'utf8'),
    PARTS,
  );
  if (!read.ok) throw new Error(read.fault.sentence);
  return read.value.plan;
}

/** The setting that a changed signal gets, and what comes of it. */
function renewed(plan: Plan, signal: PlanSignal) {
  const setting = renewedSetting(plan, part, signal);
  const path = clockPath(part, plan.clock);
  return { setting, outcome: setting && evaluateSetting(part, path, signal, setting) };
}

function signalOf(plan: Plan, id: string): PlanSignal {
  const found = plan.signals.find((signal) => signal.id === id);
  if (!found) throw new Error(`no ${id}`);
  return found;
}

function put(plan: Plan, signal: PlanSignal): Plan {
  return { ...plan, signals: plan.signals.map((one) => (one.id === signal.id ? signal : one)) };
}

describe('the demo plan', () => {
  it('holds in all its checks and has no conflict', () => {
    const { signals, conflicts } = evaluatePlan(demo(), part);
    expect(signals.flatMap((row) => row.outcome?.checks.map((check) => check.verdict))).toEqual(
      Array(9).fill('pass'),
    );
    expect(conflicts).toEqual([]);
  });

  it('tells of a conflict once for each pair, with the register', () => {
    const plan = demo();
    const pump = signalOf(plan, 'mist-pump');
    const conflicting = put(plan, { ...pump, setting: { ...outputOf(pump), prescaler: 256, top: 62499 } });
    const { conflicts } = evaluatePlan(conflicting, part);
    expect(conflicts).toHaveLength(1);
    expect(conflicts[0]?.signals).toEqual(['status-led', 'mist-pump']);
    expect(conflicts[0]?.title).toBe('Mist pump cannot share Timer 1 with Status LED.');
  });
});

describe('the ladder', () => {
  it('goes from the oscillator to the pin with every number put in', () => {
    const plan = demo();
    const signal = signalOf(plan, 'status-led');
    const path = clockPath(part, { source: 'rc8', sourceHz: 8000000, settings: { io: 8 } });
    const { ladder, frequencyExact } = evaluateSetting(part, path, signal, {
      ...outputOf(signal),
      prescaler: 64,
      top: 15624,
      compare: 1561,
    });
    expect(ladder.map(({ id, hzExact }) => [id, hzExact])).toEqual([
      ['source', '8000000'],
      ['path', '1000000'],
      ['prescaler', '15625'],
      ['top', '1'],
      ['compare', '1'],
    ]);
    expect(ladder[3]?.register).toEqual({ name: 'ICR1', value: 15624, width: 16 });
    expect(frequencyExact).toBe('1');
    expect(clockPhrase(path, 'io')).toBe('8 MHz internal RC oscillator ±10 % ÷ 8 = 1 MHz');
  });

  it('warns that the internal oscillator cannot hold 0.2 %, however exact the divider', () => {
    const signal = signalOf(demo(), 'status-led');
    const path = clockPath(part, { source: 'rc8', sourceHz: 8000000 });
    const outcome = evaluateSetting(part, path, signal, { ...outputOf(signal), top: 15624, compare: 1561 });
    expect(outcome.errorPpm).toBe(0);
    expect(outcome.checks[0]).toMatchObject({ property: 'frequency', verdict: 'fail' });
    expect(outcome.slips[0]).toMatchObject({ id: 'oscillator', warns: true });
  });
});

describe('a changed target', () => {
  it('keeps its channel: A5 for 2300 Hz stays on OC2B with another top', () => {
    const plan = demo();
    const signal = {
      ...signalOf(plan, 'frost-alarm'),
      target: { note: 'A5', toleranceCents: 5 },
    } as PlanSignal;
    const { setting, outcome } = renewed(put(plan, signal), signal);
    expect(setting).toMatchObject({ timer: 'TIMER2', channel: 'OC2B', top: 141 });
    expect(outcome?.frequencyExact).toBe('62500/71');
  });

  it('leaves the registers of the other signals alone', () => {
    const plan = demo();
    const pump = signalOf(plan, 'mist-pump');
    const signal = { ...pump, target: { frequencyHz: 0.5, duty: 0.25 } } as PlanSignal;
    const view = renewed(put(plan, signal), signal);
    expect(view.setting).toMatchObject({ mode: 'fast-icr', prescaler: 1024, top: 31249 });
    expect(evaluatePlan(put(plan, { ...signal, setting: view.setting! }), part).conflicts).toEqual([]);
  });

  it('keeps the old setting and shows its misses where nothing meets the target', () => {
    const plan = demo();
    const signal = { ...signalOf(plan, 'frost-alarm'), target: { frequencyHz: 30e6 } } as PlanSignal;
    const view = renewed(put(plan, signal), signal);
    expect(view.setting).toEqual(signal.setting);
    expect(view.outcome?.checks[0]?.verdict).toBe('fail');
    const around = signalSurroundings(put(plan, signal), part, signal);
    expect(around.met).toBe(false);
    expect(around.refused.map(({ reason }) => reason)[0]).toMatch(
      /30 MHz is too fast: the fastest here is 8 MHz/,
    );
  });
});

describe('the landscape', () => {
  it('keeps the front, the best of each timer and the tolerance', () => {
    const plan = demo();
    const signal = {
      ...signalOf(plan, 'frost-alarm'),
      target: { frequencyHz: 1000, toleranceCents: 5 },
    } as PlanSignal;
    const { landscape } = signalSurroundings(plan, part, signal);
    expect(landscape.limit).toBeCloseTo(2892.3, 1);
    expect(landscape.points.length).toBeLessThan(1500);
    for (const timer of ['TIMER0', 'TIMER1', 'TIMER2']) {
      expect(landscape.points.some((point) => point.timer === timer && point.height === 0)).toBe(true);
    }
    const front = landscape.points.filter((point) => point.front);
    expect(front).toContainEqual(expect.objectContaining({ steps: 16000, errorPpm: 0 }));
  });
});

describe('stepping through what the hardware can make', () => {
  const plan = demo();
  const led = signalOf(plan, 'status-led');
  const step = (token: 'frequency' | 'duty', by: number) =>
    stepTarget(part, led, requirementOf(led), led.setting!, exact(16e6), token, by);

  it('moves the frequency by counts of the top, the target staying exact', () => {
    expect(step('frequency', 1)).toMatchObject({
      setting: { top: 31248 },
      signal: { target: { frequencyHz: '15625/31249' } },
    });
    const ten = step('frequency', -10);
    expect(ten?.setting.top).toBe(31259);
    const again = put(plan, { ...ten!.signal, setting: ten!.setting });
    expect(evaluatePlan(again, part).signals[1]?.outcome?.errorPpm).toBe(0);
  });

  it('moves the duty by counts of the compare value', () => {
    expect(step('duty', 1)).toMatchObject({
      setting: { compare: 3125 },
      signal: { target: { duty: 0.100032 } },
    });
  });

  it('stops at fixed tops and at the duty of a toggled output', () => {
    const lamp = signalOf(plan, 'grow-light');
    expect(
      stepTarget(part, lamp, requirementOf(lamp), lamp.setting!, exact(16e6), 'frequency', 1),
    ).toBeUndefined();
    const toggled = { ...outputOf(led), drive: 'toggle', mode: 'ctc', compare: 31249 } as const;
    expect(stepTarget(part, led, requirementOf(led), toggled, exact(16e6), 'duty', 1)).toBeUndefined();
  });

  it('keeps the duty when the top is changed by hand', () => {
    const changed = adjust(part, led.setting!, requirementOf(led).duty.ideal.valueOf(), 'top', 999);
    expect(changed).toMatchObject({ top: 999, compare: 99 });
  });
});

describe('the demo of the harbour buoy', () => {
  const read = readPlan(
    readFileSync(join(__dirname, '../../../examples/harbour-buoy.plan.json'), 'utf8'),
    PARTS,
  );
  if (!read.ok) throw new Error(read.fault.sentence);
  const { signals, conflicts } = evaluatePlan(read.value.plan, read.value.part);

  it('holds in every check taken by itself; two pairs are in conflict, so that it has four timers', () => {
    expect(conflicts).toHaveLength(2);
    expect(
      signals.flatMap(({ outcome }) => outcome?.checks ?? []).filter(({ verdict }) => verdict !== 'pass'),
    ).toEqual([]);
    expect(
      new Set(signals.map(({ outcome }) => outcome && 'timer' in outcome.setting && outcome.setting.timer))
        .size,
    ).toBe(4);
  });

  it('has the numbers that pencil and paper give: 84 MHz / 5250 / 64000 is a quarter of a hertz', () => {
    const exactly = signals.map(({ outcome }) => outcome?.frequencyExact);
    // 84 MHz / 2 / 36522; 84 MHz / 4 / 21000; / 84 / 20000; / 2^32; / 14 / 60000.
    expect(exactly).toEqual(['1/4', '7000000/6087', '1000', '50', '328125/16777216', '100']);
  });
});

describe('a plan with conflicts', () => {
  function buoy() {
    const text = readFileSync(join(__dirname, '../../../examples/harbour-buoy.plan.json'), 'utf8');
    const read = readPlan(text, PARTS);
    if (!read.ok) throw new Error(read.fault.sentence);
    return read.value;
  }

  it('counts no check of a signal in a conflict as passing', () => {
    const { plan, part: own } = buoy();
    const evaluated = evaluatePlan(plan, own);
    // Four of the six signals are in one of two conflicts; the other two have 7 and 2 checks.
    const free = evaluated.signals.filter(({ conflicts }) => conflicts.length === 0);
    expect(free.map(({ signal }) => signal.id)).toEqual(['fog-signal', 'housekeeping']);
    expect([evaluated.passing, evaluated.total]).toEqual([9, 31]);
    expect(evaluated.signals.map(({ verdict }) => verdict)).toEqual([
      'fail',
      'pass',
      'fail',
      'fail',
      'fail',
      'pass',
    ]);
  });

  it('lists what fails by the id and the name of each signal', () => {
    const { plan, part: own } = buoy();
    const { failures } = evaluatePlan(plan, own);
    expect(failures.map(({ signal, name }) => [signal, name])).toEqual([
      ['lantern', 'Lantern'],
      ['chart-lamp', 'Chart lamp'],
      ['shutter', 'Lens shutter'],
      ['anemometer', 'Anemometer'],
    ]);
    for (const { signal, text } of failures) {
      expect(plan.signals.some(({ id }) => id === signal)).toBe(true);
      expect(text).toMatch(/TIM\d/);
    }
  });
});

it('places two signals without settings where neither is in the way of the other', () => {
  const plan: Plan = {
    ...demo(),
    signals: [
      { id: 'one', name: 'One', kind: 'blink', target: { frequencyHz: 1 } },
      { id: 'two', name: 'Two', kind: 'blink', target: { frequencyHz: 1, duty: 0.25 } },
    ] as PlanSignal[],
  };
  const { signals, conflicts } = evaluatePlan(plan, part);
  expect(conflicts).toEqual([]);
  expect(signals.map(({ proposed, verdict }) => [proposed, verdict])).toEqual([
    [true, 'pass'],
    [true, 'pass'],
  ]);
});

describe('an edit of one signal', () => {
  it('shows a signal as it is, and with the proposed setting where it has none', () => {
    const plan = demo();
    const alarm = signalOf(plan, 'frost-alarm');
    expect(editSignal(plan, part, alarm.id, { do: 'show' })).toMatchObject({
      signal: alarm,
      outcome: { setting: alarm.setting },
    });
    const bare = { ...alarm };
    delete bare.setting;
    const shown = editSignal(put(plan, bare), part, alarm.id, { do: 'show' });
    expect(shown?.signal.setting).toBeUndefined();
    expect(shown?.outcome).toBeDefined();
  });

  it('retargets, adjusts and steps with the numbers of the hardware', () => {
    const plan = demo();
    const alarm = signalOf(plan, 'frost-alarm');
    // 16 MHz / 128 / 142 = 880.28 Hz is nearest to A5 on Timer 2.
    const a5 = { ...alarm, target: { note: 'A5', toleranceCents: 5 } } as PlanSignal;
    expect(editSignal(plan, part, alarm.id, { do: 'retarget', signal: a5 })).toMatchObject({
      signal: { setting: { prescaler: 128, top: 141 } },
      outcome: { frequencyExact: '62500/71' },
    });
    // 16 MHz / 32 / 128 = 3906.25 Hz.
    expect(editSignal(plan, part, alarm.id, { do: 'adjust', field: 'top', value: 127 })).toMatchObject({
      outcome: { frequencyExact: '15625/4' },
    });
    // One count less: 16 MHz / 32 / 216, which the target then names exactly.
    expect(editSignal(plan, part, alarm.id, { do: 'step', token: 'frequency', by: 1 })).toMatchObject({
      signal: { setting: { top: 215 } },
      outcome: { errorPpm: 0 },
    });
  });

  it('gives nothing for a signal that is not there', () => {
    expect(editSignal(demo(), part, 'nobody', { do: 'show' })).toBeUndefined();
  });
});
