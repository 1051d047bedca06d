import { planDiff, type PlanDiff } from '@herzschlag/core';
import type { Printed } from '../command.ts';
import { loadPlan } from '../plan.ts';
import { json } from '../table.ts';

/** A text before and after, as lines of a patch. */
function both({ before, after }: { before?: string; after?: string }): string[] {
  return [...(before === undefined ? [] : [`- ${before}`]), ...(after === undefined ? [] : [`+ ${after}`])];
}

/** A difference as lines for people: what goes begins with a minus, what comes with a plus. */
function diffText({ plan, signals, registers, code, noCode, checks, passing }: PlanDiff): string {
  const sections = [
    ...plan.map(({ what, ...was }) => [`${what}:`, ...both(was)]),
    ...signals.map(({ name, target, setting }) => [
      `${name}:`,
      ...(target ? both(target) : []),
      ...(setting ? both(setting) : []),
    ]),
    ...(registers.length > 0
      ? [
          [
            'registers:',
            ...registers.map(
              ({ register, before = 'not written', after = 'not written' }) =>
                `  ${register} ${before} to ${after}`,
            ),
          ],
        ]
      : []),
    ...(noCode ? [['no code:', ...both(noCode)]] : []),
    ...code.map(({ name, gone, came }) => [`${name}: ${gone} lines go, ${came} come`]),
    ...(checks.length > 0
      ? [
          [
            'checks:',
            ...checks.map(
              ({ signal, check, before = 'none', after = 'none', worse }) =>
                `${worse ? '! ' : '  '}${signal} ${check}: ${before} to ${after}`,
            ),
          ],
        ]
      : []),
    [`checks that pass: ${passing.before} to ${passing.after}`],
  ];
  return sections.map((lines) => lines.join('\n')).join('\n\n');
}

/** What is different between two plan files; fails where a check or a conflict got worse. */
export async function diffCommand(
  before: string,
  after: string,
  options: { table?: boolean },
): Promise<Printed> {
  const diff = planDiff(await loadPlan(before), await loadPlan(after));
  return { text: options.table ? diffText(diff) : json(diff), fails: diff.worse };
}
