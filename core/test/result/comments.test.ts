import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

const ROOT = join(__dirname, '../../..');
const SOURCES = [
  'core/src',
  'core/test',
  'web/src',
  'web/test',
  'cli/src',
  'cli/test',
  'e2e',
  'bench',
  'scripts',
];

const files = SOURCES.flatMap((folder) =>
  (readdirSync(join(ROOT, folder), { recursive: true }) as string[])
    .filter((name) => /\.(?:ts|tsx|mjs)$/.test(name) && !name.includes('node_modules'))
    .map((name) => `${folder}/${name}`),
);
const texts = files.map((file) => ({ file, text: readFileSync(join(ROOT, file), 'utf8') }));

const COMMENT = /\/\*[\s\S]*?\*\/|\/\/[^\n]*/g;
const WORD = /[A-Za-z_$][\w$]*/g;

it('comments name only files and identifiers that exist', () => {
  const code = texts.map(({ text }) => text.replace(COMMENT, ' ')).join('\n');
  const words = new Set(code.match(WORD));
  // Scripts of the package are named as they are called.
  for (const word of readFileSync(join(ROOT, 'package.json'), 'utf8').match(WORD) ?? []) words.add(word);
  const quoted = texts.flatMap(({ file, text }) =>
    (text.match(COMMENT) ?? []).flatMap((comment) =>
      [...comment.matchAll(/`([^`\n]+)`/g)].map(([, name = '']) => ({ file, name })),
    ),
  );
  const isFile = (name: string): boolean => /^[\w./*-]+\/[\w./*-]+\.(?:ts|tsx|mjs)$/.test(name);
  const missing = quoted.filter(({ name }) =>
    isFile(name)
      ? !name.includes('*') && !files.some((one) => one.endsWith(`/${name}`))
      : (name.match(WORD) ?? []).some((word) => !words.has(word)),
  );
  expect(quoted.length).toBeGreaterThan(100);
  expect(missing).toEqual([]);
});
