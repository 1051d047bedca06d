import {
  evaluationMemory,
  evaluatePlan,
  type InterruptRow,
  printHz,
  printPercent,
  printSeconds,
  settingsOf,
  clockPath,
  simulatePlan,
  type StringWay,
  stringWaysOf,
} from '@herzschlag/core';
import { loadPlan } from '../plan.ts';
import { json, table } from '../table.ts';

/** What `hz interrupts` may be asked for. */
export type InterruptsOptions = { table?: boolean; seconds?: number; seed?: number };

/** The most events that one run of the command simulates. */
const MOST_EVENTS = 2_000_000;

function lengthText({ cycles: { min, max }, estimated }: InterruptRow): string {
  const length = min === max ? String(min) : `${min} to ${max}`;
  return estimated ? `${length} (estimate)` : length;
}

function rowText(row: InterruptRow): (string | number)[] {
  const { name, rateHz, priority, wait, share, lost, deadline } = row;
  return [
    name,
    rateHz === undefined ? '' : printHz(rateHz),
    lengthText(row),
    priority,
    printSeconds(wait.worstS),
    wait.boundS === undefined ? 'none' : printSeconds(wait.boundS),
    printPercent(share),
    lost,
    deadline ? printSeconds(deadline.limitS) : '',
    deadline?.verdict ?? '',
  ];
}

function wayText({ reason, share, frames, broken, others }: StringWay): string {
  if (reason !== undefined) return reason;
  const lost = others.reduce((sum, one) => sum + one.lost, 0);
  const worst = Math.max(0, ...others.map(({ worstWaitS }) => worstWaitS));
  return `${printPercent(share)} of the processor, ${broken} of ${frames} frames cut short, ${lost} other events lost, worst wait ${printSeconds(worst)}`;
}

/** What the interrupts of a plan meet: simulated for some seconds, with the bounds beside it. Fails where a deadline does. */
export async function interruptsCommand(
  file: string,
  { table: asTable = false, seconds = 1, seed = 1 }: InterruptsOptions,
): Promise<{ text: string; fails: boolean }> {
  const { plan, part } = await loadPlan(file);
  const path = clockPath(part, plan.clock);
  const memory = evaluationMemory();
  const settings = settingsOf(plan, part, path, memory);
  const { report } = simulatePlan(plan, part, path, settings, { seconds, seed, most: MOST_EVENTS });
  // The plan's own verdict counts too: a short simulation must not pass what `hz check` fails.
  const { interrupts } = evaluatePlan(plan, part, memory);
  const failing = report.rows.flatMap(({ deadline }) =>
    deadline?.verdict === 'fail' ? [deadline.sentence] : [],
  );
  const fails =
    failing.length > 0 ||
    report.stuck !== undefined ||
    interrupts.rows.some(({ deadline }) => deadline?.verdict === 'fail');
  const strings = plan.signals.flatMap(({ id, name }) => {
    const sent = stringWaysOf(plan, part, id);
    return sent ? [{ signal: id, name, ...sent }] : [];
  });
  if (!asTable) return { text: json({ ...report, edges: Object.fromEntries(report.edges), strings }), fails };
  const { main, seconds: simulated, stuck } = report;
  const header = [
    'interrupt',
    'rate',
    'cycles',
    'priority',
    'worst wait',
    'bound',
    'share',
    'lost',
    'deadline',
    'verdict',
  ];
  const lines = [
    `simulated ${printSeconds(simulated)}; main loop ${printPercent(main.share)}, without it for ${printSeconds(main.longestAbsenceS)} at ${printSeconds(main.absentAtS)}`,
    ...(stuck === undefined ? [] : [`The handler of ${stuck} runs for ever: its flag is never cleared.`]),
    ...failing,
    ...report.polls.map(({ name, sentence }) => `${name}: ${sentence}`),
    ...strings.flatMap(({ name, ways }) => ways.map((way) => `${name}, ${way.name}: ${wayText(way)}`)),
  ];
  return { text: [table(header, report.rows.map(rowText)), ...lines].join('\n'), fails };
}
