import type { Block, ReportDocument } from './document.ts';

const ESCAPES: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };

function plain(text: string): string {
  return text.replace(/[&<>"]/g, (sign) => ESCAPES[sign] ?? sign);
}

/** Its own colours and type, and a page of A4 with margins; no file beside it is needed. */
const STYLE = `
:root { color-scheme: light; }
body { font: 14px/1.45 system-ui, sans-serif; color: #1d2333; max-width: 780px; margin: 32px auto; padding: 0 20px; }
h1 { font: 600 28px/1.2 Georgia, serif; margin: 0 0 4px; }
h2 { font: 600 19px/1.3 Georgia, serif; margin: 28px 0 8px; border-bottom: 1px solid #d9d3c6; padding-bottom: 4px; }
h3 { font: 600 15px/1.3 Georgia, serif; margin: 20px 0 6px; }
p, ul { margin: 6px 0; }
table { border-collapse: collapse; margin: 8px 0; width: 100%; font-size: 12px; }
th { text-align: left; font-weight: 600; border-bottom: 1px solid #8a8371; padding: 3px 8px 3px 0; }
td { border-bottom: 1px solid #e8e3d8; padding: 3px 8px 3px 0; vertical-align: top; }
.number { text-align: right; font-variant-numeric: tabular-nums; white-space: nowrap; }
th.number { text-align: right; }
.verdict { font-weight: 600; }
.pass { color: #0d6f5a; }
.fail { color: #a8430a; }
svg { max-width: 100%; height: auto; display: block; margin: 8px 0; color: #bd1638; }
@page { size: A4; margin: 16mm 14mm; }
@media print {
  body { margin: 0; max-width: none; padding: 0; font-size: 11px; }
  table { font-size: 9.5px; }
  h2, h3 { break-after: avoid; }
  tr, svg { break-inside: avoid; }
}
`;

const VERDICTS = new Set(['pass', 'fail', 'unknown']);

function cell(tag: 'td' | 'th', text: string, at: number, numbers: readonly number[]): string {
  const names = [...(numbers.includes(at) ? ['number'] : []), ...(VERDICTS.has(text) ? [text] : [])];
  const named = names.length > 0 ? ` class="${names.join(' ')}"` : '';
  const scope = tag === 'th' ? ' scope="col"' : '';
  return `<${tag}${scope}${named}>${plain(text)}</${tag}>`;
}

function blockHtml(block: Block): string {
  if (block.is === 'text') return `<p>${plain(block.text)}</p>`;
  if (block.is === 'list') return `<ul>${block.items.map((item) => `<li>${plain(item)}</li>`).join('')}</ul>`;
  if (block.is === 'code') return `<pre>${plain(block.text)}</pre>`;
  if (block.is === 'picture') return `${block.svg}<p>${plain(block.text)}</p>`;
  const { head, rows, numbers = [] } = block;
  const top = head.map((text, at) => cell('th', text, at, numbers)).join('');
  const body = rows
    .map((row) => `<tr>${row.map((text, at) => cell('td', text, at, numbers)).join('')}</tr>`)
    .join('');
  return `<table><thead><tr>${top}</tr></thead><tbody>${body}</tbody></table>`;
}

/** A report as one HTML file that opens from disk and prints on A4. */
export function reportHtml({ title, about, verdict, passes, sections }: ReportDocument): string {
  const parts = sections.map(
    (section) =>
      `<h${section.level}>${plain(section.title)}</h${section.level}>\n${section.blocks.map(blockHtml).join('\n')}`,
  );
  return `<!DOCTYPE html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${plain(title)}</title>
<style>${STYLE}</style>
</head>
<body>
<h1>${plain(title)}</h1>
<p>${plain(about)}</p>
<p class="verdict ${passes ? 'pass' : 'fail'}">${plain(verdict)}</p>
${parts.join('\n')}
</body>
</html>
`;
}
