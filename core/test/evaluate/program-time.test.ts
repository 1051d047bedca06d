import { clockPath } from '../../src/clock/path.ts';
import { signalFit } from '../../src/evaluate/choose.ts';
import { checksAlone } from '../../src/evaluate/signal-checks.ts';
import type { PlanSignal } from '../../src/plan/plan.ts';
import { requestOf } from '../../src/resolve/assign-plan.ts';
import { optionsOf } from '../../src/assign/request.ts';
import { outcomeUnder } from '../../src/timer/drives/index.ts';
import { PARTS, shipped as part } from '../helpers/parts.ts';
import { hasTimer } from '../../src/timer/setting.ts';

/** 800 kHz: 1.25 µs a bit, 0.4 µs for a zero, 0.8 µs for a one. */
const STRING: PlanSignal = {
  id: 'string',
  name: 'String',
  kind: 'string',
  target: { bitS: 1.25e-6, zeroS: 0.4e-6, oneS: 0.8e-6, leds: 60 },
};

describe('an LED string', () => {
  // A bit may be as long as 1.4 µs. 20 MHz / 4 are 5 instructions a µs: 7 for such a bit; 8 MHz: 11.
  it.each([
    ['pic16f684', { source: 'crystal', sourceHz: 20e6 }, 7, 12],
    ['atmega328p', { source: 'crystal', sourceHz: 8e6 }, 11, 14],
  ])('cannot be fed by %s with %o: %d cycles for a bit of %d', (id, clock, has, needs) => {
    const own = part(id);
    const path = clockPath(own, clock);
    const fit = signalFit(own, path, STRING);
    expect(fit.candidates.filter(({ setting }) => hasTimer(setting))).toEqual([]);
    expect(fit.refused[0]?.reason).toBe(
      `The program has ${has} cycles for each bit and needs ${needs} to hand it to a timer.`,
    );
    expect(optionsOf(own, path, requestOf(own, path, STRING), new Set())).toEqual([]);
  });

  it('can be fed with 20 cycles a bit', () => {
    const own = part('atmega328p');
    const path = clockPath(own, { source: 'crystal', sourceHz: 16e6 });
    const first = signalFit(own, path, STRING).candidates.find(({ setting }) => hasTimer(setting));
    if (!first) throw new Error('no setting');
    const checks = checksAlone(own, path, STRING, first.setting);
    expect(checks.find(({ property }) => property === 'feeding')).toMatchObject({
      value: 20,
      low: 14,
      verdict: 'pass',
    });
  });
});

describe('a delay loop', () => {
  const blink: PlanSignal = { id: 'b', name: 'B', kind: 'blink', target: { frequencyHz: 1000 } };

  it.each(PARTS.map(({ id, cpu }) => [id, cpu.loopJitterCycles] as const))(
    'is offered on %s with its jitter (%s cycles), or not at all',
    (id, jitter) => {
      const own = part(id);
      const path = clockPath(own, own.defaultClock);
      const fit = signalFit(own, path, blink);
      const loops = [...fit.candidates, ...fit.near].filter(({ setting }) => setting.drive === 'delay-loop');
      expect(loops.length > 0).toBe(jitter !== 'none');
      for (const { setting, jitterS } of loops) {
        expect(jitterS).toBe(outcomeUnder(own, path, setting).jitterS);
        expect(jitterS > 0).toBe(jitter !== 0);
      }
    },
  );

  it('that a plan has where loops take no fixed time opens and fails', () => {
    const own = part('am3358');
    const checks = checksAlone(own, clockPath(own, own.defaultClock), blink, {
      drive: 'delay-loop',
      pin: own.pins[0]?.id ?? '',
      top: 1000,
      compare: 500,
    });
    expect(checks.find(({ property }) => property === 'jitter')).toMatchObject({ verdict: 'fail' });
  });
});
