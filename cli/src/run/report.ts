import { fetchTrust, planReport, reportHtml, reportMarkdown } from '@herzschlag/core';
import { writeWhole } from '../files.ts';
import { loadPlan } from '../plan.ts';
import { UsageError } from '../usage-error.ts';

/**
 * A plan for a review: as Markdown, or written to a file whose ending says how, `.html` or `.md`. Says whether all checks
 * pass, too. @throws UsageError for another ending.
 */
export async function reportCommand(file: string, out: string | undefined): Promise<string> {
  const { plan, part } = await loadPlan(file);
  const report = planReport(plan, part, await fetchTrust(part));
  if (out === undefined) return reportMarkdown(report).trimEnd();
  const html = /\.html?$/i.test(out);
  if (!html && !/\.(?:md|markdown)$/i.test(out)) {
    throw new UsageError(`${out}: a report ends in .html or .md.`);
  }
  await writeWhole(out, html ? reportHtml(report) : reportMarkdown(report));
  return `${out}: ${report.verdict}`;
}
