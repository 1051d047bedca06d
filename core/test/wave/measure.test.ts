import { PLAN_VERSION } from '../../src/plan/versions.ts';
import { clockOf, clockPath } from '../../src/clock/path.ts';
import { fitRequirement } from '../../src/fit/fit.ts';
import { readPlan } from '../../src/plan/check-plan.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { writePlan } from '../../src/plan/write-plan.ts';
import { PARTS } from '../helpers/parts.ts';
import { capturePins } from '../../src/part/find.ts';
import type { Part } from '../../src/part/types.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import { interruptCycles } from '../../src/timer/run.ts';
import type { CaptureSetting } from '../../src/timer/setting.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluateSetting } from '../../src/evaluate/signal.ts';

function partOf(id: string): Part {
  const part = PARTS.find((one) => one.id === id);
  if (!part) throw new Error(id);
  return part;
}

const anemometer = (minHz: number, maxHz: number, resolution: number): PlanSignal => ({
  id: 'wind',
  name: 'Wind',
  kind: 'measure',
  target: { minHz, maxHz, resolution },
});

function planOf(part: Part, signal: PlanSignal): Plan {
  return {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Mast',
    part: part.id,
    clock: part.defaultClock,
    signals: [signal],
  };
}

const AVR: CaptureSetting = {
  drive: 'capture',
  timer: 'TIMER1',
  mode: 'normal',
  channel: 'ICP1',
  pin: 'PB0',
  prescaler: 256,
  top: 65535,
};

describe('an input of 1 to 200 Hz to 0.5 %, 16 MHz, 16 bits', () => {
  const part = partOf('atmega328p');
  const path = clockPath(part, { source: 'crystal', sourceHz: 16000000 });
  const signal = anemometer(1, 200, 0.005);
  const fit = fitRequirement(part, path, requirementOf(signal));

  it('needs a prescaler whose run lasts a second and whose count is fine at 200 Hz', () => {
    // 16 MHz / 256 = 62 500 counts a second: a run is 1.048576 s, and 200 Hz are 312.5 counts, so 312 at the least.
    // 64 runs through in 0.262 s; 1024 leaves 78 counts, 1.28 %.
    expect(fit.candidates.map(({ setting }) => setting)).toEqual([AVR]);
    const [only] = fit.candidates;
    expect(only).toMatchObject({ steps: 312, periodTicks: 256 * 65536 });
    expect(only?.cpu).toBeCloseTo((200 * interruptCycles(part.cpu)) / 16e6, 12);
    expect(fit.near.map(({ setting }) => (setting as CaptureSetting).prescaler)).toEqual([1, 8, 64, 1024]);
    expect(fit.refused.map(({ reason }) => reason)).toEqual([
      'Timer 0 has no capture input.',
      'Timer 2 has no capture input.',
    ]);
  });

  it('is judged by its slowest and by one count at its fastest, the oscillator on top', () => {
    const { checks, frequencyExact, steps } = evaluateSetting(part, path, signal, AVR);
    expect(frequencyExact).toBe('15625/16384');
    expect(steps).toBe(312);
    expect(checks.map(({ property, verdict }) => [property, verdict])).toEqual([
      ['range', 'pass'],
      ['resolution', 'pass'],
    ]);
    expect(checks[1]?.margin).toBeCloseTo(0.005 - 1 / 312 - 50e-6, 12);
    const coarse = evaluateSetting(part, path, signal, { ...AVR, prescaler: 64 });
    expect(coarse.checks[0]).toMatchObject({ verdict: 'fail' });
    expect(coarse.checks[0]?.note).toContain('wraps');
  });

  it('says why where nothing serves: both ends cannot be had at once', () => {
    const wide = fitRequirement(part, path, requirementOf(anemometer(0.5, 2000, 0.001)));
    expect(wide.candidates).toEqual([]);
    // Only 1024 reaches 0.5 Hz (4.19 s a run), and there 2 kHz are 7 counts.
    expect(wide.refused.find(({ timer }) => timer === 'TIMER1')?.reason).toBe(
      'Where it reaches the slowest, the fastest is 7 counts; 1 000 are asked for.'.replace(
        '1 000',
        '1\u202f000',
      ),
    );
    const pinned = fitRequirement(part, path, requirementOf(signal), 'PD4');
    expect(pinned.refused.find(({ timer }) => timer === 'TIMER1')?.reason).toContain('PB0');
  });

  it('writes code that takes the difference of two captures', () => {
    const [source, header] = planCode(planOf(part, { ...signal, setting: AVR }), part).files;
    expect(source?.text).toContain('ISR(TIMER1_CAPT_vect)');
    expect(source?.text).toContain('wind_counts = (uint16_t)(wind_now - wind_last);');
    expect(source?.text).toMatch(/TIMSK1 \|= \(1 << ICIE1\) \| \(1 << TOIE1\);/);
    expect(source?.text).toContain('TCCR1B = (1 << ICES1) | (1 << CS12);');
    expect(header?.text).toContain('extern volatile uint32_t wind_counts;');
  });

  it('lives in a plan file; a PWM setting does not fit with it', () => {
    const plan = planOf(part, { ...signal, setting: AVR });
    const read = readPlan(writePlan(plan), PARTS);
    expect(read.ok && read.value.plan.signals[0]?.setting).toEqual(AVR);
    const tone: PlanSignal = {
      id: 'wind',
      name: 'Wind',
      kind: 'tone',
      target: { frequencyHz: 440 },
      setting: AVR,
    };
    const wrong = readPlan(writePlan(planOf(part, tone)), PARTS);
    expect(wrong.ok).toBe(false);
    expect(!wrong.ok && wrong.fault.path).toBe('signals[0].setting.drive');
    const inverse = readPlan(writePlan(planOf(part, anemometer(5, 2, 0.01))), PARTS);
    expect(!inverse.ok && inverse.fault.path).toBe('signals[0].target.minHz');
  });
});

/** The best number of counts at the fastest over every division, by plain loops; captures of one timer are alike. */
function bruteSteps(part: Part, minHz: number, maxHz: number): number {
  const path = clockPath(part, part.defaultClock);
  let best = 0;
  for (const timer of part.timers) {
    for (const capture of (timer.captures ?? []).slice(0, 1)) {
      const mode = timer.modes.find((one) => one.id === capture.mode);
      if (!mode) throw new Error(capture.mode);
      const { top } = mode;
      const max = top.kind === 'fixed' ? top.value : top.kind === 'power' ? 2 ** top.maxBits - 1 : top.max;
      const hz = clockOf(path, timer.clock).valueOf();
      const { prescaler } = timer;
      const divisions =
        prescaler.kind === 'list'
          ? prescaler.options.map((one) => one.divide)
          : Array.from({ length: prescaler.max }, (_, at) => (at + prescaler.min) / prescaler.scale);
      for (const divide of divisions) {
        if ((max + mode.base) * divide < hz / minHz) continue;
        best = Math.max(best, Math.floor(hz / divide / maxHz));
      }
    }
  }
  return best;
}

describe('every part with captures', () => {
  const able = PARTS.filter((part) => capturePins(part).length > 0);

  it('is one of these', () => {
    expect(able.map((part) => part.id).sort()).toEqual(
      ['am3358', 'atmega2560', 'atmega328p', 'mk20dx256', 'pic16f684', 'pic18f4620', 'stm32f401'].sort(),
    );
  });

  it.each(able.map((part) => [part.id, part] as const))(
    '%s: the finest is what plain loops find',
    (_, part) => {
      const path = clockPath(part, part.defaultClock);
      for (const [minHz, maxHz] of [
        [5, 500],
        [61, 1000],
        [700, 5000],
      ] as const) {
        const { candidates } = fitRequirement(part, path, requirementOf(anemometer(minHz, maxHz, 1)));
        const max = Math.max(0, ...candidates.map((one) => one.steps));
        expect([minHz, max]).toEqual([minHz, bruteSteps(part, minHz, maxHz)]);
      }
    },
  );

  it.each(able.map((part) => [part.id, part] as const))('%s: its code stands on its own', (_, part) => {
    const path = clockPath(part, part.defaultClock);
    const signal = anemometer(100, 500, 0.05);
    const [first] = fitRequirement(part, path, requirementOf(signal)).candidates;
    const files = planCode(planOf(part, { ...signal, setting: first?.setting }), part).files;
    expect(files[0]?.text).toContain('wind_last = wind_now;');
  });
});
