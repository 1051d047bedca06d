import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import type { Part } from '../../src/part/types.ts';
import type { Knob } from '../../src/knob/knob.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { isOutput, outcomeUnder, resolveSetting } from '../../src/timer/drives/index.ts';
import { counterNumbers } from '../../src/timer/fields.ts';
import { topRange, type OutputSetting } from '../../src/timer/setting.ts';
import { holdsCompare, holdsTop, imagesOf } from '../helpers/chip-image.ts';
import { runOnChip, type Program, type Step } from '../helpers/chip.ts';
import { PARTS } from '../helpers/parts.ts';
import { planOn } from '../helpers/plan.ts';

/** Chains to a signal and part; `HZ_RUNS` makes them more. */
const RUNS = Number(process.env['HZ_RUNS'] ?? 4);

/** Calls in a chain. */
const LONG = 8;

const KNOB: Knob = { bits: 10, sets: 'duty', from: 0.1, to: 0.9 };

const SIGNALS: readonly Pick<PlanSignal, 'kind' | 'target' | 'knob'>[] = [
  { kind: 'pwm', target: { frequencyHz: 1000, duty: 0.3, minSteps: 100 } },
  { kind: 'pwm', target: { frequencyHz: 1000, minDuty: 0.1, maxDuty: 0.8, minSteps: 100 } },
  { kind: 'blink', target: { frequencyHz: 2, duty: 0.2, frequencyTolerancePpm: 50_000 } },
  { kind: 'strobe', target: { minHz: 5, maxHz: 40, onS: 0.0004 } },
  {
    kind: 'dim',
    target: { minHz: 200, minSteps: 50, duty: 0.4 },
    knob: KNOB,
  },
];

/** What the pin was last told: how fast, and for how long or for which share of a period it is high. */
type Said = { hz: number; widthS?: number; share?: number };

/** A setter as its header declares it: its name, and its ends. */
type Setter = { name: string; min: number; max: number };

/** What a call says, on top of what was said before. */
const MEANS: Readonly<Record<string, (value: number, said: Said) => Said>> = {
  us: (value, { hz }) => ({ hz, widthS: value / 1e6 }),
  ns: (value, { hz }) => ({ hz, widthS: value / 1e9 }),
  percent: (value, { hz }) => ({ hz, share: value / 100 }),
  hundredths: (value, { hz }) => ({ hz, share: value / 10_000 }),
  hz: (value, said) => ({ ...said, hz: value }),
  millihertz: (value, said) => ({ ...said, hz: value / 1000 }),
  period_ms: (value, said) => ({ ...said, hz: 1000 / value }),
  period_us: (value, said) => ({ ...said, hz: 1e6 / value }),
  // The knob of ten bits below.
  knob: (value, { hz }) => ({ hz, share: KNOB.from + ((KNOB.to - KNOB.from) * value) / 1023 }),
};

/** The setters of a header that say something of their own. */
function settersIn(header: string): Setter[] {
  const found = [...header.matchAll(/^void one_set_(\w+)\(uint\d+_t \w+\);/gm)].map(([, name = '']) => name);
  return found.flatMap((name) => {
    if (!(name in MEANS)) return [];
    const end = (which: string): string | undefined =>
      new RegExp(`#define ONE_${name.toUpperCase()}_${which} (\\d+)u`).exec(header)?.[1];
    return [{ name, min: Number(end('MIN') ?? 0), max: Number(end('MAX') ?? 1023) }];
  });
}

/** One signal of a part, alone, whose period and width both move. */
type Case = { name: string; part: Part; plan: Plan; setting: OutputSetting; setters: Setter[] };

const cases: Case[] = PARTS.flatMap((part) =>
  SIGNALS.flatMap((signal, at) => {
    const plan = planOn(part, { id: 'one', name: 'One', ...signal } as PlanSignal);
    const setting = evaluatePlan(plan, part).signals[0]?.outcome?.setting;
    if (!setting || !isOutput(setting)) return [];
    const header = planCode(plan, part, { failing: true }).files[1]?.text ?? '';
    const setters = settersIn(header);
    if (!header.includes('one_made_hundredths')) return [];
    return [{ name: `${part.name}, ${signal.kind} ${at + 1}`, part, plan, setting, setters }];
  }),
);

/** A chain of calls as C, and what was said after each. */
type Chain = { calls: string[]; said: Said[] };

function drawnChain({ part, plan, setting, setters }: Case): fc.Arbitrary<Chain> {
  const { frequency, duty } = outcomeUnder(part, clockPath(part, plan.clock), setting);
  const hz = frequency.valueOf();
  const share = duty.valueOf();
  const { kind } = plan.signals[0] ?? {};
  const planned: Said = kind === 'strobe' ? { hz, widthS: share / hz } : { hz, share };
  const call = fc.oneof(
    {
      weight: 8,
      arbitrary: fc.tuple(
        fc.constantFrom(...setters),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.boolean(),
      ),
    },
    { weight: 1, arbitrary: fc.constant('restart' as const) },
  );
  return fc.array(call, { minLength: LONG, maxLength: LONG }).map((drawn): Chain => {
    let now = planned;
    const calls: string[] = [];
    const said: Said[] = [];
    for (const one of drawn) {
      if (one === 'restart') {
        calls.push('try_out_stop(); try_out_start();');
        now = planned;
      } else {
        const [{ name, min, max }, place, atEnd] = one;
        // Values by ratio, and now and then the very ends.
        const between = Math.round(Math.max(min, 1) * (max / Math.max(min, 1)) ** place);
        const value = atEnd ? (place < 0.5 ? min : max) : between;
        calls.push(`one_set_${name}(${value}u);`);
        now = MEANS[name]?.(value, now) ?? now;
      }
      said.push(now);
    }
    return { calls, said };
  });
}

/** The program of a case, with a chain of calls and a mark before each of them. */
function programOf({ part, plan }: Case, { calls }: Chain): Program {
  const marked = calls.flatMap((call, at) => [`mark("call ${at}");`, call]);
  const { files } = planCode(plan, part, { failing: true });
  return { part, files, body: ['try_out_init(); try_out_start();', ...marked] };
}

/** A start writes the registers themselves, where setters write their buffers: what was written last counts, and is told as in the buffer. */
function asBuffered({ part, setting }: Case, steps: readonly Step[]): Step[] {
  const { mode, channel } = resolveSetting(part, setting);
  const { top } = mode;
  const names = (writes: object): string[] => Object.keys(writes);
  const plain = [...(top.kind === 'register' ? names(top.writes) : []), ...names(channel.compare)];
  const running = [
    ...(top.kind === 'register' ? names(top.running ?? top.writes) : []),
    ...names(channel.running ?? channel.compare),
  ];
  return steps.flatMap((step) => {
    const at = step.do === 'write' ? plain.indexOf(step.register) : -1;
    const other = running[at];
    return step.do === 'write' && other !== undefined ? [step, { ...step, register: other }] : [step];
  });
}

/** What the timer makes of the registers: top and compare value near to those that were said. */
function madeOf({ part, plan, setting }: Case, said: Said, image: Map<string, number>) {
  const { mode, timer } = resolveSetting(part, setting);
  const path = clockPath(part, plan.clock);
  const { min, max } = topRange(mode);
  const before = outcomeUnder(part, path, setting);
  const around = (guess: number, least: number, most: number, reach = 5): number[] =>
    Array.from({ length: 2 * reach + 1 }, (_, n) => Math.round(guess) - reach + n).filter(
      (one) => one >= least && one <= most,
    );
  const topGuess = ((setting.top + mode.base) * before.frequency.valueOf()) / said.hz - mode.base;
  const top = around(topGuess, min, max).find((one) =>
    holdsTop(part, mode, counterNumbers(timer, one, setting.prescaler), image),
  );
  if (top === undefined) return undefined;
  const all = 2 ** (mode.pwm?.bits ?? timer.width) - 1;
  const grain = mode.pwm?.grain ?? 1;
  const hz = outcomeUnder(part, path, { ...setting, top, compare: 0 }).frequency.valueOf();
  const wanted = Math.min(1, said.share ?? (said.widthS ?? 0) * hz);
  const run = (top + mode.base) * grain;
  const own = limitsOf(plan);
  const held = Math.min(own.max, Math.max(own.min, wanted));
  const compareGuess = (setting.polarity === 'inverted' ? 1 - held : held) * run;
  // Hundredths of a percent; a knob's reading becomes a count of the plan's own period first, downwards.
  const finest = 5e-5 + (plan.signals[0]?.knob ? 1.5 / (setting.top + mode.base) : 0);
  const reach = 5 + Math.ceil(run * finest);
  const compare = around(compareGuess, 0, all, reach).find((one) => holdsCompare(part, setting, image, one));
  if (compare === undefined) return undefined;
  const made = outcomeUnder(part, path, { ...setting, top, compare });
  return { hz: made.frequency.valueOf(), duty: made.duty.valueOf(), wanted: held, run, top, finest };
}

/** The span of duties that a target has. */
function limitsOf(plan: Plan): { min: number; max: number } {
  const target = plan.signals[0]?.target as { minDuty?: number; maxDuty?: number } | undefined;
  return { min: target?.minDuty ?? 0, max: target?.maxDuty ?? 1 };
}

it('has signals whose period and width both move, on most parts', () => {
  expect(cases.length).toBeGreaterThan(25);
});

it.each(cases.map((one) => [one.name, one] as const))(
  'any order of setters, stop and start leaves the pin with what was said last: %s',
  (_, own) => {
    const chains = fc.sample(drawnChain(own), { numRuns: RUNS });
    const runs: Step[][] = runOnChip(chains.map((chain) => programOf(own, chain)));
    for (const [at, { calls, said }] of chains.entries()) {
      const images = imagesOf(asBuffered(own, runs[at] ?? []));
      for (const [n, now] of said.entries()) {
        const made = madeOf(own, now, images[n] ?? new Map<string, number>());
        const told = { calls: calls.slice(0, n + 1), now, made };
        expect({ ...told, found: made !== undefined }).toEqual({ ...told, found: true });
        if (!made) continue;
        // A count of the run, and two steps of the width: one by rounding, one where a mode is high for one more.
        expect({ ...told, close: Math.abs(made.hz / now.hz - 1) <= 1 / made.top }).toEqual({
          ...told,
          close: true,
        });
        expect({ ...told, close: Math.abs(made.duty - made.wanted) <= 2 / made.run + made.finest }).toEqual({
          ...told,
          close: true,
        });
      }
    }
  },
);

it('tells what was set last, beside what is made of it', () => {
  // 16 MHz by 8: 333.3 Hz are 6001 counts (333.28 Hz), of which 12.34 % are 741.
  const plan = planOn(atmega328p, {
    ...{ id: 'one', name: 'One', kind: 'pwm', pin: 'PB1' },
    target: { frequencyHz: 200, duty: 0.3, minSteps: 100 },
  });
  const { files } = planCode(plan, atmega328p, { failing: true });
  const told = (call: string, value: number): string =>
    `mark(one_${call}() == ${value}u ? "${call} ${value}" : "${call} differs");`;
  const [steps = []] = runOnChip([
    {
      ...{ part: atmega328p, files },
      body: [
        'try_out_init(); try_out_start();',
        ...[told('wanted_millihertz', 0), told('wanted_hundredths', 3000), told('made_hundredths', 3000)],
        ...['one_set_hz(333u);', told('wanted_millihertz', 333_000)],
        ...['one_set_millihertz(333300u);', told('wanted_millihertz', 333_300)],
        ...['one_set_hundredths(1234u);', told('wanted_hundredths', 1234)],
        // A width of 300 us: 600 of 6001 counts are 10.00 %.
        ...['one_set_us(300u);', told('wanted_hundredths', 1000), told('made_hundredths', 1000)],
      ],
    },
  ]);
  const marks = steps.flatMap((step) => (step.do === 'mark' ? [step.name] : []));
  expect(marks).toHaveLength(8);
  expect(marks.filter((text) => text.includes('differs'))).toEqual([]);
});
