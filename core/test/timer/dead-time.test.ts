import { PLAN_VERSION } from '../../src/plan/versions.ts';
import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import { cFiles } from '../../src/codegen/c-files.ts';
import { deadTicksFor } from '../../src/fit/complement.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { planWaveforms } from '../../src/evaluate/waveforms.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { timerOf } from '../../src/part/find.ts';
import { stm32f401 as part } from '../../src/part/parts/stm32/stm32f401.ts';
import { settingRegisters } from '../../src/timer/encode.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import { waveformEdgeList } from '../../src/wave/stream.ts';
import { resolveSetting } from '../../src/timer/drives/index.ts';
import { signalFit } from '../../src/evaluate/choose.ts';

const CLOCK: Plan['clock'] = {
  source: 'crystal',
  sourceHz: 8000000,
  tolerancePpm: 30,
  settings: { pllM: 8, pllN: 336, pllP: 4 },
};
const path = clockPath(part, CLOCK);

/** 84 MHz by 4200: 20 kHz, half of it high, the opposite on PB13. */
const HALF: OutputSetting = {
  drive: 'pwm',
  timer: 'TIM1',
  mode: 'up',
  channel: 'CH1',
  pin: 'PA8',
  prescaler: 1,
  top: 4199,
  compare: 2100,
  complement: { pin: 'PB13', deadTicks: 84 },
};

const MOTOR: PlanSignal = {
  id: 'pump',
  name: 'Bilge pump',
  kind: 'dim',
  pin: 'PA8',
  target: { minHz: 18000, minSteps: 1000, duty: 0.5, dutyTolerance: 0.01 },
  complement: { pin: 'PB13', deadS: 1e-6 },
};

function planOf(signal: PlanSignal): Plan {
  return {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Bilge',
    part: part.id,
    clock: CLOCK,
    signals: [signal],
  };
}

describe('an output with its opposite', () => {
  it('both are low for 84 clocks after each fall', () => {
    const [own, other] = planWaveforms(planOf({ ...MOTOR, setting: HALF }), part);
    expect([...waveformEdgeList(own!.waveform, 8400).edges]).toEqual([84, 2100, 4284, 6300]);
    expect([...waveformEdgeList(other!.waveform, 12600).edges]).toEqual([2184, 4200, 6384, 8400, 10584]);
  });

  it('the two are never high together, whatever the compare value, and add up to the period less two dead times', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 98 }), fc.integer({ min: 0, max: 60 }), (compare, deadTicks) => {
        const setting = { ...HALF, top: 99, compare, complement: { pin: 'PB13', deadTicks } };
        const waveforms = planWaveforms(planOf({ ...MOTOR, setting }), part).map(({ waveform }) => [
          ...waveformEdgeList(waveform, 1000).edges,
        ]);
        const levels = waveforms.map((edges) =>
          Array.from({ length: 1000 }, (_, tick) => edges.filter((edge) => edge <= tick).length % 2),
        );
        const [own = [], other = []] = levels;
        expect(own.some((level, tick) => level === 1 && other[tick] === 1)).toBe(false);
        const steady = (list: number[]): number =>
          list.slice(500, 600).reduce((sum, level) => sum + level, 0);
        expect(steady(own)).toBe(Math.max(0, compare - deadTicks));
        expect(steady(other)).toBe(Math.max(0, 100 - compare - deadTicks));
      }),
      { numRuns: 60 },
    );
  });

  // The field's upper bits choose the step: 0xx one clock, 10 two, 110 eight, 111 sixteen.
  it.each([
    [84, 84],
    [127, 127],
    [168, 0x94],
    [254, 0xbf],
    [424, 0xd5],
    [1008, 0xff],
  ])('%d clocks are written as %d', (deadTicks, code) => {
    const setting = { ...HALF, complement: { pin: 'PB13', deadTicks } };
    const own = settingRegisters(part, setting).find(({ name }) => name === 'TIM1_BDTR');
    expect(own?.fields.find(({ field }) => field === 'DTG')?.value).toBe(code);
  });

  it('the shortest dead time not below the wanted one; none beyond the longest', () => {
    const timer = timerOf(part, 'TIM1');
    const every = Array.from({ length: 4033 }, (_, ticks) => ticks).filter((ticks) =>
      timer.deadTime?.some((one) => ticks >= one.min && ticks <= one.max && ticks % one.step === 0),
    );
    for (let wanted = 0; wanted <= 4032; wanted += 1) {
      expect(deadTicksFor(timer.deadTime, wanted)).toBe(every.find((ticks) => ticks >= wanted));
    }
    expect(deadTicksFor(timer.deadTime, 4033)).toBeUndefined();
  });

  it('is found by the search, its high time kept in spite of the dead time', () => {
    const { candidates, refused } = signalFit(part, path, MOTOR);
    // 84 clocks are 1 us, and 30 ppm fast a little less.
    expect(candidates[0]?.setting).toMatchObject({
      timer: 'TIM1',
      complement: { pin: 'PB13', deadTicks: 85 },
    });
    expect(Math.abs(candidates[0]?.dutyError ?? 1)).toBeLessThan(0.001);
    expect(refused.find(({ timer }) => timer === 'TIM2')).toBeDefined();
    const far = signalFit(part, path, { ...MOTOR, complement: { pin: 'PB13', deadS: 50e-6 } });
    expect(far.candidates).toEqual([]);
    expect(far.refused.find(({ timer }) => timer === 'TIM1')?.reason).toContain('PB13');
  });

  it('is checked: the dead time held, or no opposite at all', () => {
    const checkOf = (signal: PlanSignal) =>
      evaluatePlan(planOf(signal), part).signals[0]?.outcome?.checks.find(
        ({ property }) => property === 'dead time',
      );
    const held = { ...HALF, complement: { pin: 'PB13', deadTicks: 85 } };
    expect(checkOf({ ...MOTOR, setting: held })).toMatchObject({ verdict: 'pass', low: 1e-6 });
    const { complement, ...alone } = HALF;
    expect(complement?.pin).toBe('PB13');
    expect(checkOf({ ...MOTOR, setting: alone })).toMatchObject({ verdict: 'fail' });
  });

  it('refuses a pin that carries no opposite, and a dead time between two steps', () => {
    const tried = (pin: string, deadTicks: number) => () =>
      resolveSetting(part, { ...HALF, complement: { pin, deadTicks } });
    expect(tried('PB0', 84)).toThrow('The opposite of TIM1 CH1 comes out on');
    expect(tried('PB13', 129)).toThrow('TIM1 cannot keep a dead time of 129 clocks.');
  });

  it('reaches the code: the opposite output on, the pin in its alternate function, the dead time', () => {
    const files = cFiles(part, path, 'Bilge', [{ name: 'Bilge pump', sentence: '', setting: HALF }]);
    const text = files.map(({ text: one }) => one).join('\n');
    // MOE is bit 15, and DTG the lowest eight. PB13 is bit 26 and 27 of the mode register, and 20 to 23 of the other.
    for (const line of [
      '#define TIM1_BDTR_MOE_BIT 0x8000u',
      '#define TIM1_BDTR_DTG_FIELD(n) (n)',
      'TIM1_BDTR = (TIM1_BDTR & ~TIM1_BDTR_DTG_FIELD(255u)) | TIM1_BDTR_MOE_BIT | TIM1_BDTR_DTG_FIELD(84u);',
      '#define GPIOB_AFRH_AFR13_FIELD(n) ((n) << 20)',
      'GPIOB_AFRH = (GPIOB_AFRH & ~GPIOB_AFRH_AFR13_FIELD(15u)) | GPIOB_AFRH_AFR13_FIELD(1u);',
      '#define GPIOB_MODER_MODER13_FIELD(n) ((n) << 26)',
      'GPIOB_MODER = (GPIOB_MODER & ~GPIOB_MODER_MODER13_FIELD(3u)) | GPIOB_MODER_MODER13_FIELD(2u);',
    ])
      expect(text).toContain(line);
    expect(text).toContain('its opposite on PB13');
  });
});
