import type { PlanCodeOptions } from '../evaluate/code.ts';
import { planWorkspace } from '../evaluate/workspace.ts';
import type { Trust } from '../part/trust.ts';
import type { Part } from '../part/types.ts';
import { planFileName, type Plan } from '../plan/plan.ts';
import { writePlan } from '../plan/write-plan.ts';
import { planReport } from '../report/sections.ts';
import { reportHtml } from '../report/html.ts';
import { reportMarkdown } from '../report/markdown.ts';
import { type ArchiveFile, textFile, writeArchive } from './archive.ts';

/**
 * Everything of a plan as one ZIP archive: its file, the code as it is handed over, the report in both forms, and what is put beside it, such
 * as a capture. The same plan gives the same bytes.
 */
export function planArchive(
  plan: Plan,
  part: Part,
  trust: Trust,
  options: PlanCodeOptions = {},
  beside: readonly ArchiveFile[] = [],
): Uint8Array {
  const report = planReport(plan, part, trust);
  const { files } = planWorkspace(plan, part, options);
  return writeArchive([
    textFile(planFileName(plan), writePlan(plan)),
    ...files.map(({ name, text }) => textFile(`code/${name}`, text)),
    textFile('report.html', reportHtml(report)),
    textFile('report.md', reportMarkdown(report)),
    ...beside,
  ]);
}
