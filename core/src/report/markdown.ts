import type { Block, ReportDocument } from './document.ts';

/** A text that Markdown takes as it is. */
function plain(text: string): string {
  return text.replace(/[\\`*_[\]<>|#]/g, '\\$&').replace(/\n/g, ' ');
}

function row(cells: readonly string[]): string {
  return `| ${cells.map(plain).join(' | ')} |`;
}

function blockText(block: Block): string {
  if (block.is === 'text') return plain(block.text);
  if (block.is === 'list') return block.items.map((item) => `- ${plain(item)}`).join('\n');
  if (block.is === 'code') return `\`\`\`\n${block.text}\n\`\`\``;
  if (block.is === 'picture') return plain(block.text);
  const { head, rows, numbers = [] } = block;
  const rule = head.map((_, at) => (numbers.includes(at) ? '---:' : '---'));
  return [row(head), `| ${rule.join(' | ')} |`, ...rows.map(row)].join('\n');
}

/** A report as Markdown, for a review in text; pictures are said in words. */
export function reportMarkdown({ title, about, verdict, sections }: ReportDocument): string {
  const parts = sections.flatMap((section) => [
    `${'#'.repeat(section.level)} ${plain(section.title)}`,
    ...section.blocks.map(blockText),
  ]);
  return `${[`# ${plain(title)}`, plain(about), `**${plain(verdict)}**`, ...parts].join('\n\n')}\n`;
}
