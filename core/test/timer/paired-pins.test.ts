import { clockPath } from '../../src/clock/path.ts';
import { stepBudget } from '../../src/assign/step-budget.ts';
import { decodeText } from '../../src/decode/decode.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { planWaveforms } from '../../src/evaluate/waveforms.ts';
import { deadTicksFor } from '../../src/fit/complement.ts';
import { channelOf, deadBandsOf, timerOf } from '../../src/part/find.ts';
import { attiny85 as part } from '../../src/part/parts/avr/attiny85.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { assignPlan } from '../../src/resolve/assign-plan.ts';
import { settingRegisters } from '../../src/timer/encode.ts';
import type { OutputSetting, Setting } from '../../src/timer/setting.ts';
import { waveformEdgeList } from '../../src/wave/stream.ts';
import { planOn } from '../helpers/plan.ts';

/** 8 MHz by 256: 31.25 kHz on PB1, its opposite on PB0. One field, COM1A, decides of both pins. */
const PAIR: OutputSetting = {
  drive: 'pwm',
  timer: 'TIMER1',
  mode: 'pwm',
  channel: 'OC1A',
  pin: 'PB1',
  prescaler: 1,
  top: 255,
  compare: 152,
  complement: { pin: 'PB0', deadTicks: 24 },
};

const TARGET = { minHz: 20_000, minSteps: 200, duty: 0.5, dutyTolerance: 0.01 };

const WINCH: PlanSignal = {
  id: 'winch',
  name: 'Winch',
  kind: 'dim',
  pin: 'PB1',
  target: TARGET,
  complement: { pin: 'PB0', deadS: 3e-6 },
};

function registers(setting: Setting): Record<string, number> {
  return Object.fromEntries(settingRegisters(part, setting).map(({ name, value }) => [name, value]));
}

/** What an assignment text makes: pins, opposites and dead times, and what is refused. */
function told(text: string): { made: unknown[]; notes: string } {
  const found = decodeText(part, clockPath(part, part.defaultClock), text);
  if (!found.ok) throw new Error(found.fault.sentence);
  const timers = found.value.timers.filter(({ timer }) => timer === 'TIMER1');
  return {
    made: timers.flatMap(({ effects }) =>
      effects.map(({ setting }) => [setting.pin, 'complement' in setting ? setting.complement : undefined]),
    ),
    notes: timers.flatMap(({ notes }) => notes).join(' '),
  };
}

describe('two pins of an ATtiny85’s Timer 1 that one field drives', () => {
  const channel = channelOf(timerOf(part, 'TIMER1'), 'OC1A');
  const bands = deadBandsOf(timerOf(part, 'TIMER1'), channel);

  // Four bits of clocks divided by 1, 2, 4 or 8.
  it.each([
    [15, 15],
    [17, 18],
    [24, 24],
    [61, 64],
    [120, 120],
    [121, undefined],
  ])('a dead time of %d clocks becomes %s', (wanted, ticks) => {
    expect(deadTicksFor(bands, wanted)).toBe(ticks);
  });

  it('3 µs at 8 MHz are 12 clocks of the divided clock in both nibbles', () => {
    const { DTPS1, DT1A, TCCR1, DDRB } = registers(PAIR);
    // COM1A = 01, PWM1A, CS10.
    expect([DTPS1, DT1A, TCCR1, DDRB]).toEqual([1, 0xcc, 0x51, 0b11]);
    expect(registers({ ...PAIR, complement: undefined })['TCCR1']).toBe(0x61);
  });

  it('are low for 24 clocks after each fall of the other', () => {
    const plan: Plan = { ...planOn(part, { ...WINCH, setting: PAIR }), clock: part.defaultClock };
    const [own, other] = planWaveforms(plan, part).map(({ waveform }) => [
      ...waveformEdgeList(waveform, 600).edges,
    ]);
    // High for 152 of 256 counts, of which the first 24 are taken.
    expect(own?.slice(0, 4)).toEqual([24, 152, 280, 408]);
    expect(other?.slice(0, 4)).toEqual([176, 256, 432, 512]);
  });

  // 3 us of 8 MHz are 24 clocks; 10 % fast they take 26.7, and every second one can be had with this division.
  it('are found for a target with its opposite, and hold', () => {
    const { signals, conflicts } = evaluatePlan(planOn(part, WINCH), part);
    expect(signals[0]?.outcome?.setting).toMatchObject({ complement: { pin: 'PB0', deadTicks: 28 } });
    const verdicts = signals[0]?.outcome?.checks.map(({ property, verdict }) => [property, verdict]);
    expect(verdicts).toEqual(['frequency', 'duty', 'steps', 'dead time'].map((one) => [one, 'pass']));
    expect(conflicts).toEqual([]);
  });

  it('are read as what the pins that are outputs show', () => {
    const text = 'OCR1C = 255; OCR1A = 152; GTCCR = 0x40; TCCR1 = 0x51; DTPS1 = 1; DT1A = 0xCC;';
    expect(told(`${text} DDRB = 3;`).made).toEqual([['PB1', { pin: 'PB0', deadTicks: 24 }]]);
    expect(told(`${text} DDRB = 1;`).made).toEqual([['PB0', undefined]]);
    expect(told(`${text} DDRB = 3; DT1A = 0xC3;`)).toEqual({
      made: [],
      notes: expect.stringContaining('dead time of Timer 1') as string,
    });
    expect(told('OCR1C = 255; OCR1A = 152; GTCCR = 0x40; TCCR1 = 0x61; DDRB = 3;').made).toEqual([
      ['PB1', undefined],
    ]);
  });

  it('the opposite alone leaves the other pin to nobody else', () => {
    const alone: OutputSetting = { ...PAIR, pin: 'PB0', polarity: 'inverted', complement: undefined };
    const heater: PlanSignal = {
      id: 'heater',
      name: 'Heater',
      kind: 'dim',
      pin: 'PB0',
      target: TARGET,
      setting: alone,
    };
    const lamp: PlanSignal = {
      id: 'lamp',
      name: 'Lamp',
      kind: 'blink',
      pin: 'PB1',
      target: { frequencyHz: 2, frequencyTolerancePpm: 200_000 },
      setting: { drive: 'delay-loop', pin: 'PB1', top: 1_000_000, compare: 500_000 },
    };
    const plan: Plan = { ...planOn(part, heater), signals: [heater, lamp] };
    expect(evaluatePlan(plan, part).conflicts.map(({ of, title }) => [of, title])).toEqual([
      ['pin', 'Heater and Lamp are both on PB1.'],
    ]);
    const assigned = assignPlan(plan, part, stepBudget(400));
    if (!assigned.feasible) throw new Error('Timer 0 can make it on PB0');
    expect(assigned.settings[0]?.setting).toMatchObject({ timer: 'TIMER0' });
  });
});
