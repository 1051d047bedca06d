import { clockPath } from '../../src/clock/path.ts';
import { simulatePlan, type InterruptOptions } from '../../src/evaluate/interrupts.ts';
import { dutyRange } from '../../src/evaluate/duty-range.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import type { CpuLoad } from '../../src/plan/cpu-load.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { checkPlan } from '../../src/plan/check-plan.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import { LOCK_GATE } from '../helpers/plan.ts';

const PART = atmega328p;
const MHZ = 16;

/** Two interrupts of Timer 1 make a pulse of so many cycles each 16 000 cycles: 1 kHz. */
function paired(cycles: number, more: Partial<PlanSignal> = {}): PlanSignal {
  return {
    id: 'lamp',
    name: 'Lamp',
    kind: 'dim',
    pin: 'PD4',
    target: { minHz: 500, minSteps: 100, duty: cycles / 16_000 },
    setting: {
      drive: 'interrupt-pair',
      timer: 'TIMER1',
      mode: 'ctc-icr',
      channel: 'OC1B',
      pin: 'PD4',
      prescaler: 1,
      top: 15_999,
      compare: cycles - 1, // its match is noticed one cycle after
    },
    ...more,
  } as PlanSignal;
}

function run(signals: PlanSignal[], cpu?: CpuLoad, options: Partial<InterruptOptions> = {}) {
  const plan: Plan = { ...LOCK_GATE, signals, ...(cpu ? { cpu } : {}) };
  const path = clockPath(PART, plan.clock);
  const settings = new Map(signals.flatMap(({ id, setting }) => (setting ? [[id, setting] as const] : [])));
  return { plan, ...simulatePlan(plan, PART, path, settings, { seconds: 0.05, seed: 3, ...options }) };
}

/** An event each 1 ms, so many cycles after a period of the pair has begun, whose handler takes 40 µs. */
function other(after: number, cycles = 640): CpuLoad {
  const everyS = 0.001;
  return { tasks: [{ id: 'bus', name: 'Bus', arrives: { everyS, firstS: after / 16e6 }, cycles }] };
}

describe('edges that interrupts make', () => {
  it('show the timer and the channel that the hand computation below is about', () => {
    const { cpu } = run([paired(160)]);
    expect(cpu.model.tasks.map(({ vector, cycles }) => [vector, cycles.max])).toEqual([
      // Saved and put back: the status in 15 cycles, and three registers of 4. The pin 2, a variable of two bytes 4, the match 4 and 2 for its value.
      [10, 39],
      // The status, one register, and the pin.
      [12, 21],
    ]);
  });

  it('keep 1 % to 99 % at 1 kHz within the instruction under way, alone, and 4 cycles short', () => {
    // The pin rises after half of the first handler's 27 cycles of saving, rounded up, and 2 more; it falls after half of 19, and 2 more.
    for (let percent = 1; percent <= 99; percent += 1) {
      const { report } = run([paired(160 * percent)], undefined, { seconds: 0.02 });
      const { widthS, periodS, lost } = report.edges.get('lamp') ?? {};
      expect(lost).toBe(0);
      expect((widthS?.min ?? 0) * 16e6).toBeGreaterThanOrEqual(160 * percent - 7 - 1e-6);
      expect((widthS?.max ?? 0) * 16e6).toBeLessThanOrEqual(160 * percent - 1 + 1e-6);
      expect((periodS?.mean ?? 0) * 16e6).toBeCloseTo(16_000, -1);
    }
  });

  it('make 44 µs of 1 % where a handler of 40 µs comes in between', () => {
    // The pin rises 7 + 16 = 23 cycles after the overflow, and the handler is over after 7 + 39 + 4 = 50, both 0 to 3 later where an
    // instruction is under way. One of 1 to 4 follows, then the bus, which came meanwhile: 7 in, 640, 4 out, again one of 1 to 4, and the match's
    // handler writes 7 + 12 later: 720 + 2 to 8, so 697 + 2 to 8 cycles wide.
    const { report } = run([paired(160)], other(16_050));
    const { widthS } = report.edges.get('lamp') ?? {};
    expect((widthS?.min ?? 0) * MHZ * 1e6).toBeGreaterThanOrEqual(699);
    expect((widthS?.max ?? 0) * MHZ * 1e6).toBeLessThanOrEqual(705);
    expect((widthS?.mean ?? 0) * 1e6).toBeCloseTo(44, 0);
  });

  it('are short where both interrupts wait and the tick is served first', () => {
    // The bus comes 20 cycles before the tick: at its end both are pending. The tick (vector 10) writes and has 39 - 16 = 23 cycles
    // left, 4 out, 1 to 4 for an instruction, then 7 + 12 until the match (vector 12) writes: 47 to 50 instead of 160 cycles.
    const { report } = run([paired(160)], other(15_980));
    const { widthS } = report.edges.get('lamp') ?? {};
    expect(Math.round((widthS?.min ?? 0) * 16e6)).toBeGreaterThanOrEqual(47);
    expect(Math.round((widthS?.max ?? 0) * 16e6)).toBeLessThanOrEqual(50);
  });

  it('last until the match after the next where the match is served first: its vector is lower', () => {
    // In fast PWM the overflow (vector 13) sets the pin: the match (12) goes first and clears a pin that is low.
    const lamp = paired(160);
    const late = { ...lamp, setting: { ...lamp.setting, mode: 'fast-icr' } } as PlanSignal;
    const { report, cpu } = run([late], other(15_980));
    expect(cpu.model.tasks.map(({ vector }) => vector).slice(0, 2)).toEqual([12, 13]);
    // The tick writes after the bus, at -20 + 7 + 640 + 4 + ..., about 700 cycles late; one period and 160 cycles on, the
    // pin falls where the bus has kept that match waiting as well, and rises again right after it.
    const { widthS } = report.edges.get('lamp') ?? {};
    expect((widthS?.min ?? 0) * 16e6).toBeGreaterThan(15_000);
  });

  it('fail the check of the duty with the widths that were simulated', () => {
    const lamp = paired(160, {
      target: { frequencyHz: 1000, duty: 0.01, dutyTolerance: 0.005 },
      kind: 'blink',
    });
    const alone = evaluatePlan(run([lamp]).plan, PART);
    expect(alone.signals[0]?.verdict).toBe('pass');
    const { signals, failures } = evaluatePlan(run([lamp], other(16_050)).plan, PART);
    const duty = signals[0]?.outcome?.checks.find(({ property }) => property === 'duty');
    expect(duty?.verdict).toBe('fail');
    expect(duty?.value).toBeCloseTo(0.044, 3);
    expect(duty?.note).toMatch(/^Other interrupts move its edges: pulses of 4[34]\./);
    expect(failures.map(({ name }) => name)).toContain('Lamp');
  });

  it('leave a pair at 1 kHz its whole range alone, and from about 5 % up with a handler of 40 µs', () => {
    const range = (cpu?: CpuLoad) => {
      const { plan } = run([paired(160)]);
      const path = clockPath(PART, plan.clock);
      const settings = new Map([['lamp', paired(160).setting as never]]);
      return dutyRange({ ...plan, ...(cpu ? { cpu } : {}) }, PART, path, settings, 'lamp');
    };
    const alone = range()?.usable;
    expect(alone?.min).toBeLessThanOrEqual(0.005);
    expect(alone?.max).toBeGreaterThanOrEqual(0.99);
    // 50 cycles after the tick the bus takes 640: pulses that should end before about 700 cycles, 4.4 %, end then.
    const busy = range(other(16_050));
    expect(busy?.usable?.min).toBeGreaterThan(0.03);
    expect(busy?.usable?.min).toBeLessThanOrEqual(0.051);
    const one = busy?.points.find(({ set }) => Math.abs(set - 0.01) < 0.001);
    expect(one?.mean).toBeCloseTo(0.044, 3);
  });

  it('come later from a delay loop, by what handlers take: 1 kHz becomes 996.5 Hz with 56 cycles in each period', () => {
    // 4000 passes of 4 cycles. The bus comes each 1 ms: 7 in, 45, 4 out: 56 cycles; its own period stays 16 000, so that it comes
    // 16 056 / 16 000 times a period of the loop: the mean period is 16 000 / (1 - 56 / 16 000) = 16 056.2.
    const horn = {
      id: 'horn',
      name: 'Horn',
      kind: 'tone',
      pin: 'PD4',
      target: { frequencyHz: 1000, frequencyTolerancePpm: 1000 },
      setting: { drive: 'delay-loop', pin: 'PD4', top: 4000, compare: 2000 },
    } as PlanSignal;
    const { report } = run([horn], other(100, 45), { seconds: 0.5 });
    const { periodS, stretched } = report.edges.get('horn') ?? {};
    expect(stretched).toBe(true);
    expect((periodS?.mean ?? 0) * 16e6).toBeCloseTo(16_056.2, 0);
    expect(run([horn]).report.edges.size).toBe(0);
    const { signals } = evaluatePlan({ ...LOCK_GATE, signals: [horn], cpu: other(100, 45) }, PART);
    const frequency = signals[0]?.outcome?.checks.find(({ property }) => property === 'frequency');
    expect(frequency?.verdict).toBe('fail');
    expect(frequency?.value).toBeCloseTo(996.5, 1);
    expect(frequency?.note).toMatch(/^Interrupts lengthen the loop: periods of 1\.00/);
  });

  it('serve three rates from one tick: one interrupt, edges of one delay', () => {
    // 1 kHz: toggles each 1, 2 and 5 interrupts give 500, 250 and 100 Hz; 24 + 2 x 12 cycles in one handler.
    const tick = (id: string, pin: string, divider: number): PlanSignal => ({
      id,
      name: id,
      kind: 'blink',
      pin,
      target: { frequencyHz: 500 / divider },
      setting: {
        drive: 'interrupt',
        timer: 'TIMER1',
        mode: 'ctc-icr',
        prescaler: 1,
        top: 15_999,
        divider,
        pin,
      },
    });
    const { report, cpu } = run(
      [tick('fast', 'PD4', 1), tick('half', 'PD5', 2), tick('slow', 'PD6', 5)],
      undefined,
      {
        seconds: 0.2,
      },
    );
    expect(cpu.model.tasks).toHaveLength(1);
    // Each toggles a level in memory in 6 and looks at it in 5, then the pin in 2, or 4 with a jump; to count to two takes 10, and to start again 3.
    // Least: 13 + 10 + 10; most: 15 + 28 + 28; and 15 + 2 x 4 around it.
    expect(report.rows[0]).toMatchObject({ signals: ['fast', 'half', 'slow'], cycles: { min: 56, max: 94 } });
    for (const [id, hz] of [
      ['fast', 500],
      ['half', 250],
      ['slow', 100],
    ] as const) {
      const { periodS, widthS } = report.edges.get(id) ?? {};
      expect(1 / (periodS?.mean ?? 1)).toBeCloseTo(hz, 1);
      expect((widthS?.mean ?? 0) * hz).toBeCloseTo(0.5, 3);
    }
  });

  it('lose a tick behind a handler that takes longer than its period, and say when', () => {
    const tick = {
      id: 'beat',
      name: 'Beat',
      kind: 'tick',
      target: { frequencyHz: 1000 },
      setting: {
        drive: 'interrupt',
        timer: 'TIMER1',
        mode: 'ctc-icr',
        prescaler: 1,
        top: 15_999,
        divider: 1,
      },
    } as PlanSignal;
    const cpu: CpuLoad = {
      tasks: [{ id: 'log', name: 'Log', arrives: { timesS: [0.0105] }, cycles: 40_000 }],
    };
    // The log runs from 10.5 ms for 2.5 ms: of the ticks at 11, 12 and 13 ms one waits, those at 12 and 13 ms are lost.
    const { report } = run([tick], cpu);
    expect(report.rows.find(({ name }) => name === 'Beat')).toMatchObject({ lost: 2 });
    const { failures, signals } = evaluatePlan({ ...LOCK_GATE, signals: [tick], cpu }, PART);
    expect(signals[0]?.verdict).toBe('fail');
    expect(failures[0]).toMatchObject({ signal: 'beat', interrupts: true });
    expect(failures[0]?.atS).toBeCloseTo(0.012, 6);
  });

  it('say that a task whose flag nobody clears keeps the plan from passing', () => {
    const cpu: CpuLoad = {
      tasks: [{ id: 'port', name: 'Port', arrives: { everyS: 0.1 }, cycles: 30, clears: 'never' }],
    };
    const { failures } = evaluatePlan({ ...LOCK_GATE, cpu }, PART);
    expect(failures[0]).toMatchObject({ task: 'port', name: 'Port' });
    expect(failures[0]?.text).toMatch(/again and again/);
  });

  it('take lengths and priorities from the plan, and refuse what is no length', () => {
    const { cpu } = run([paired(160, { handler: { cycles: { min: 30, max: 90 } } })]);
    expect(cpu.model.tasks.map(({ cycles }) => cycles)).toEqual([
      { min: 30, max: 90 },
      { min: 30, max: 90 },
    ]);
    // The handler at the match has a length of its own.
    const each = run([paired(160, { handler: { cycles: 30, match: { min: 40, max: 90 } } })]);
    expect(each.cpu.model.tasks.map(({ vector, cycles }) => [vector, cycles])).toEqual([
      [10, { min: 30, max: 30 }],
      [12, { min: 40, max: 90 }],
    ]);
    expect(each.report.rows.map(({ match, estimated }) => [match, estimated])).toEqual([
      [undefined, false],
      [true, false],
    ]);
    const bad = {
      ...LOCK_GATE,
      cpu: { tasks: [{ id: 'a', name: 'A', arrives: { everyS: 1 }, cycles: { min: 9, max: 3 } }] },
    };
    const read = checkPlan(bad, [PART]);
    expect(read.ok ? '' : read.fault.path).toBe('cpu.tasks[0].cycles.max');
    const both = {
      ...LOCK_GATE,
      cpu: { tasks: [{ id: 'a', name: 'A', arrives: { everyS: 1, leastS: 1 }, cycles: 3 }] },
    };
    expect(checkPlan(both, [PART]).ok).toBe(false);
  });
});
