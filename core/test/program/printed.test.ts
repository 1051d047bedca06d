import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { evaluationMemory, type EvaluationMemory } from '../../src/evaluate/memory.ts';
import { planProgram } from '../../src/evaluate/program.ts';
import { StepPlayer } from '../../src/machine/played-steps.ts';
import { registerOf } from '../../src/part/find.ts';
import type { Interrupt, Part, Writes } from '../../src/part/types.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { stepCycles } from '../../src/program/cycles.ts';
import { programOf, type Program as SignalProgram } from '../../src/program/program.ts';
import { fieldBits, fieldWrites, type FieldWrite } from '../../src/timer/fields.ts';
import { runOnChip, type Program, type Step } from '../helpers/chip.ts';
import { comeLines } from '../helpers/chip-play.ts';
import { PARTS } from '../helpers/parts.ts';
import { typedPlans } from '../helpers/random-plans.ts';

/** Plans to a part; `HZ_RUNS` makes them more. */
const RUNS = Number(process.env['HZ_RUNS'] ?? 3);

/** Rounds of interrupts; the one in place n comes in every (n + 1)th. */
const ROUNDS = 240;

/** What one interrupt did: registers with the fields that it gave values, in order. */
type Done = { register: string; fields: readonly FieldWrite[] }[];

/** The interrupts of a program in the order in which they come, over and over. */
function interruptsOf(program: SignalProgram): Interrupt[] {
  return program.handlers.flatMap(({ flags }) => flags.map(({ interrupt }) => interrupt));
}

/** Writes of one step by register: fields of the same register go into it together. */
function byRegister(writes: readonly FieldWrite[]): Done {
  const names = [...new Set(writes.map(({ register }) => register))];
  return names.map((register) => ({ register, fields: writes.filter((one) => one.register === register) }));
}

/** What each interrupt does by the steps of the program, as they are played. */
function playedWrites(part: Part, program: SignalProgram): Done[] {
  let done: Done = [];
  const player = new StepPlayer(
    stepCycles(part, program.routines, 'slowest'),
    new Map(program.tables.map((table) => [table.name, table])),
    {
      change: (writes) => () => void done.push(...byRegister(writes)),
      put: (writes: Writes, name, value) => () =>
        void done.push(...byRegister(fieldWrites(writes, { [name]: value }))),
      reload: () => undefined,
    },
  );
  for (const { kept, initial } of program.variables) player.kept.set(kept, initial);
  player.handler(program.begin)();
  const parts = program.handlers.flatMap(({ flags }) => flags.map(({ steps }) => player.handler(steps)));
  return Array.from({ length: ROUNDS }, (_, round) => round).flatMap((round) =>
    parts.flatMap((play, at) => {
      if (round % (at + 1) !== 0) return [];
      done = [];
      for (const { happen } of play().effects) happen(0, 0);
      return [done];
    }),
  );
}

/** A plan's program as data and as printed C, and what each of its interrupts writes by the data. */
type Made = {
  plan: Plan;
  files: Program['files'];
  program: SignalProgram;
  played: Done[];
  watched: string[];
};

/** A plan as both; none where signals conflict or nothing is written. */
function madeOf(part: Part, plan: Plan, memory: EvaluationMemory): Made[] {
  const { signals, conflicts } = evaluatePlan(plan, part, memory);
  if (conflicts.length > 0) return [];
  const settings = new Map(
    signals.flatMap(({ signal, outcome }) => (outcome ? [[signal.id, outcome.setting] as const] : [])),
  );
  const program = programOf(part, planProgram(plan, part, clockPath(part, plan.clock), settings).signals);
  const played = playedWrites(part, program);
  const watched = [...new Set(played.flatMap((done) => done.map(({ register }) => register)))];
  if (watched.length === 0) return [];
  const { files } = planCode(plan, part, { failing: true }, memory);
  return [{ plan, files, program, played, watched }];
}

/** The printed program: started, and its interrupts let come in the same order; what it writes to some registers is told. */
function printedProgram(part: Part, { files, program, watched }: Made): Program {
  // Where interrupts share handlers, one function asks for those of each level.
  const source = files.map(({ text }) => text).join('');
  const shared = ['interrupts', 'interrupts_low'].filter((name) => source.includes(`void ${name}(void)`));
  const calls = shared.map((name) => `${name}();`).join(' ');
  const watch = (on: boolean): string[] => watched.map((name) => `${name}.watched = ${on};`);
  const body = [
    'try_out_init(); try_out_start();',
    ...watch(true),
    `silent = true; event = 0; for (unsigned long round = 0; round < ${ROUNDS}u; round++) {`,
    ...interruptsOf(program).flatMap((interrupt, at) => [
      `if (round % ${at + 1}u == 0u) {`,
      ...comeLines(part, interrupt).map((line) => line.replace('interrupts();', calls)),
      'event++; }',
    ]),
    '} silent = false;',
    ...watch(false),
  ];
  return { part, files, body };
}

/** What each interrupt wrote under the printed program. */
function printedWrites(steps: readonly Step[], count: number): { register: string; value: number }[][] {
  const all = Array.from({ length: count }, (): { register: string; value: number }[] => []);
  let at = -1;
  for (const step of steps) {
    if (step.do === 'mark' && step.name.startsWith('@')) at = Number(step.name.slice(1));
    if (step.do === 'write' && at >= 0) all[at]?.push({ register: step.register, value: step.value });
  }
  return all;
}

/** Writes as the data has them: a value whose bits go to several places of one register is printed as several writes of it. */
function together(done: Done, wrote: readonly { register: string; value: number }[]): typeof wrote {
  if (wrote.length === done.length) return wrote;
  return wrote.filter(({ register }, at) => wrote[at + 1]?.register !== register);
}

/** Whether a register's new value has what some fields were given. */
function has(part: Part, value: number, fields: readonly FieldWrite[]): boolean {
  return fields.every(({ register, field, value: wanted }) => {
    const { shift, mask } = fieldBits(registerOf(part, register), field);
    return ((value & mask) >>> 0) / 2 ** shift === wanted;
  });
}

let all = 0;

describe.each(PARTS.map((part) => [part.name, part] as const))('programs for %s', (_, part) => {
  it('write the same under each interrupt as data and as printed C, of random plans with sequences, knobs and several signals', () => {
    const memory = evaluationMemory();
    const made = fc.sample(typedPlans(part), { numRuns: RUNS }).flatMap((plan) => madeOf(part, plan, memory));
    const runs = runOnChip(made.map((one) => printedProgram(part, one)));
    let compared = 0;
    for (const [at, { plan, played }] of made.entries()) {
      const printed = printedWrites(runs[at] ?? [], played.length);
      for (const [event, done] of played.entries()) {
        const names = done.map(({ register }) => register);
        const wrote = together(done, printed[event] ?? []);
        expect({ plan, event, names: wrote.map(({ register }) => register) }).toEqual({ plan, event, names });
        const wrong = done.filter(({ fields }, n) => !has(part, wrote[n]?.value ?? 0, fields));
        expect({ plan, event, wrong }).toEqual({ plan, event, wrong: [] });
        compared += done.length;
      }
    }
    all += compared;
  });
});

it('something was compared', () => {
  expect(all).toBeGreaterThan(0);
});
