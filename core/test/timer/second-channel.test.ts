import fc from 'fast-check';
import { planWaveforms } from '../../src/evaluate/waveforms.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { signalFit } from '../../src/evaluate/choose.ts';
import { clockPath } from '../../src/clock/path.ts';
import { divisionOf } from '../../src/part/division.ts';
import type { Channel, Mode, Part, Timer } from '../../src/part/types.ts';
import type { Knob } from '../../src/knob/knob.ts';
import type { PlanSignal } from '../../src/plan/plan.ts';
import { assignPlan } from '../../src/resolve/assign-plan.ts';
import { withSettings } from '../../src/plan/edit.ts';
import { resolveSetting } from '../../src/timer/drives/index.ts';
import { topRange, type OutputSetting } from '../../src/timer/setting.ts';
import { waveformEdgeList } from '../../src/wave/stream.ts';
import { PARTS, shipped } from '../helpers/parts.ts';
import { planOn } from '../helpers/plan.ts';

type Pair = { part: Part; timer: Timer; mode: Mode; first: Channel; second: Channel };

/** Every pair of channels of every timer with PWM in the same mode, both edges of whose pulses move. */
const PAIRS: Pair[] = PARTS.flatMap((part) =>
  part.timers.flatMap((timer) =>
    timer.modes
      .filter(({ count, pwm }) => count === 'updown' && (pwm?.channels.length ?? 0) > 1)
      .flatMap((mode) =>
        timer.channels.flatMap((first) =>
          timer.channels
            .filter(
              (second) =>
                second !== first && [first, second].every(({ id }) => mode.pwm?.channels.includes(id)),
            )
            .map((second) => ({ part, timer, mode, first, second })),
        ),
      ),
  ),
);

const bridge = (more: Partial<PlanSignal> = {}): PlanSignal =>
  ({
    ...{ id: 'bridge', name: 'Bridge', kind: 'pwm', target: { frequencyHz: 20_000, duty: 0.45 } },
    ...more,
  }) as PlanSignal;

describe('an opposite by a second channel', () => {
  it('is there on the parts that have such counters', () => {
    const parts = new Set(PAIRS.map(({ part }) => part.id));
    expect([...parts].sort()).toEqual([
      ...['am3358', 'atmega2560', 'atmega328p', 'attiny85', 'mk20dx256', 'rp2040', 'samd21g18', 'stm32f401'],
    ]);
  });

  it('never makes both pins high, and leaves the same pause at both edges, with any numbers', () => {
    fc.assert(
      fc.property(
        fc.nat(),
        fc.nat(),
        fc.nat(),
        fc.integer({ min: 1, max: 40 }),
        fc.boolean(),
        (at, topAt, compareAt, dead, turned) => {
          const { part, timer, mode, first, second } = PAIRS[at % PAIRS.length]!;
          const { min, max } = topRange(mode);
          const top = Math.min(max, Math.max(min, 3 + (topAt % 120)));
          const compare = compareAt % (top + 1);
          const [own, other] = turned ? (['inverted', 'normal'] as const) : (['normal', 'inverted'] as const);
          const pinOf = (channel: Channel, polarity: string): string | undefined =>
            channel.outputs.find((one) => one.drive === 'pwm' && one.polarity === polarity)?.pin;
          const [pin, beside] = [pinOf(first, own), pinOf(second, other)];
          fc.pre(pin !== undefined && beside !== undefined && pin !== beside);
          const { prescaler } = timer;
          const step = prescaler.kind === 'list' ? prescaler.options[0]!.divide : Math.ceil(prescaler.min);
          const setting: OutputSetting = {
            ...{ drive: 'pwm', timer: timer.id, mode: mode.id, channel: first.id, pin: pin, top, compare },
            ...(turned ? { polarity: 'inverted' as const } : {}),
            prescaler: step,
            complement: { pin: beside, deadTicks: dead * step, channel: second.id },
          };
          try {
            resolveSetting(part, setting);
          } catch (error) {
            // A pulse that leaves no room for the pause is refused.
            expect(String(error)).toMatch(/no room for the dead time|is the top/);
            return;
          }
          const plan = planOn(part, bridge({ pin: pin, setting, complement: { pin: beside, deadS: 1e-6 } }));
          const lanes = planWaveforms(plan, part);
          const scale = divisionOf(prescaler, step)!.n;
          const ticks = 8 * 2 * (top + mode.base) * scale * (mode.pwm?.grain ?? 1);
          const [above, below] = lanes.map(({ waveform }) => [...waveformEdgeList(waveform, ticks).edges]);
          const high = (edges: number[], tick: number): boolean =>
            edges.filter((edge) => edge <= tick).length % 2 === 1;
          for (const tick of [...above!, ...below!])
            expect(high(above!, tick) && high(below!, tick)).toBe(false);
          // The second half is steady: each rise of one comes the pause after the fall of the other.
          const pause = dead * scale * (mode.pwm?.grain ?? 1);
          const steady = (edges: number[]): number[] => edges.filter((edge) => edge > ticks / 2);
          const all = [
            ...steady(above!).map((edge) => ({ edge, own: true })),
            ...steady(below!).map((edge) => ({ edge, own: false })),
          ].sort((one, two) => one.edge - two.edge);
          if (steady(above!).length < 4 || steady(below!).length < 4) return;
          const gaps = all
            .slice(1)
            .flatMap(({ edge, own }, at) => (all[at]!.own === own ? [] : [edge - all[at]!.edge]));
          expect(new Set(gaps)).toEqual(new Set([pause]));
        },
      ),
      { numRuns: 400 },
    );
  });

  it('has no pause with a counter that only goes up, where both outputs change as it begins anew', () => {
    const part = shipped('atmega328p');
    const up = (deadTicks: number): OutputSetting => ({
      ...{ drive: 'pwm', timer: 'TIMER1', mode: 'fast-icr', channel: 'OC1A', pin: 'PB1', prescaler: 1 },
      ...{ top: 799, compare: 359, complement: { pin: 'PB2', deadTicks, channel: 'OC1B' } },
    });
    expect(() => resolveSetting(part, up(17))).toThrow('cannot keep a dead time of 17 clocks in');
    expect(resolveSetting(part, up(0)).opposite?.second).toMatchObject({
      compare: 359,
      polarity: 'inverted',
    });
  });

  it('follows neither a knob nor a sequence, and says so', () => {
    const part = shipped('atmega328p');
    const pins = { pin: 'PB1', complement: { pin: 'PB2', deadS: 1e-6 } };
    const knob: Knob = { bits: 10, sets: 'duty', from: 0.1, to: 0.4 };
    const turned = evaluatePlan(planOn(part, bridge({ ...pins, knob })), part);
    expect(turned.failures.map(({ text }) => text).join()).toContain('keeps its duty');
    const sequence = {
      steps: [
        { duty: 0.2, periods: 10 },
        { duty: 0.4, periods: 10 },
      ],
    };
    const played = evaluatePlan(planOn(part, bridge({ ...pins, sequence })), part);
    expect(played.failures.map(({ text }) => text).join()).toContain('does not follow a sequence');
  });
});

describe('assignment', () => {
  it('takes both channels: two bridges and a lamp on ATmega328P, one of them at the frequency of its 8-bit timer', () => {
    const part = shipped('atmega328p');
    const plan = planOn(
      part,
      bridge({ pin: 'PB1', complement: { pin: 'PB2', deadS: 1e-6 } }),
      bridge({
        ...{ id: 'pump', name: 'Pump', pin: 'PD6', complement: { pin: 'PD5', deadS: 1e-6 } },
        // 16 MHz by 510.
        target: { frequencyHz: 31_372.5, duty: 0.3 },
      }),
      bridge({ id: 'fan', name: 'Fan', target: { frequencyHz: 7812.5, duty: 0.5 } }),
    );
    const found = assignPlan(plan, part);
    expect(found.feasible).toBe(true);
    const { conflicts, failures } = evaluatePlan(withSettings(plan, found.settings), part);
    expect([conflicts, failures]).toEqual([[], []]);
  });

  it('says that a bridge and another signal on one of its channels cannot be', () => {
    const part = shipped('atmega328p');
    const pair = { pin: 'PB1', complement: { pin: 'PB2', deadS: 1e-6 } };
    const setting = signalFit(part, clockPath(part, part.defaultClock), bridge(pair)).candidates[0]!.setting;
    const other = { ...setting, channel: 'OC1B', pin: 'PB2' } as OutputSetting;
    delete other.complement;
    const plan = planOn(
      part,
      bridge({ ...pair, setting }),
      bridge({ id: 'b', name: 'Other', pin: 'PB2', setting: other }),
    );
    expect(evaluatePlan(plan, part).conflicts.map(({ of }) => of)).toEqual(['channel']);
  });
});
