import { clockPath } from '../../src/clock/path.ts';
import { registerOf, sharesHandlers } from '../../src/part/find.ts';
import type { Interrupt, Part } from '../../src/part/types.ts';
import { divisionOf } from '../../src/part/division.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { driveOf, outcomeUnder } from '../../src/timer/drives/index.ts';
import { fieldBits } from '../../src/timer/fields.ts';
import { runTicks, reloadLatency } from '../../src/timer/run.ts';
import { hasTimer, type Setting } from '../../src/timer/setting.ts';
import { softwarePin } from '../../src/timer/tick.ts';
import { modeOf, timerOf } from '../../src/part/find.ts';
import { waveformOf } from '../../src/wave/waveform.ts';
import { waveformSource } from '../../src/wave/source.ts';
import type { Step } from './chip.ts';

/** Interrupts of a signal in the order of time: when, counted from the start, and which of its handlers. */
type Moment = { atS: number; interrupt: Interrupt };

/** Moments in which interrupts of a setting come, over some periods of its pin. None for a long time apart, or no interrupts. */
export function momentsOf(part: Part, plan: Plan, setting: Setting, periods: number, most: number): Moment[] {
  const handlers = driveOf(setting).handlers(part, setting);
  const [tick, match] = handlers.map(({ interrupt }) => interrupt);
  if (!tick || !hasTimer(setting) || driveOf(setting).cause === 'input') return [];
  const timer = timerOf(part, setting.timer);
  const mode = modeOf(timer, setting.mode);
  const division = divisionOf(timer.prescaler, setting.prescaler);
  const outcome = outcomeUnder(part, clockPath(part, plan.clock), setting);
  if (!division) throw new RangeError('a setting has a division');
  const postscale = 'postscale' in setting ? (setting.postscale ?? 1) : 1;
  const ticks = runTicks(mode, division.n, division.scale, setting.top, reloadLatency(part.cpu)) * postscale;
  const stepS = ticks / outcome.tickHz.valueOf();
  const { edges, periodTicks } = outcome.cycle;
  const count = Math.round((periods * periodTicks) / ticks);
  if (count > most) return [];
  const runs = Array.from({ length: count }, (_, at) => at + 1);
  // The match of a pair ends the pulse that its tick began.
  const width = 'fall' in edges ? edges.fall / outcome.tickHz.valueOf() : 0;
  return runs.flatMap((run) => [
    ...(match ? [{ atS: (run - 1) * stepS + width, interrupt: match }] : []),
    { atS: run * stepS, interrupt: tick },
  ]);
}

function handlerName(part: Part, { vector, handler }: Interrupt): string {
  if (sharesHandlers(part.cpu)) return 'interrupts';
  if (handler !== undefined) return handler;
  return (
    /\(?(\w*%\w*)\)?/
      .exec(part.code.handler.replace(/^void /, '').replace('(void)', ''))?.[1]
      ?.replace('%', vector) ?? ''
  );
}

/** Statements that let an interrupt come: its flag set, its handler run, the flag gone again. */
export function comeLines(part: Part, interrupt: Interrupt): string[] {
  const { flag, status = flag, clear } = interrupt;
  const [name = '', field = null] = status.split('.');
  const register = registerOf(part, name);
  const { mask } = fieldBits(register, field);
  const call = `${handlerName(part, interrupt)}();`;
  if (clear === 'none') return [call];
  const set = `${name}.value = (uint${register.width}_t)(${name}.value | ${mask}u);`;
  const gone = `${name}.value = (uint${register.width}_t)(${name}.value & ~${mask}u);`;
  const byHardware = clear === 'entry' || clear === 'entry-or-one' || clear === 'read';
  return [set, ...(byHardware ? [gone] : []), call, `if (${name}.value & ${mask}u) mark("stuck ${flag}");`];
}

/** Registers in which a pin's level is, as far as the program decides it. */
function levelRegisters(part: Part, pin: string): string[] {
  const { high, low } = softwarePin(part, pin).software;
  return [...new Set(Object.keys({ ...high, ...low }).map((key) => key.split('.')[0] ?? ''))];
}

/** Statements that let all interrupts of a setting come; only what decides its pin, and `also`, is told, with the number of the interrupt. */
export function playLines(
  part: Part,
  setting: Setting,
  moments: readonly Moment[],
  also: readonly string[] = [],
): string[] {
  const watched = [...(setting.pin === undefined ? [] : levelRegisters(part, setting.pin)), ...also];
  const [tick, match] = driveOf(setting)
    .handlers(part, setting)
    .map(({ interrupt }) => interrupt);
  if (!tick || moments.length === 0) return [];
  const rounds = moments.filter(({ interrupt }) => interrupt === tick || interrupt.vector === tick.vector);
  const count = match ? moments.length / 2 : rounds.length;
  return [
    ...watched.map((name) => `${name}.watched = true;`),
    'silent = true; event = 0;',
    `for (unsigned long round = 0; round < ${count}u; round++) {`,
    ...(match ? [...comeLines(part, match), 'event++;'] : []),
    ...comeLines(part, tick),
    'event++;',
    '}',
    'silent = false;',
    ...watched.map((name) => `${name}.watched = false;`),
  ];
}

/** What the moment's number is before a step of a silent play. */
function numbered(steps: readonly Step[]): { at: number; step: Step }[] {
  let at = 0;
  return steps.flatMap((step) => {
    if (step.do === 'mark' && step.name.startsWith('@')) {
      at = Number(step.name.slice(1));
      return [];
    }
    return [{ at, step }];
  });
}

/** The level that a write gives a pin; undefined where it has none for it. */
export function levelOf(part: Part, pin: string, register: string, value: number): 0 | 1 | undefined {
  const { high, low } = softwarePin(part, pin).software;
  for (const [writes, level] of [
    [high, 1],
    [low, 0],
  ] as const) {
    const own = Object.entries(writes).filter(([key]) => key.split('.')[0] === register);
    const made = own.every(([key, wanted]) => {
      const { shift, mask } = fieldBits(registerOf(part, register), key.split('.')[1] ?? null);
      return ((value & mask) >>> 0) / 2 ** shift === wanted;
    });
    if (own.length > 0 && made) return level;
  }
  return undefined;
}

/** When a play changed the level of its pin, in s. The pin is low before. */
export function playedEdges(
  part: Part,
  pin: string,
  moments: readonly Moment[],
  steps: readonly Step[],
): number[] {
  let level = 0;
  return numbered(steps).flatMap(({ at, step }) => {
    if (step.do !== 'write') return [];
    const next = levelOf(part, pin, step.register, step.value);
    if (next === undefined || next === level) return [];
    level = next;
    return [moments[at]?.atS ?? NaN];
  });
}

/** When a play called the user's function, in s. */
export function playedCalls(moments: readonly Moment[], steps: readonly Step[]): number[] {
  return numbered(steps).flatMap(({ at, step }) => (step.do === 'call' ? [moments[at]?.atS ?? NaN] : []));
}

/** The edges of the computed waveform up to a time, in s. */
export function computedEdges(part: Part, plan: Plan, setting: Setting, untilS: number): number[] {
  const outcome = outcomeUnder(part, clockPath(part, plan.clock), setting);
  const source = waveformSource(waveformOf(part, setting, outcome), outcome.tickHz.valueOf());
  return [...source.edges(0, untilS + 0.5 / outcome.tickHz.valueOf())];
}
