import { channelOf, modeOf, timerOf } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import { isOutput, type Action } from '../timer/drives/index.ts';
import { plainWrites } from '../timer/fields.ts';
import { hasTimer, topRange, type OutputSetting, type TimerSetting } from '../timer/setting.ts';
import { actionSteps, countEnds, countPulse, counted, every, level, levelOf, putSteps } from './actions.ts';
import { identifier, labelsOf } from './names.ts';
import type { ProgramSequence, ProgramSignal } from './signal.ts';
import {
  either,
  unsignedFor,
  when,
  type Kept,
  type Local,
  type Routine,
  type State,
  type Step,
  type Table,
  type Unsigned,
  type Value,
} from './step.ts';

/** A signal that follows a sequence with a timer, and its label. */
export type Following = {
  label: string;
  setting: OutputSetting | TimerSetting;
  sequence: ProgramSequence;
};

/** The signals whose interrupts go through a table. */
export function followingOf(signals: readonly ProgramSignal[]): Following[] {
  const labels = labelsOf(signals);
  return signals.flatMap(({ name, setting, sequence }, at) =>
    sequence && hasTimer(setting) ? [{ label: labels[at] ?? identifier(name), setting, sequence }] : [],
  );
}

/** What the table says of each entry. */
type Member = 'periods' | 'compare' | 'top';

/** The type of a member of the table: that of its greatest value. */
function memberType({ setting, sequence }: Following, key: Member): Unsigned {
  const last = { periods: 1, top: setting.top, compare: sequence.rest }[key];
  return unsignedFor(Math.max(...sequence.entries.map((entry) => entry[key]), last));
}

/** The row of the table that comes next: one more than the rows stands for the last one. */
function rowOf({ label, sequence }: Following): Kept {
  return { kept: `${label}_next`, type: unsignedFor(sequence.entries.length) };
}

/** The periods that are left of the running row. */
function leftOf(following: Following): Kept {
  return { kept: `${following.label}_left`, type: memberType(following, 'periods') };
}

/** A member of the entry that comes next. */
function nextMember(following: Following, member: Member): Value {
  const { label } = following;
  return { table: `${label}_sequence`, row: rowOf(following), member, type: memberType(following, member) };
}

/** The type of the values that handlers take from the rows of a sequence. */
export function valueType({ rest, entries }: ProgramSequence): Unsigned {
  return unsignedFor(Math.max(rest, ...entries.map(({ compare }) => compare)));
}

/** The variable with the value of the running row, where the signal's own handlers take it. */
function highIn(label: string, sequence: ProgramSequence): Kept {
  return { kept: `${label}_high`, type: valueType(sequence) };
}

/** The steps that hand the values of an entry to the running timer, which takes them at the end of its period, or to the handlers. */
function loadSteps(part: Part, following: Following): Step[] {
  const { label, setting, sequence } = following;
  const timer = timerOf(part, setting.timer);
  const mode = modeOf(timer, setting.mode);
  const top: Local = { local: 'top', type: unsignedFor(topRange(mode).max) };
  const tops: Step[] = sequence.moves
    ? [
        { do: 'local', local: top, value: nextMember(following, 'top') },
        ...(mode.top.kind === 'register'
          ? [{ do: 'put', writes: mode.top.running ?? mode.top.writes, name: 'top' } as const]
          : []),
      ]
    : [];
  const value = nextMember(following, 'compare');
  if (!isOutput(setting)) return [{ do: 'set', to: highIn(label, sequence), value }, ...tops];
  const channel = channelOf(timer, setting.channel);
  if (sequence.gate) {
    // The match that toggles it is at the top.
    const match: Step[] = sequence.moves
      ? [
          { do: 'local', local: { local: 'compare', type: top.type }, value: top },
          { do: 'put', writes: channel.compare, name: 'compare' },
        ]
      : [];
    const { on, off } = sequence.gate;
    const change = (writes: typeof on): Step[] => [{ do: 'change', writes: plainWrites([writes]) }];
    return [...tops, ...match, either(value, change(on), change(off))];
  }
  return [
    { do: 'local', local: { local: 'compare', type: memberType(following, 'compare') }, value },
    ...tops,
    { do: 'put', writes: channel.running ?? channel.compare, name: 'compare' },
    ...(channel.commit ? [{ do: 'change', writes: plainWrites([channel.commit]) } as const] : []),
  ];
}

/** The table of a sequence: periods with the same values, one row after the other; in the last one the pin is low. */
export function tableOf(following: Following): Table {
  const { label, setting, sequence } = following;
  const { entries, rest, moves } = sequence;
  const ends = { periods: 1, top: setting.top, compare: rest };
  const names: Member[] = ['periods', 'compare', ...(moves ? (['top'] as const) : [])];
  return {
    name: `${label}_sequence`,
    says: 'Periods with the same values, one row after the other; in the last one the pin is low.',
    members: names.map((name) => ({ name, type: memberType(following, name) })),
    rows: [...entries, ends].map((entry) => names.map((name) => entry[name])),
  };
}

/** The variables of a sequence. */
export function sequenceVariables(following: Following): State[] {
  return [rowOf(following), leftOf(following)].map((kept) => ({ ...kept, initial: 0, shared: true }));
}

/** Whether starting calls the step of a sequence by itself, so that its first values wait for the end of the first period. */
function startsAtOnce({ tick, gate }: ProgramSequence): boolean {
  return tick !== undefined && gate === undefined;
}

/** What a sequence does at the end of a row, and the function that starts and ends it. */
export function sequenceRoutines(part: Part, following: Following): Routine[] {
  const { label, sequence } = following;
  const [row, left] = [rowOf(following), leftOf(following)];
  const last = sequence.entries.length;
  const on = { local: 'on', type: 'uint8_t' } as const;
  const more: Value = { as: row.type, value: { left: row, op: '+', right: 1 } };
  return [
    {
      name: `${label}_step`,
      inner: true,
      shared: startsAtOnce(sequence),
      steps: [
        ...loadSteps(part, following),
        { do: 'set', to: left, value: nextMember(following, 'periods') },
        when(
          { left: row, op: '!=', right: last },
          { do: 'set', to: row, value: more },
          ...(sequence.once
            ? []
            : [when({ left: row, op: '==', right: last }, { do: 'set', to: row, value: 0 })]),
        ),
      ],
    },
    {
      name: `${label}_play`,
      argument: on,
      steps: [
        {
          do: 'together',
          steps: [
            { do: 'set', to: row, value: { test: on, then: 0, else: last } },
            { do: 'set', to: left, value: 1 },
          ],
        },
      ],
    },
  ];
}

/** What the handler of the interrupt at the end of a period does for a sequence. */
function sequenceTick(following: Following): Step[] {
  const left = leftOf(following);
  return [
    { do: 'set', to: left, op: '-', value: 1 },
    when({ left, op: '==', right: 0 }, { do: 'call', routine: `${following.label}_step` }),
  ];
}

/** What the handler of an output's interrupt does for its sequence: a toggled output has two runs in a period. */
export function outputTick(following: Following): Step[] {
  const { label, sequence } = following;
  const tick = sequenceTick(following);
  if (!sequence.gate) return tick;
  return [{ do: 'set', to: levelOf(label), op: '^', value: 1 }, when({ not: levelOf(label) }, ...tick)];
}

/** What handlers keep of a signal that they make and that follows a sequence: low at first. */
export function sequenceStates(label: string, sequence: ProgramSequence, states: readonly State[]): State[] {
  if (sequence.gate) return [...states, { ...levelOf(label), initial: 0 }];
  if (sequence.tick) return [...states];
  const high = highIn(label, sequence);
  const others = states.filter(({ kept }) => kept !== high.kept);
  const shared = others.length < states.length;
  return [...others, { ...high, initial: sequence.rest, shared }];
}

/** What begins a pulse of a pair: its width as the match that ends it, and the pin high. */
function pulseSteps(part: Part, label: string, sequence: ProgramSequence, action: Action): Step[] {
  if (action.do !== 'load') return actionSteps(part, label, action);
  return putSteps(action, highIn(label, sequence));
}

/**
 * Actions of a handler as steps that follow a sequence: those that make a pulse look at its value before they put the pin high, and
 * the row changes where a period begins.
 */
export function followedSteps(part: Part, following: Following, actions: readonly Action[]): Step[] {
  const { label, sequence } = following;
  const tick = sequenceTick(following);
  const high = highIn(label, sequence);
  const begins = (action: Action): boolean => action.do === 'load' || (action.do === 'level' && action.high);
  const pulse = actions.filter(begins).flatMap((action) => pulseSteps(part, label, sequence, action));
  const others = actions.filter((action) => !begins(action));
  return [
    ...(pulse.length > 0 ? [...tick, when({ left: high, op: '!=', right: sequence.rest }, ...pulse)] : []),
    ...others.flatMap((action): Step[] => {
      if (action.do === 'toggle') {
        const on = when(high, level(part, action.pin, true));
        const off = [level(part, action.pin, false), ...tick];
        return every(label, action.every, [
          { do: 'set', to: levelOf(label), op: '^', value: 1 },
          either(levelOf(label), [on], off),
        ]);
      }
      if (action.do !== 'count') return actionSteps(part, label, action);
      return [
        ...countPulse(part, label, action, high),
        when(countEnds(label, action.of), { do: 'set', to: counted(label, action.of), value: 0 }, ...tick),
      ];
    }),
  ];
}

/** Steps that begin all sequences, once their timers run: the first values wait for the end of the first period. */
export function sequenceStart(signals: readonly ProgramSignal[]): Step[] {
  return followingOf(signals).flatMap((following): Step[] => [
    { do: 'set', to: rowOf(following), value: 0 },
    startsAtOnce(following.sequence)
      ? { do: 'call', routine: `${following.label}_step` }
      : { do: 'set', to: leftOf(following), value: 1 },
  ]);
}
