import { planOutcome } from '@herzschlag/core/outcome/outcome.ts';
import type { Check } from '@herzschlag/core/check/check.ts';
import { loadPlan } from './plan.ts';
import { json, table } from './table.ts';

type Row = { signal: string } & Omit<Check, 'property'> & { property: string };

/**
 * Every check of every signal. A signal without a chosen setting is checked with its best fit; one that nothing can
 * serve, and two that need one register differently, miss.
 */
export async function checkCommand(
  file: string,
  options: { table?: boolean },
): Promise<{ text: string; misses: boolean }> {
  const { plan, part } = await loadPlan(file);
  const { rows, conflicts } = planOutcome(plan, part);
  const checks = rows.flatMap(({ signal, outcome }): Row[] =>
    outcome
      ? outcome.checks.map((check) => ({ signal: signal.id, ...check }))
      : [
          {
            signal: signal.id,
            property: 'setting',
            unit: 'count',
            verdict: 'misses',
            note: 'No timer of the part can serve this signal.',
          },
        ],
  );
  const misses = checks.some((check) => check.verdict === 'misses') || conflicts.length > 0;
  if (!options.table) return { text: json({ checks, conflicts }), misses };
  const number = (value: number | undefined): string =>
    value === undefined ? '' : String(Number(value.toPrecision(9)));
  const text = table(
    ['signal', 'property', 'value', 'low', 'high', 'margin', 'verdict'],
    checks.map((one) => [
      one.signal,
      one.property,
      number(one.value),
      number(one.low),
      number(one.high),
      number(one.margin),
      one.verdict,
    ]),
  );
  return { text: [text, ...conflicts.map(({ sentence }) => sentence)].join('\n'), misses };
}
