import { channelOf, modeOf, timerOf } from '../part/find.ts';
import { tablesOf } from '../part/tables.ts';
import type { Part } from '../part/types.ts';
import { isOutput, type Action } from '../timer/drives/index.ts';
import { hasTimer, topRange, type OutputSetting, type TimerSetting } from '../timer/setting.ts';
import { actionLines, block, either, every, high, indented, low, type State } from './action-lines.ts';
import { identifier, labelsOf, type CodeSignal, type CodeSequence } from './names.ts';
import { unsignedFor } from './setters.ts';
import { changes, keptTogether, plainWrites, variableStores } from './statement.ts';

/** A signal that follows a sequence, with its label. */
type Following = { label: string; setting: OutputSetting | TimerSetting; sequence: CodeSequence };

function followingOf(signals: readonly CodeSignal[]): Following[] {
  const labels = labelsOf(signals);
  return signals.flatMap(({ name, setting, sequence }, at) =>
    sequence && hasTimer(setting) ? [{ label: labels[at] ?? identifier(name), setting, sequence }] : [],
  );
}

/** What the table says of each entry. */
type Member = 'periods' | 'compare' | 'top';

/** The type of a member of the table: that of its greatest value. */
function memberType({ setting, sequence }: Following, key: Member): string {
  const last = { periods: 1, top: setting.top, compare: sequence.rest }[key];
  return unsignedFor(Math.max(...sequence.entries.map((entry) => entry[key]), last));
}

/** A member of the entry that comes next, as an expression. */
function nextMember(part: Part, following: Following, key: Member): string {
  const { label } = following;
  const bits = Number(/\d+/.exec(memberType(following, key))?.[0]);
  return tablesOf(part.code).read(bits, `${label}_sequence[${label}_next].${key}`);
}

/** The statements that hand the values of an entry to the running timer, which takes them at the end of its period, or to the handlers. */
function loadLines(part: Part, following: Following): string[] {
  const { label, setting, sequence } = following;
  const timer = timerOf(part, setting.timer);
  const { top } = modeOf(timer, setting.mode);
  const type = unsignedFor(topRange(modeOf(timer, setting.mode)).max);
  const tops = sequence.moves
    ? [
        `${type} top = ${nextMember(part, following, 'top')};`,
        ...(top.kind === 'register' ? variableStores(part, top.running ?? top.writes, 'top') : []),
      ]
    : [];
  const value = nextMember(part, following, 'compare');
  if (!isOutput(setting)) return [`${label}_high = ${value};`, ...tops];
  if (sequence.gate) {
    const { compare } = channelOf(timer, setting.channel);
    // The match that toggles it is at the top.
    const match = sequence.moves
      ? [`${type} compare = top;`, ...variableStores(part, compare, 'compare')]
      : [];
    const [on, off] = [sequence.gate.on, sequence.gate.off].map((writes) =>
      changes(part, plainWrites([writes])),
    );
    return [...tops, ...match, ...either(value, on ?? [], off ?? [])];
  }
  const channel = channelOf(timer, setting.channel);
  return [
    `${memberType(following, 'compare')} compare = ${value};`,
    ...tops,
    ...variableStores(part, channel.running ?? channel.compare, 'compare'),
    ...(channel.commit ? changes(part, plainWrites([channel.commit])) : []),
  ];
}

function tableLines(part: Part, following: Following): string[] {
  const { label, setting, sequence } = following;
  const { entries, rest, moves } = sequence;
  const ends = { periods: 1, top: setting.top, compare: rest };
  const type = (key: Member): string => memberType(following, key);
  const fields = [
    `${type('periods')} periods;`,
    `${type('compare')} compare;`,
    ...(moves ? [`${type('top')} top;`] : []),
  ];
  const row = ({ periods, top, compare }: CodeSequence['entries'][number]): string =>
    `{ ${[periods, compare, ...(moves ? [top] : [])].map((value) => `${value}u`).join(', ')} },`;
  return [
    '/* Periods with the same values, one row after the other; in the last one the pin is low. */',
    `static const struct { ${fields.join(' ')} } ${label}_sequence[]${tablesOf(part.code).mark} = {`,
    ...indented([...entries, ends].map(row)),
    '};',
  ];
}

/** Tables and state machines of all sequences. */
export function sequenceLines(part: Part, signals: readonly CodeSignal[]): string[] {
  return followingOf(signals).flatMap((following) => {
    const { label, sequence } = following;
    const low = sequence.entries.length;
    return [
      ...tableLines(part, following),
      `static volatile uint16_t ${label}_next;`,
      `static volatile uint32_t ${label}_left;`,
      '',
      `static void ${label}_step(void)`,
      '{',
      ...indented([
        ...loadLines(part, following),
        `${label}_left = ${nextMember(part, following, 'periods')};`,
        `if (${label}_next != ${low}u) {`,
        ...indented([
          `${label}_next = (uint16_t)(${label}_next + 1u);`,
          ...(sequence.once ? [] : [`if (${label}_next == ${low}u) ${label}_next = 0u;`]),
        ]),
        '}',
      ]),
      '}',
      '',
      `void ${label}_play(uint8_t on)`,
      '{',
      ...indented(keptTogether(part, [`${label}_next = on ? 0u : ${low}u;`, `${label}_left = 1u;`])),
      '}',
      '',
    ];
  });
}

/** What the handler of the interrupt at the end of a period does for a sequence. */
function sequenceTick(label: string): string[] {
  return [`${label}_left -= 1u;`, `if (${label}_left == 0u) ${label}_step();`];
}

/** What the handler of an output's interrupt does for its sequence: a toggled output has two runs in a period. */
export function outputTick(label: string, { gate }: CodeSequence): string[] {
  const tick = sequenceTick(label);
  return gate ? [`${label}_level ^= 1u;`, ...block(`if (!${label}_level) {`, tick)] : tick;
}

/** The type of the values that handlers take from the rows of a sequence. */
export function valueType({ rest, entries }: CodeSequence): string {
  return unsignedFor(Math.max(rest, ...entries.map(({ compare }) => compare)));
}

/** What handlers keep of a signal that they make and that follows a sequence: low at first. */
export function sequenceStates(label: string, sequence: CodeSequence, states: readonly State[]): State[] {
  if (sequence.gate) return [...states, { type: 'uint8_t', name: `${label}_level` }];
  if (sequence.tick) return [...states];
  const name = `${label}_high`;
  const others = states.filter((state) => state.name !== name);
  const shared = others.length < states.length;
  return [...others, { type: valueType(sequence), name, initial: sequence.rest, shared }];
}

/** What begins a pulse of a pair: its width as the match that ends it, and the pin high. */
function pulseLines(part: Part, label: string, sequence: CodeSequence, action: Action): string[] {
  if (action.do !== 'load') return actionLines(part, label, action);
  const type = unsignedFor(action.max);
  const cast = type === valueType(sequence) ? '' : `(${type})`;
  return [`${type} compare = ${cast}${label}_high;`, ...variableStores(part, action.writes, 'compare')];
}

/**
 * Actions of a handler as statements that follow a sequence: those that make a pulse look at its value before they put the pin high, and
 * the row changes where a period begins.
 */
export function followedLines(
  part: Part,
  label: string,
  sequence: CodeSequence,
  actions: readonly Action[],
): string[] {
  const tick = sequenceTick(label);
  const begins = (action: Action): boolean => action.do === 'load' || (action.do === 'level' && action.high);
  const pulse = actions.filter(begins).flatMap((action) => pulseLines(part, label, sequence, action));
  const others = actions.filter((action) => !begins(action));
  return [
    ...(pulse.length > 0 ? [...tick, ...block(`if (${label}_high != ${sequence.rest}u) {`, pulse)] : []),
    ...others.flatMap((action): string[] => {
      if (action.do === 'toggle') {
        const on = block(`if (${label}_high) {`, high(part, action.pin));
        const off = [...low(part, action.pin), ...tick];
        return every(label, action.every, [`${label}_level ^= 1u;`, ...either(`${label}_level`, on, off)]);
      }
      if (action.do !== 'count') return actionLines(part, label, action);
      return [
        ...either(`${label}_count < ${label}_high`, high(part, action.pin), low(part, action.pin)),
        ...block(`if (++${label}_count >= ${action.of}u) {`, [`${label}_count = 0;`, ...tick]),
      ];
    }),
  ];
}

/** Statements that begin all sequences, once their timers run: the first values wait for the end of the first period. */
export function sequenceStart(signals: readonly CodeSignal[]): string[] {
  return followingOf(signals).flatMap(({ label, sequence }) => [
    `${label}_next = 0;`,
    sequence.tick && !sequence.gate ? `${label}_step();` : `${label}_left = 1u;`,
  ]);
}

/** What the header says of a signal that follows a sequence. */
export function sequenceDeclaration(label: string): string[] {
  return [
    '/* Starts the sequence anew at the end of the running period; with 0 it ends there and the pin stays low. */',
    `void ${label}_play(uint8_t on);`,
  ];
}
