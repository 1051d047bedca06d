import type { SignalEvaluation } from '../evaluate/signal.ts';
import { pinName } from '../plan/pin-names.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { hex, printHz, printPercent } from '../quantity/print.ts';
import { sentenceText } from '../signal/sentence.ts';
import { rungText } from '../timer/rungs.ts';

/** Numbers for people have thin and fixed spaces; in a comment for a review plain ones are safer. */
function plain(text: string): string {
  return text.replace(/[\u00a0\u202f]/g, ' ');
}

/** Cells in columns of one width each, without spaces at the ends of lines. */
function columns(rows: readonly (readonly string[])[]): string[] {
  const widths = (rows[0] ?? []).map((_, at) => Math.max(...rows.map((row) => row[at]?.length ?? 0)));
  return rows.map((row) =>
    row
      .map((cell, at) => cell.padEnd(widths[at] ?? 0))
      .join('  ')
      .trimEnd(),
  );
}

/** How a signal is derived, from the oscillator down to the pin, as plain text for a review comment. */
export function derivationText(plan: Plan, signal: PlanSignal, outcome: SignalEvaluation): string {
  const { place, ladder, checks } = outcome;
  const rows = ladder.map(({ id, label, before, value, after, hz, register }) => [
    label,
    rungText({ before, after, ...(value === undefined ? {} : { value }) }),
    id === 'compare' ? printPercent(outcome.duty, 6) : printHz(hz, 9),
    register === undefined
      ? ''
      : 'text' in register
        ? register.text
        : `${register.name} = ${hex(register.value, register.width)}`,
  ]);
  const failing = checks.filter(({ verdict }) => verdict !== 'pass');
  const verdict =
    failing.length === 0
      ? `${checks.length} of ${checks.length} checks pass.`
      : `${checks.length - failing.length} of ${checks.length} checks pass; not: ${failing.map(({ label, property, note }) => `${label ?? property}${note === undefined ? '' : ` (${note})`}`).join(', ')}.`;
  const lines = [
    sentenceText(signal, (pin) => pinName(plan, pin)),
    [place.text, place.mode].filter((text) => text !== undefined && text !== '').join(', '),
    ...columns(rows),
    verdict,
  ];
  return `${lines.map(plain).join('\n')}\n`;
}
