import type { Part } from '../part/types.ts';
import type { Action, Measure } from '../timer/drives/index.ts';
import { softwarePin } from '../timer/tick.ts';
import { plainWrites } from '../timer/fields.ts';
import {
  either,
  unsignedFor,
  when,
  type Kept,
  type Local,
  type State,
  type Step,
  type Unsigned,
  type Value,
} from './step.ts';

/** Puts a pin high or low as the program's own. */
export function level(part: Part, pin: string, high: boolean): Step {
  const { software } = softwarePin(part, pin);
  return { do: 'change', writes: plainWrites([high ? software.high : software.low]) };
}

/** The variable in which a signal's handler counts its interrupts up to a number. */
export function counted(label: string, max: number): Kept {
  return { kept: `${label}_count`, type: unsignedFor(max) };
}

/** The variable that says whether a toggled pin is high. */
export function levelOf(label: string): Kept {
  return { kept: `${label}_level`, type: 'uint8_t' };
}

/** The variable with the width that a signal's handlers take. */
function highOf(label: string, max: number): Kept {
  return { kept: `${label}_high`, type: unsignedFor(max) };
}

/** Steps at every so many interrupts. */
export function every(label: string, divider: number, steps: readonly Step[]): Step[] {
  if (divider === 1) return [...steps];
  const count = counted(label, divider);
  return [
    when(
      { left: { increased: count }, op: '>=', right: divider },
      { do: 'set', to: count, value: 0 },
      ...steps,
    ),
  ];
}

function counterOf(label: string, divider: number): State[] {
  return divider === 1 ? [] : [{ ...counted(label, divider), initial: 0 }];
}

function countType(width: number): Unsigned {
  return width > 16 ? 'uint32_t' : 'uint16_t';
}

/** How many ends of the counter's run lie behind the last edge; two mean that it was too long ago. */
function passesOf(label: string) {
  return { kept: `${label}_passes`, type: 'uint8_t', initial: 0 } as const satisfies State;
}

/** An end of a run that is handled after an edge that came later: one less is to be counted from there on. */
const OWED = 255;

/** The variables of a measured input: the last count, whether there was one, whether one came since it was asked, the difference. */
function measureStates(label: string, { width }: Measure) {
  return {
    passes: passesOf(label),
    last: { kept: `${label}_last`, type: countType(width), initial: 0 },
    seen: { kept: `${label}_seen`, type: 'uint8_t', initial: 0, shared: true },
    fresh: { kept: `${label}_fresh`, type: 'uint8_t', initial: 0, shared: true },
    counts: { kept: `${label}_counts`, type: 'uint32_t', initial: 0, told: true },
  } as const satisfies Record<string, State>;
}

/** Where an edge lies: its own handler asks whether an end of the run still waits, the one at that end knows. */
type Met = 'by its handler' | 'at an end';

/**
 * How many ends of runs lie between the last edge and this one, in a local variable, and what is left for the next one: an end that is
 * handled later, and lies before this edge, is owed; one that is handled now, and lies after it, counts.
 */
function passedSteps(label: string, { counts, overflow }: Measure, now: Local, met: Met): Step[] {
  const passes = passesOf(label);
  const [before, passed] = [`${label}_before`, `${label}_passed`].map((local): Local => ({
    local,
    type: 'uint8_t',
  })) as [Local, Local];
  const early: Value = { test: { left: now, op: '<', right: Math.floor(counts / 2) }, then: 1, else: 0 };
  const byHandler = met === 'by its handler';
  return [
    {
      do: 'local',
      local: before,
      value: {
        as: 'uint8_t',
        value: byHandler ? { test: { flag: overflow }, then: early, else: 0 } : early,
      },
    },
    {
      do: 'local',
      local: passed,
      value: { as: 'uint8_t', value: { left: passes, op: '+', right: before } },
    },
    {
      do: 'set',
      to: passes,
      value: {
        as: 'uint8_t',
        value: byHandler ? { test: before, then: OWED, else: 0 } : { test: before, then: 0, else: 1 },
      },
    },
  ];
}

/**
 * The difference of two captured counts, around the end of the counter's run where it lies between them. The first edge has
 * none before it, and one that comes more than a run after the last gives 0. An end of the run that is handled later than the edge
 * lies before it if the count is small.
 */
function measured(label: string, action: Measure, met: Met): Step[] {
  const { registers, width, counts } = action;
  const type = countType(width);
  const { last, seen, fresh, counts: result } = measureStates(label, action);
  const [lower = '', upper] = registers;
  const read: Value =
    upper === undefined
      ? { register: lower }
      : {
          left: { register: lower },
          op: '|',
          right: { left: { as: 'uint16_t', value: { register: upper } }, op: '<<', right: 8 },
        };
  const now = { local: `${label}_now`, type } as const;
  const passed = { local: `${label}_passed`, type: 'uint8_t' } as const;
  const whole = counts === 2 ** (width > 16 ? 32 : 16);
  const around: Value = { test: { left: now, op: '<', right: last }, then: counts, else: 0 };
  const difference: Value = whole
    ? { as: type, value: { left: now, op: '-', right: last } }
    : { left: { left: now, op: '+', right: around }, op: '-', right: last };
  const take: Step = { do: 'set', to: result, value: difference };
  return [
    { do: 'local', local: now, value: { as: type, value: read } },
    ...passedSteps(label, action, now, met),
    when(
      seen,
      { do: 'set', to: result, value: 0 },
      either(
        passed,
        [when({ left: passed, op: '==', right: 1 }, when({ left: now, op: '<', right: last }, take))],
        [take],
      ),
    ),
    { do: 'set', to: seen, value: 1 },
    { do: 'set', to: fresh, value: 1 },
    { do: 'set', to: last, value: now },
  ];
}

/**
 * Counts an end of the run, up to two: then no edge came for more than a run, and the next one has none before it. An edge that waits
 * is taken at once, since its count tells on which side of the end it lies.
 */
function lapsed(label: string, { measure, edge }: Extract<Action, { do: 'lapse' }>): Step[] {
  const passes = passesOf(label);
  const lost: Step[] = [
    { do: 'set', to: { kept: `${label}_seen`, type: 'uint8_t' }, value: 0 },
    { do: 'set', to: { kept: `${label}_counts`, type: 'uint32_t' }, value: 0 },
  ];
  return [
    either(
      { flag: edge.flag },
      [{ do: 'clear', interrupt: edge, first: true }, ...measured(label, measure, 'at an end')],
      [
        when(
          { left: passes, op: '!=', right: 2 },
          { do: 'set', to: passes, value: { as: 'uint8_t', value: { left: passes, op: '+', right: 1 } } },
          when({ left: passes, op: '==', right: 2 }, ...lost),
        ),
      ],
    ),
  ];
}

/** What an action keeps from one interrupt to the next. */
export function actionStates(label: string, action: Action): State[] {
  switch (action.do) {
    case 'level':
    case 'lapse':
      return [];
    case 'toggle':
      return [...counterOf(label, action.every), { ...levelOf(label), initial: 0 }];
    case 'count':
      return [
        { ...counted(label, action.of), initial: 0 },
        { ...highOf(label, action.of), initial: action.highFor, shared: true },
      ];
    case 'load':
      return [{ ...highOf(label, action.max), initial: action.value, shared: true }];
    case 'call':
      return counterOf(label, action.every);
    case 'measure':
      return Object.values(measureStates(label, action));
  }
}

/** An action as steps. */
export function actionSteps(part: Part, label: string, action: Action): Step[] {
  switch (action.do) {
    case 'level':
      return [level(part, action.pin, action.high)];
    case 'toggle':
      return every(label, action.every, [
        { do: 'set', to: levelOf(label), op: '^', value: 1 },
        either(levelOf(label), [level(part, action.pin, true)], [level(part, action.pin, false)]),
      ]);
    case 'count':
      return [
        ...countPulse(part, label, action),
        when(countEnds(label, action.of), { do: 'set', to: counted(label, action.of), value: 0 }),
      ];
    case 'load':
      return [
        {
          do: 'block',
          // In a block of its own: signals may share a handler.
          steps: putSteps(action, highOf(label, action.max)),
        },
      ];
    case 'call':
      return every(label, action.every, [{ do: 'call', routine: `${label}_tick`, outside: true }]);
    case 'measure':
      return measured(label, action, 'by its handler');
    case 'lapse':
      return lapsed(label, action);
  }
}

/** Puts a pin high for the counts below a signal's width, else low. */
export function countPulse(
  part: Part,
  label: string,
  { of, pin }: Extract<Action, { do: 'count' }>,
  high: Kept = highOf(label, of),
): Step[] {
  return [
    either(
      { left: counted(label, of), op: '<', right: high },
      [level(part, pin, true)],
      [level(part, pin, false)],
    ),
  ];
}

/** Counts an interrupt; not zero at the last one of a period. */
export function countEnds(label: string, of: number): Value {
  return { left: { increased: counted(label, of) }, op: '>=', right: of };
}

/** Hands a width that is kept to the match that ends a pulse. */
export function putSteps({ writes, max }: Extract<Action, { do: 'load' }>, width: Kept): Step[] {
  const type = unsignedFor(max);
  const value: Value = width.type === type ? width : { as: type, value: width };
  return [
    { do: 'local', local: { local: 'compare', type }, value },
    { do: 'put', writes, name: 'compare' },
  ];
}
