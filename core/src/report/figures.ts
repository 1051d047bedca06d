import { clockPath } from '../clock/path.ts';
import type { EvaluatedSignal } from '../evaluate/evaluate.ts';
import { knobReport } from '../evaluate/knob.ts';
import { signalSurroundings } from '../evaluate/surroundings.ts';
import type { Part } from '../part/types.ts';
import type { Plan } from '../plan/plan.ts';
import { printCount, printNumber } from '../quantity/print.ts';
import { deviations, seenText, setText } from '../readings/readings.ts';
import { isInput } from '../timer/drives/index.ts';
import { knobSvg, landscapeSvg, readingsSvg } from './charts.ts';
import type { Block } from './document.ts';

/** The settings among which that of a signal was chosen. */
function landscapeBlocks({ signal, outcome }: EvaluatedSignal, plan: Plan, part: Part): Block[] {
  if (!outcome || isInput(outcome.setting)) return [];
  const around = signalSurroundings(plan, part, signal);
  const { points, height } = around.landscape;
  if (points.length === 0) return [];
  const chosen = {
    bits: outcome.bits,
    height: height === 'error' ? Math.abs(outcome.errorPpm ?? 0) : outcome.frequencyHz,
  };
  const meeting = points.filter(({ meets }) => meets).length;
  return [
    {
      is: 'picture',
      svg: landscapeSvg(around, chosen),
      text: `${printCount(around.considered)} settings were looked at; drawn are ${printNumber(points.length)}, of which ${printNumber(meeting)} meet the target, the chosen one filled.`,
    },
  ];
}

/** What a knob of the signal gives over its turn. */
function knobBlocks({ signal, outcome }: EvaluatedSignal, plan: Plan, part: Part): Block[] {
  const { knob } = signal;
  if (!knob || !outcome) return [];
  const report = knobReport(part, clockPath(part, plan.clock), signal, knob, outcome.setting);
  if (!report.ok) return [{ is: 'text', text: `Knob: ${report.fault.sentence}` }];
  return [{ is: 'picture', svg: knobSvg(knob, report.value), text: `Knob: ${report.value.sentence}` }];
}

/** What was read on the bench. */
function readingBlocks({ signal: { readings } }: EvaluatedSignal): Block[] {
  if (!readings || readings.points.length === 0) return [];
  const { each, greatest } = deviations(readings);
  const drawn: Block[] =
    readings.points.length > 1
      ? [
          {
            is: 'picture',
            svg: readingsSvg(readings),
            text: `Readings from the bench, off a straight line by ${seenText(readings, greatest, 3)} at most.`,
          },
        ]
      : [];
  return [
    ...drawn,
    {
      is: 'table',
      head: ['set', 'seen', 'off the line', 'note'],
      rows: readings.points.map(({ set, seen, note }, at) => [
        setText(readings.of, set),
        seenText(readings, seen),
        seenText(readings, each[at] ?? 0, 3),
        note ?? '',
      ]),
      numbers: [0, 1, 2],
    },
  ];
}

/** What a report shows of a signal besides its numbers: the settings that there are, the curve of its knob, its readings. */
export function figureBlocks(row: EvaluatedSignal, plan: Plan, part: Part): Block[] {
  return [...landscapeBlocks(row, plan, part), ...knobBlocks(row, plan, part), ...readingBlocks(row)];
}
