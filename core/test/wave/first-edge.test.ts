import { clockPath } from '../../src/clock/path.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import type { PlanSignal } from '../../src/plan/plan.ts';
import { outcomeUnder } from '../../src/timer/drives/index.ts';
import type { Setting } from '../../src/timer/setting.ts';
import { waveformEdgeList } from '../../src/wave/stream.ts';
import { firstEdge, waveformOf } from '../../src/wave/waveform.ts';
import { shipped } from '../helpers/parts.ts';
import { LOCK_GATE } from '../helpers/plan.ts';

const part = shipped('atmega328p');
const path = clockPath(part, { source: 'crystal', sourceHz: 16_000_000 });

function edgesOf(setting: Setting, until: number): number[] {
  return [...waveformEdgeList(waveformOf(part, setting, outcomeUnder(part, path, setting)), until).edges];
}

/*
 * By hand, at 16 MHz. A run of 10 000 counts by 8 is 80 000 clocks, one of 200 counts by 8 is 1600. The program can change the pin
 * only once the first interrupt has come.
 */
describe('the first edge of what the program makes', () => {
  it('toggled by an interrupt: after the first run, then after each', () => {
    const setting: Setting = {
      drive: 'interrupt',
      timer: 'TIMER1',
      mode: 'ctc-icr',
      pin: 'PB0',
      prescaler: 8,
      top: 9999,
      divider: 1,
    };
    expect(edgesOf(setting, 300_000)).toEqual([80_000, 160_000, 240_000]);
  });

  it('set at the end of a run and cleared by a match: low for the first run', () => {
    const setting: Setting = {
      ...{ drive: 'interrupt-pair', timer: 'TIMER1', mode: 'ctc-icr', channel: 'OC1A', pin: 'PB0' },
      ...{ prescaler: 8, top: 9999, compare: 2500 },
    };
    const waveform = waveformOf(part, setting, outcomeUnder(part, path, setting));
    expect(firstEdge(waveform)).toBe(80_000);
    const [rise = 0, fall = 0, next = 0] = edgesOf(setting, 170_000);
    expect([rise, next]).toEqual([80_000, 160_000]);
    expect(Math.abs(fall - 80_000 - 20_000)).toBeLessThanOrEqual(8);
  });

  it('counted by a tick: the first tick sets it', () => {
    const setting: Setting = {
      ...{ drive: 'software-pwm', timer: 'TIMER2', mode: 'ctc', pin: 'PB0' },
      ...{ prescaler: 8, top: 199, divider: 10, compare: 3 },
    };
    expect(edgesOf(setting, 24_000)).toEqual([1600, 6400, 17_600, 22_400]);
  });

  it('is what the check compares', () => {
    const setting = {
      ...{ drive: 'interrupt-pair', timer: 'TIMER1', mode: 'ctc-icr', channel: 'OC1A', pin: 'PB0' },
      ...{ prescaler: 8, top: 9999, compare: 2500 },
    } as Setting;
    const signal: PlanSignal = {
      id: 'lamp',
      name: 'Lamp',
      kind: 'blink',
      target: { frequencyHz: 200, duty: 0.25 },
      firstEdgeS: 0.004,
      setting,
    };
    const checks = evaluatePlan({ ...LOCK_GATE, signals: [signal] }, part).signals[0]?.outcome?.checks;
    const first = checks?.find(({ property }) => property === 'first edge');
    expect(first).toMatchObject({ verdict: 'fail', value: 0.005 });
  });
});
