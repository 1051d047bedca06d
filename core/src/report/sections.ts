import { clockPath, clockPhrase } from '../clock/path.ts';
import type { Check } from '../check/check.ts';
import { startupNeeds } from '../codegen/clock-lines.ts';
import { evaluatePlan, settingsOf, type EvaluatedSignal, type Evaluation } from '../evaluate/evaluate.ts';
import { evaluationMemory, type EvaluationMemory } from '../evaluate/memory.ts';
import { planProgram } from '../evaluate/program.ts';
import type { Part } from '../part/types.ts';
import type { Trust } from '../part/trust.ts';
import { pinName } from '../plan/pin-names.ts';
import type { Plan } from '../plan/plan.ts';
import { hex, printHz, printNumber, printPercent, printSeconds, printUnit } from '../quantity/print.ts';
import { phaseText, sequenceText } from '../signal/sequence-text.ts';
import { sentenceText } from '../signal/sentence.ts';
import { firstEdgeText, oppositeText } from '../signal/timing-text.ts';
import { rungText } from '../timer/rungs.ts';
import type { Block, ReportDocument, Section } from './document.ts';
import { figureBlocks } from './figures.ts';
import { waveSvg } from './wave-svg.ts';

const PRINT: Record<Check['unit'], (value: number) => string> = {
  Hz: (value) => printHz(value, 8),
  s: printSeconds,
  fraction: (value) => printPercent(value, 5),
  count: (value) => printNumber(value, 9),
  V: (value) => printUnit(value, 'V'),
  A: (value) => printUnit(value, 'A'),
  '°': (value) => `${printNumber(value, 4)}°`,
};

function checkRow({ property, label, unit, value, low, high, margin, verdict, note }: Check): string[] {
  const print = (one: number | undefined): string => (one === undefined ? '' : PRINT[unit](one));
  return [label ?? property, print(value), print(low), print(high), print(margin), verdict, note ?? ''];
}

const CHECK_HEAD = ['check', 'value', 'least', 'most', 'margin', 'verdict', ''];

/** What is asked of a signal, in sentences. */
function wishesOf({ signal }: EvaluatedSignal, plan: Plan): string[] {
  const nameOf = (id: string): string => plan.signals.find((one) => one.id === id)?.name ?? id;
  return [
    sentenceText(signal, (pin) => pinName(plan, pin)),
    ...(signal.sequence ? [`Sequence: ${sequenceText(signal.sequence)}.`] : []),
    ...(signal.phase ? [`Phase: ${phaseText(signal.phase, nameOf)}.`] : []),
    ...(signal.complement ? [`Opposite: ${oppositeText(signal.complement)}.`] : []),
    ...(signal.firstEdgeS === undefined ? [] : [`First edge: ${firstEdgeText(signal.firstEdgeS)}.`]),
  ];
}

/** One signal: its target, where and how it is made, its numbers from the clock down, its picture, its checks, its load. */
function signalSection(row: EvaluatedSignal, plan: Plan, part: Part): Section {
  const { signal, outcome, conflicts } = row;
  const wishes: Block[] = wishesOf(row, plan).map((text) => ({ is: 'text', text }));
  if (!outcome) {
    const none: Block = { is: 'text', text: 'Nothing on the part makes this signal as it is set.' };
    return { title: signal.name, level: 3, blocks: [...wishes, none] };
  }
  const { place, ladder, checks, slips, load, wave } = outcome;
  const mode = place.mode === undefined ? '' : `, ${place.mode}`;
  const warned = slips.filter(({ warns }) => warns).map(({ title, text }) => `${title} ${text}`);
  const blocks: Block[] = [
    ...wishes,
    { is: 'text', text: `Made by ${place.text}${mode}.` },
    {
      is: 'table',
      head: ['step', 'formula', 'result'],
      rows: ladder.map((rung) => [
        rung.label,
        rungText(rung),
        rung.id === 'compare' ? printPercent(outcome.duty, 6) : printHz(rung.hz, 9),
      ]),
      numbers: [2],
    },
    {
      is: 'picture',
      svg: waveSvg(wave),
      text: `${printHz(outcome.frequencyHz, 9)}, ${printPercent(outcome.duty, 6)} high`,
    },
    { is: 'table', head: CHECK_HEAD, rows: checks.map(checkRow), numbers: [1, 2, 3, 4] },
    ...(conflicts.length > 0
      ? [{ is: 'text', text: 'It is in conflict with another signal, see above.' } as const]
      : []),
    ...(warned.length > 0 ? [{ is: 'list', items: warned } as const] : []),
    ...(load
      ? [
          {
            is: 'text',
            text: `On the pin: ${load.headline}${load.aside === undefined ? '' : `, ${load.aside}`}.`,
          } as const,
          {
            is: 'table',
            head: ['of the load', ''],
            rows: load.facts.map(({ label, text }) => [label, text]),
          } as const,
          ...(load.advice.length > 0 ? [{ is: 'list', items: load.advice } as const] : []),
        ]
      : []),
    ...figureBlocks(row, plan, part),
  ];
  return { title: signal.name, level: 3, blocks };
}

function verdictSection({ conflicts, failures }: Evaluation): Section {
  // Each signal of a conflict fails by it; it is said once.
  const known = new Set(conflicts.map(({ sentence }) => sentence));
  const items = [
    ...conflicts.map(({ sentence }) => `Conflict: ${sentence}`),
    ...failures
      .filter(({ text }) => !known.has(text))
      .map(({ name, text }) => `${name}: ${text.replace(/\.$/, '')}.`),
  ];
  const blocks: Block[] =
    items.length > 0
      ? [{ is: 'list', items }]
      : [{ is: 'text', text: 'All checks pass, and no two signals are in conflict.' }];
  return { title: 'Verdict', level: 2, blocks };
}

function interruptSection({ interrupts: { rows, utilisation } }: Evaluation): Section[] {
  if (rows.length === 0) return [];
  const time = (value: number | undefined): string =>
    value === undefined ? 'no bound' : printSeconds(value, 4);
  const table: Block = {
    is: 'table',
    head: [
      'interrupt',
      'a second',
      'cycles',
      'longest wait seen',
      'bound of the wait',
      'priority',
      'deadline',
    ],
    rows: rows.map((row) => [
      row.name,
      row.rateHz === undefined ? '' : printNumber(row.rateHz, 6),
      row.cycles.min === row.cycles.max
        ? printNumber(row.cycles.max)
        : `${printNumber(row.cycles.min)} to ${printNumber(row.cycles.max)}`,
      time(row.wait.worstS),
      time(row.wait.boundS),
      printNumber(row.priority),
      row.deadline ? `${row.deadline.verdict}: ${row.deadline.sentence}` : '',
    ]),
    numbers: [1, 2, 3, 4, 5],
  };
  return [
    {
      title: 'Interrupts',
      level: 2,
      blocks: [{ is: 'text', text: `They take ${printPercent(utilisation, 4)} of the processor.` }, table],
    },
  ];
}

function registerSection({ registers }: Evaluation): Section[] {
  if (registers.length === 0) return [];
  const rows = registers.map(({ name, address, width, value, fields }) => [
    name,
    hex(address, 32),
    hex(value, width),
    fields.flatMap(({ field, value: one }) => (field === null ? [] : [`${field} ${one}`])).join(', '),
  ]);
  return [
    {
      title: 'Registers',
      level: 2,
      blocks: [{ is: 'table', head: ['register', 'address', 'value', 'fields'], rows, numbers: [1, 2] }],
    },
  ];
}

/** What the numbers rest on: the clock, what start-up code must do, what the program leaves out, and how far the data is confirmed. */
function groundSection(plan: Plan, part: Part, memory: EvaluationMemory, trust: Trust | undefined): Section {
  const path = clockPath(part, plan.clock);
  const settings = settingsOf(plan, part, path, memory);
  const { signals, leftOut } = planProgram(plan, part, path, settings);
  const needs = startupNeeds(part, path, signals);
  const said = [...needs.fixed, ...needs.clocks, ...needs.interrupts].filter(Boolean);
  const confirmed = trust
    ? [
        `Independent sources confirm ${trust.confirmed} of ${trust.items} addresses and fields of the data${trust.confirmed === trust.items ? '' : '; compare the others with the datasheet'}.`,
      ]
    : [];
  return {
    title: 'What this rests on',
    level: 2,
    blocks: [
      { is: 'text', text: `Processor clock: ${clockPhrase(path, part.cpu.clock)}.` },
      ...(said.length > 0
        ? [
            { is: 'text', text: 'Start-up code must have done this before:' } as const,
            { is: 'list', items: said } as const,
          ]
        : []),
      ...(leftOut.length > 0
        ? [
            { is: 'text', text: 'Not in the generated code:' } as const,
            { is: 'list', items: leftOut.map(({ text }) => text) } as const,
          ]
        : []),
      {
        is: 'list',
        items: [
          `Register data of ${part.name}: ${part.source}.`,
          ...confirmed,
          ...(part.leftOut ?? []).map((text) => `Not in the data: ${text}.`),
        ],
      },
    ],
  };
}

/**
 * A plan for a review: verdict, every signal with its target, its numbers, its picture and its checks, interrupts, registers, and
 * what it all rests on. The same plan gives the same document.
 */
export function planReport(
  plan: Plan,
  part: Part,
  trust?: Trust,
  memory = evaluationMemory(),
): ReportDocument {
  const evaluation = evaluatePlan(plan, part, memory);
  const { passing, total, failures, conflicts, clockLine } = evaluation;
  const passes = failures.length === 0 && conflicts.length === 0;
  return {
    title: plan.name,
    about: `${part.name}: ${clockLine}`,
    verdict: `${passing} of ${total} checks pass${conflicts.length > 0 ? `, ${conflicts.length} conflicts` : ''}.`,
    passes,
    sections: [
      verdictSection(evaluation),
      { title: 'Signals', level: 2, blocks: [] },
      ...evaluation.signals.map((row) => signalSection(row, plan, part)),
      ...interruptSection(evaluation),
      ...registerSection(evaluation),
      groundSection(plan, part, memory, trust),
    ],
  };
}
