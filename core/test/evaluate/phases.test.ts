import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { LOCK_GATE } from '../helpers/plan.ts';

/** A tick of 8 kHz whose handler takes 95 cycles, and a pair of interrupts at 1 kHz, 10 % of the time high, whose timers are on one clock. */
const SIGNALS = [
  {
    id: 'beat',
    name: 'Beat',
    kind: 'tick',
    target: { frequencyHz: 8000 },
    setting: { drive: 'interrupt', timer: 'TIMER2', mode: 'ctc', prescaler: 8, top: 249, divider: 1 },
    handler: { cycles: 95 },
  },
  {
    id: 'lamp',
    name: 'Lamp',
    kind: 'blink',
    pin: 'PD4',
    target: { frequencyHz: 1000, duty: 0.1, dutyTolerance: 0.005 },
    setting: {
      drive: 'interrupt-pair',
      timer: 'TIMER1',
      mode: 'ctc-icr',
      channel: 'OC1B',
      pin: 'PD4',
      prescaler: 8,
      top: 1999,
      compare: 199,
    },
  },
] as PlanSignal[];

function duty(signals: PlanSignal[]) {
  const plan: Plan = { ...LOCK_GATE, signals };
  const lamp = evaluatePlan(plan, atmega328p).signals.find(({ signal }) => signal.id === 'lamp');
  return lamp?.outcome?.checks.find(({ property }) => property === 'duty');
}

/** The same tick from Timer 0, whose interrupt comes after those of Timer 1 where both wait. */
function withTimer0(): PlanSignal[] {
  return SIGNALS.map((signal) =>
    signal.id === 'beat'
      ? ({ ...signal, setting: { ...signal.setting, timer: 'TIMER0' } } as PlanSignal)
      : signal,
  );
}

describe('interrupts of several timers', () => {
  it('fail where a tick that begins with the pulse delays its rise: 7 + 95 + 4 cycles of 16 000 are 0.66 %', () => {
    const [, lamp] = SIGNALS;
    expect(duty(lamp ? [lamp] : [])).toMatchObject({ verdict: 'pass' });
    const judged = duty(SIGNALS);
    expect(judged?.verdict).toBe('fail');
    expect(judged?.value).toBeCloseTo(0.093, 3);
  });

  it('are judged at more phases than the one in which all begin together, where the pulse is served first', () => {
    const judged = duty(withTimer0());
    expect(judged?.verdict).toBe('fail');
    expect(judged?.note).toContain('at another phase between the timers and tasks');
  });

  it('fail where the main loop keeps interrupts out for 120 cycles each 7.3 ms: 0.75 % of a period, whenever that is', () => {
    const [, lamp] = SIGNALS;
    const cpu = { mainLoop: { masked: [{ name: 'Copy', everyS: 0.0073, cycles: 120 }] } };
    const plan: Plan = { ...LOCK_GATE, signals: lamp ? [lamp] : [], cpu };
    const checks = evaluatePlan(plan, atmega328p).signals[0]?.outcome?.checks;
    const judged = checks?.find(({ property }) => property === 'duty');
    expect(judged?.verdict).toBe('fail');
    // 1,600 cycles less the 120 but for the 4 or so that the section begins before the edge; the handler's own ways cost up to 7.
    expect((judged?.value ?? 0) * 16_000).toBeGreaterThanOrEqual(1600 - 120 - 7);
    expect((judged?.value ?? 0) * 16_000).toBeLessThanOrEqual(1600 - 120 + 5);
  });

  it('pass where every phase is within the tolerance', () => {
    const [beat, lamp] = withTimer0();
    const wide = { ...lamp, target: { frequencyHz: 1000, duty: 0.1, dutyTolerance: 0.02 } } as PlanSignal;
    expect(duty(beat ? [beat, wide] : [])).toMatchObject({ verdict: 'pass' });
  });
});
