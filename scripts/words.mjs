import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import ts from 'typescript';
import { ROOT } from './lib.mjs';

/** The table of words of CONTRIBUTING.md: expressions for what is not written, and what is instead. */
export function wordList(page) {
  const section = page.slice(page.indexOf('## Words'), page.indexOf('## Style'));
  return [...section.matchAll(/^\| (.+?) *\| (.+?) *\|$/gm)]
    .map(([, bad, good]) => ({ bad, good }))
    .filter(({ bad }) => bad !== 'not' && !/^-+$/.test(bad))
    .flatMap(({ bad, good }) => alternatives(bad).map((text) => ({ text, good, pattern: patternOf(text) })));
}

/** "is no number / time" is two: a lone word after the stroke replaces the last one before it. */
function alternatives(cell) {
  const [first, ...others] = cell.split(' / ');
  const stem = first.split(' ').slice(0, -1).join(' ');
  return [first, ...others.map((one) => (one.includes(' ') || stem === '' ? one : `${stem} ${one}`))];
}

function patternOf(text) {
  const words = text.split(' ').map((word) => (word === '…' ? '\\S+' : word));
  return new RegExp(`\\b${words.join('(?:\\s|\\*)+')}\\b`, 'gi');
}

const TEXT = new Set([
  ts.SyntaxKind.StringLiteral,
  ts.SyntaxKind.NoSubstitutionTemplateLiteral,
  ts.SyntaxKind.TemplateHead,
  ts.SyntaxKind.TemplateMiddle,
  ts.SyntaxKind.TemplateTail,
  ts.SyntaxKind.JsxText,
]);
const COMMENT = /\/\*[\s\S]*?\*\/|(?<!:)\/\/[^\n]*/g;

/** The strings and comments of a source file, each with where it begins. */
function textsOf(file, source) {
  const tree = ts.createSourceFile(file, source, ts.ScriptTarget.Latest, true);
  const found = [];
  const visit = (node) => {
    if (TEXT.has(node.kind)) found.push({ text: node.getText(tree), from: node.getStart(tree) });
    ts.forEachChild(node, visit);
  };
  visit(tree);
  for (const match of source.matchAll(COMMENT)) found.push({ text: match[0], from: match.index });
  return found;
}

/** What of a file is not written as the list says, a line each. */
export function wordFaults(file, source, list) {
  const texts = file.endsWith('.md') ? [{ text: source, from: 0 }] : textsOf(file, source);
  const lines = new Set();
  for (const { text, from } of texts) {
    for (const { pattern, text: bad, good } of list) {
      for (const { index } of text.matchAll(pattern)) {
        const line = source.slice(0, from + index).split('\n').length;
        lines.add(`${file}:${line}: “${bad}”; write: ${good}`);
      }
    }
  }
  return [...lines];
}

/** The files whose words are looked at: sources and documents, but not tests, the changelog and the list itself. */
function files() {
  const all = execFileSync(
    'git',
    ['ls-files', '-co', '--exclude-standard', '*.ts', '*.tsx', '*.mjs', '*.md'],
    {
      cwd: ROOT,
      encoding: 'utf8',
    },
  );
  return all
    .split('\n')
    .filter(
      (file) =>
        file !== '' && !/(?:^|\/)test\/|^CHANGELOG\.md$|^CONTRIBUTING\.md$|^scripts\/words\.mjs$/.test(file),
    );
}

if (process.argv[1]?.endsWith('words.mjs')) {
  const list = wordList(readFileSync(join(ROOT, 'CONTRIBUTING.md'), 'utf8'));
  const faults = files().flatMap((file) => wordFaults(file, readFileSync(join(ROOT, file), 'utf8'), list));
  for (const fault of faults) console.error(fault);
  process.exitCode = faults.length === 0 && list.length > 20 ? 0 : 1;
}
