import { channelOf, modeOf, timerOf } from '../part/find.ts';
import { tablesOf } from '../part/tables.ts';
import type { Part } from '../part/types.ts';
import { isOutput } from '../timer/drives/index.ts';
import { topRange, type OutputSetting } from '../timer/setting.ts';
import { indented } from './action-lines.ts';
import { identifier, labelsOf, type CodeSignal, type Course } from './names.ts';
import { unsignedFor } from './setters.ts';
import { changes, plainWrites, variableStores } from './statement.ts';

/** A signal that follows a sequence, with its label. */
type Following = { label: string; setting: OutputSetting; course: Course };

function followingOf(signals: readonly CodeSignal[]): Following[] {
  const labels = labelsOf(signals);
  return signals.flatMap(({ name, setting, course }, at) =>
    course && isOutput(setting) ? [{ label: labels[at] ?? identifier(name), setting, course }] : [],
  );
}

/** What the table says of each entry. */
type Member = 'periods' | 'compare' | 'top';

/** The type of a member of the table: that of its greatest value. */
function memberType({ setting, course }: Following, key: Member): string {
  const last = { periods: 1, top: setting.top, compare: course.rest }[key];
  return unsignedFor(Math.max(...course.entries.map((entry) => entry[key]), last));
}

/** A member of the entry that comes next, as an expression. */
function nextMember(part: Part, following: Following, key: Member): string {
  const { label } = following;
  const bits = Number(/\d+/.exec(memberType(following, key))?.[0]);
  return tablesOf(part.code).read(bits, `${label}_course[${label}_next].${key}`);
}

/** The statements that hand the values of an entry to the running timer, which takes them at the end of its period. */
function loadLines(part: Part, following: Following): string[] {
  const { setting, course } = following;
  const timer = timerOf(part, setting.timer);
  const { top } = modeOf(timer, setting.mode);
  const channel = channelOf(timer, setting.channel);
  const tops =
    course.moves && top.kind === 'register'
      ? [
          `${unsignedFor(topRange(modeOf(timer, setting.mode)).max)} top = ${nextMember(part, following, 'top')};`,
          ...variableStores(part, top.running ?? top.writes, 'top'),
        ]
      : [];
  return [
    `${memberType(following, 'compare')} compare = ${nextMember(part, following, 'compare')};`,
    ...tops,
    ...variableStores(part, channel.running ?? channel.compare, 'compare'),
    ...(channel.commit ? changes(part, plainWrites([channel.commit])) : []),
  ];
}

function tableLines(part: Part, following: Following): string[] {
  const { label, setting, course } = following;
  const { entries, rest, moves } = course;
  const ends = { periods: 1, top: setting.top, compare: rest };
  const type = (key: Member): string => memberType(following, key);
  const fields = [
    `${type('periods')} periods;`,
    `${type('compare')} compare;`,
    ...(moves ? [`${type('top')} top;`] : []),
  ];
  const row = ({ periods, top, compare }: Course['entries'][number]): string =>
    `{ ${[periods, compare, ...(moves ? [top] : [])].map((value) => `${value}u`).join(', ')} },`;
  return [
    '/* Periods with the same values, one row after the other; in the last one the pin is low. */',
    `static const struct { ${fields.join(' ')} } ${label}_course[]${tablesOf(part.code).mark} = {`,
    ...indented([...entries, ends].map(row)),
    '};',
  ];
}

/** Tables and state machines of all sequences. */
export function courseLines(part: Part, signals: readonly CodeSignal[]): string[] {
  return followingOf(signals).flatMap((following) => {
    const { label, course } = following;
    const low = course.entries.length;
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
          ...(course.once ? [] : [`if (${label}_next == ${low}u) ${label}_next = 0u;`]),
        ]),
        '}',
      ]),
      '}',
      '',
      `void ${label}_play(uint8_t on)`,
      '{',
      ...indented([`${label}_next = on ? 0u : ${low}u;`, `${label}_left = 1u;`]),
      '}',
      '',
    ];
  });
}

/** What the handler of the interrupt at the end of a period does for a sequence. */
export function courseTick(label: string): string[] {
  return [`${label}_left -= 1u;`, `if (${label}_left == 0u) ${label}_step();`];
}

/** Statements that begin all sequences, once their timers run: the first values wait for the end of the first period. */
export function courseStart(signals: readonly CodeSignal[]): string[] {
  return followingOf(signals).flatMap(({ label }) => [`${label}_next = 0;`, `${label}_step();`]);
}

/** What the header says of a signal that follows a sequence. */
export function courseDeclaration(label: string): string[] {
  return [
    '/* Starts the sequence anew at the end of the running period; with 0 it ends there and the pin stays low. */',
    `void ${label}_play(uint8_t on);`,
  ];
}
