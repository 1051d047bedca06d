import { PLAN_VERSION } from '../../src/plan/versions.ts';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan, settingsOf } from '../../src/evaluate/evaluate.ts';
import { simulatePlan } from '../../src/evaluate/interrupts.ts';
import { thumbSet } from '../../src/machine/thumb-cycles.ts';
import { clockPath } from '../../src/clock/path.ts';
import { channelOf, registerOf, timerOf } from '../../src/part/find.ts';
import type { Part, Writes } from '../../src/part/types.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { fieldWrites, fieldBits } from '../../src/timer/fields.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import { runOnChip, type Step } from '../helpers/chip.ts';
import { faultsOf } from '../helpers/chip-rules.ts';
import { instructionsIn, longestLoop } from '../helpers/loop-cycles.ts';
import { shipped } from '../helpers/parts.ts';

const RAIL: PlanSignal = {
  id: 'rail',
  name: 'Rail lights',
  kind: 'string',
  target: { bitS: 0.00000125, zeroS: 0.0000004, oneS: 0.0000008, leds: 30 },
};

function planFor(part: Part, signals: PlanSignal[] = [RAIL]): Plan {
  return {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Sleigh',
    part: part.id,
    clock: part.defaultClock,
    signals,
  };
}

/** Compare values of a one and a zero that are nearest to 0.8 µs and 0.4 µs of 1.25 µs, by hand from the counts of a period. */
const SENDERS = [
  // 84 MHz: 105 counts; 67.2 and 33.6.
  ['stm32f401', 67, 34],
  // 48 MHz: 60 counts; 38.4 and 19.2.
  ['samd21g18', 38, 19],
  // 125 MHz: 125 counts after the divider of 1.25; 80 and 40.
  ['rp2040', 80, 40],
  // 36 MHz: 45 counts; 28.8 and 14.4.
  ['mk20dx256', 29, 14],
  // 80 MHz by 1.5625: 64 counts; 40.96 and 20.48.
  ['esp32', 41, 20],
  // 100 MHz: 125 counts; 80 and 40.
  ['am3358', 80, 40],
] as const;

function outputOf(plan: Plan, part: Part): OutputSetting {
  const setting = evaluatePlan(plan, part).signals[0]?.outcome?.setting;
  if (setting?.drive !== 'pwm') throw new Error('the string is on no PWM output');
  return setting;
}

/** Whether a value of a register holds what writes put there. */
function holds(part: Part, writes: Writes, register: string, value: number, compare: number): boolean {
  const own = fieldWrites(writes, { compare }).filter((one) => one.register === register);
  return (
    own.length > 0 &&
    own.every(({ field, value: wanted }) => {
      const { shift, mask } = fieldBits(registerOf(part, register), field);
      return ((value & mask) >>> 0) / 2 ** shift === wanted;
    })
  );
}

/** The compare values of the periods of a play: at the end of each the timer takes the one that was written last. */
function periodsOf(
  part: Part,
  setting: OutputSetting,
  known: readonly number[],
  steps: readonly Step[],
): number[] {
  const timer = timerOf(part, setting.timer);
  const channel = channelOf(timer, setting.channel);
  const writes = channel.running ?? channel.compare;
  const { flag, status = flag, polled } = timer.interrupts.overflow ?? {};
  const [name = '', field = null] = (polled || status || '').split('.');
  const { mask } = fieldBits(registerOf(part, name), field);
  let written = known[0] ?? NaN;
  let committed = written;
  let seen = false;
  const clears = [name, (flag ?? '').split('.')[0]];
  return steps.flatMap((step) => {
    if (step.do === 'write') {
      const compare = known.find((one) => holds(part, writes, step.register, step.value, one));
      if (compare !== undefined) written = compare;
      if (compare !== undefined && !channel.commit) committed = compare;
      const commits = channel.commit && holds(part, channel.commit, step.register, step.value, 0);
      if (commits) committed = written;
      if (clears.includes(step.register)) seen = false;
      return [];
    }
    if (seen || step.do !== 'read' || step.register !== name || (step.value & mask) === 0) return [];
    seen = true;
    return [committed];
  });
}

describe('bits of a string of LEDs, handed to a timer', () => {
  it.each(SENDERS)('%s: a one is %d counts, a zero %d; each bit is one period', (id, one, zero) => {
    const part = shipped(id);
    const plan = planFor(part);
    const setting = outputOf(plan, part);
    expect(setting.compare).toBe(one);
    const { files, leftOut } = planCode(plan, part);
    expect(leftOut).toEqual([]);
    const bytes = [0xa5, 0x00, 0xff, 0x13];
    const [steps = []] = runOnChip([
      {
        part,
        files,
        body: [
          `static const uint8_t bytes[] = {${bytes.join()}};`,
          'sleigh_init();',
          'mark("start");',
          'sleigh_start();',
          'mark("run");',
          'passing = true;',
          `tell("in time", rail_lights_send(bytes, ${bytes.length}));`,
          'passing = false;',
          'mark("stop");',
          'sleigh_stop();',
        ],
      },
    ]);
    const run = steps.findIndex((step) => step.do === 'mark' && step.name === 'run');
    const end = steps.findIndex((step) => step.do === 'mark' && step.name === 'in time=1');
    expect(end).toBeGreaterThan(run);
    const bits = bytes.flatMap((byte) =>
      [7, 6, 5, 4, 3, 2, 1, 0].map((bit) => ((byte >> bit) & 1 ? one : zero)),
    );
    // Low until the first period ends, then a period for each bit, then low again.
    expect(periodsOf(part, setting, [0, one, zero], steps.slice(run, end))).toEqual([0, ...bits, 0]);
    const { registers } = evaluatePlan(plan, part);
    // What is sent follows no order of starting: each store has a period's time until the next.
    const others = [...steps.slice(0, run + 1), ...steps.slice(end)];
    expect(faultsOf(part, [setting], registers, others)).toEqual([]);
  });

  it.each(SENDERS.map(([id]) => id))('%s: tells when a period was over before its bit was there', (id) => {
    const part = shipped(id);
    const { files } = planCode(planFor(part), part);
    const send = 'tell("in time", rail_lights_send(bytes, 1));';
    const [steps = []] = runOnChip([
      {
        part,
        files,
        // At each look at the flag a period is over.
        body: [
          'static const uint8_t bytes[] = {0x5a};',
          'passing = true; period = 1;',
          send,
          'period = 3;',
          send,
        ],
      },
    ]);
    const told = steps.flatMap((step) => (step.do === 'mark' ? [step.name] : []));
    expect(told).toEqual(['in time=0', 'in time=1']);
  });

  it('has no setters beside it, which would change what the bits are made of', () => {
    const part = shipped('rp2040');
    const header = planCode(planFor(part), part).files.find(({ name }) => name.endsWith('.h'))?.text ?? '';
    expect(header).toContain('uint8_t rail_lights_send(const uint8_t *bytes, uint16_t count);');
    expect(header).toContain('within 156 cycles');
    expect(header).not.toContain('rail_lights_set');
  });

  it('bcm2835: puts a value for each bit into the queue, 5 of 8 counts in a one, 3 in a zero', () => {
    const part = shipped('bcm2835');
    const plan = planFor(part);
    // 19.2 MHz by 3: 8 counts are 1.25 µs; 5.12 and 2.56 would be 0.8 and 0.4 µs.
    expect(outputOf(plan, part)).toMatchObject({ prescaler: 3, top: 7, compare: 5 });
    const { files, leftOut } = planCode(plan, part);
    expect(leftOut).toEqual([]);
    const [steps = []] = runOnChip([
      {
        part,
        files,
        body: [
          'static const uint8_t bytes[] = {0xa5, 0x13};',
          'sleigh_init();',
          'mark("start");',
          'sleigh_start();',
          'mark("run");',
          'tell("in time", rail_lights_send(bytes, 2));',
          'mark("stop");',
          'sleigh_stop();',
        ],
      },
    ]);
    const values = steps.flatMap((step) =>
      step.do === 'write' && step.register === 'PWM_FIF1' ? [step.value] : [],
    );
    // 0xa5 is 1010 0101, 0x13 is 0001 0011.
    expect(values).toEqual([5, 3, 5, 3, 3, 5, 3, 5, 3, 3, 3, 5, 3, 3, 5, 5]);
    expect(steps).toContainEqual({ do: 'mark', name: 'in time=1' });
    const [run, stop] = ['run', 'stop'].map((name) =>
      steps.findIndex((step) => step.do === 'mark' && step.name === name),
    );
    const others = [...steps.slice(0, (run ?? 0) + 1), ...steps.slice(stop)];
    const { registers } = evaluatePlan(plan, part);
    expect(faultsOf(part, [outputOf(plan, part)], registers, others)).toEqual([]);
    // The channel takes its values from the queue from the start on, and is low while it is empty.
    const control = steps.find((step) => step.do === 'write' && step.register === 'PWM_CTL');
    expect(control?.do === 'write' ? control.value & 0x20 : 0).toBe(0x20);
  });

  it('bcm2835: a gap from before the first bits is none of theirs, one between them is told', () => {
    const part = shipped('bcm2835');
    const { files } = planCode(planFor(part), part);
    const put = 'PWM_FIF1 = compare;';
    const told = runOnChip(
      [false, true].map((late) => ({
        part,
        files: files.map(({ name, text }) => ({
          name,
          // A period without a value comes after the fifth bit.
          text: late ? text.replace(put, `${put} if (left == 4u) PWM_STA.value |= 0x10u;`) : text,
        })),
        body: [
          'static const uint8_t bytes[] = {0x5a};',
          'PWM_STA.value |= 0x10u;',
          'tell("in time", rail_lights_send(bytes, 1));',
        ],
      })),
    ).map((steps) => steps.flatMap((step) => (step.do === 'mark' ? [step.name] : [])));
    expect(told).toEqual([['in time=1'], ['in time=0']]);
  });

  it('bcm2835: two strings cannot share the queue, and the code says so', () => {
    const part = shipped('bcm2835');
    const mast: PlanSignal = { ...RAIL, id: 'mast', name: 'Mast lights' };
    const { leftOut } = planCode(planFor(part, [RAIL, mast]), part, { failing: true });
    expect(leftOut).toHaveLength(2);
    expect(leftOut[0]).toContain('from the same queue');
  });

  it('is left out where another signal has the interrupt at the end of its periods', () => {
    const part = shipped('stm32f401');
    const own = outputOf(planFor(part), part);
    const { timer, mode, prescaler, top } = own;
    const beat: PlanSignal = {
      id: 'beat',
      name: 'Beat',
      kind: 'tick',
      target: { frequencyHz: 8000 },
      setting: { drive: 'interrupt', timer, mode, prescaler, top, divider: 100 },
    };
    const plan = planFor(part, [{ ...RAIL, setting: own }, beat]);
    const { leftOut } = planCode(plan, part, { failing: true });
    expect(leftOut.join(' ')).toContain('the end of its periods is the interrupt of another signal');
  });

  it('lets interrupts wait for a frame: 30 LEDs of 24 bits, and a period before and after', () => {
    const part = shipped('stm32f401');
    const tick: PlanSignal = { id: 'beat', name: 'Beat', kind: 'tick', target: { frequencyHz: 2000 } };
    const plan = planFor(part, [RAIL, tick]);
    const path = clockPath(part, plan.clock);
    const { report } = simulatePlan(plan, part, path, settingsOf(plan, part, path), { seconds: 1, seed: 7 });
    const beat = report.rows.find(({ name }) => name.includes('Beat'));
    // Frames begin 0, 333 or 167 µs after a tick, in turn, and take 902.5 µs: in two of three of them two ticks come.
    expect(beat?.lost).toBe(20);
    expect(beat?.wait.worstS).toBeGreaterThan(400e-6);
    const { signals } = evaluatePlan(plan, part);
    expect(signals[0]?.outcome?.slips.map(({ id }) => id)).toContain('waits-for-frame');
    expect(signals[0]?.outcome?.cpu).toBeCloseTo(30 * 720 * 1.25e-6, 9);
  });

  describe('compiled', () => {
    let directory = '';
    beforeAll(() => {
      directory = mkdtempSync(join(tmpdir(), 'send-'));
    });
    afterAll(() => rmSync(directory, { recursive: true, force: true }));

    const compiled = SENDERS.filter(([id]) => shipped(id).code.compiler).flatMap(([id]) =>
      ['-Os', '-O2'].map((option) => [id, option] as const),
    );
    it.each(compiled)(
      'for %s with %s, the longest way from bit to bit takes no more than is counted',
      (id, option) => {
        const part = shipped(id);
        const { compiler } = part.code;
        if (compiler?.family !== 'thumb') throw new Error('not a Thumb core');
        const { files } = planCode(planFor(part), part);
        for (const { name, text } of files) writeFileSync(join(directory, name), text);
        const run = { cwd: directory, stdio: ['ignore', 'pipe', 'pipe'] as ['ignore', 'pipe', 'pipe'] };
        const flags = [
          `-mcpu=${compiler.device}`,
          '-mthumb',
          option,
          '-std=c11',
          '-Wall',
          '-Wextra',
          '-Werror',
        ];
        execFileSync('arm-none-eabi-gcc', [...flags, '-c', 'sleigh.c', '-o', 'sleigh.o'], run);
        const listing = execFileSync('arm-none-eabi-objdump', ['-d', 'sleigh.o'], run).toString();
        const cycles = longestLoop(
          instructionsIn(`${listing}\n\n`, 'rail_lights_send'),
          thumbSet(compiler.device),
        );
        expect(cycles).toBeGreaterThan(20);
        expect(cycles).toBeLessThanOrEqual(part.cpu.sendCycles ?? 0);
      },
    );
  });
});
