import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

const ROOT = join(__dirname, '../../..');

function listed(name: string): string[] {
  const text = readFileSync(join(ROOT, 'scripts/structure.mjs'), 'utf8');
  const list = new RegExp(`${name} = \\[([^\\]]*)\\]`).exec(text)?.[1] ?? '';
  return [...list.matchAll(/'([\w-]+)'/g)].map(([, word]) => word ?? '');
}

function folders(path: string): string[] {
  return readdirSync(join(ROOT, path), { withFileTypes: true })
    .filter((entry) => entry.isDirectory())
    .map(({ name }) => name)
    .sort();
}

it('the stages of the list are those of the folders and of the architecture page, in one order', () => {
  const stages = listed('STAGES');
  expect([...stages].sort()).toEqual(folders('core/src'));
  const page = readFileSync(join(ROOT, 'docs/architecture.md'), 'utf8');
  const section = page.slice(page.indexOf("## The core's stages"), page.indexOf('**Evaluation.**'));
  expect([...section.matchAll(/^\| `(\w+)`/gm)].map(([, stage]) => stage)).toEqual(stages);
});

it('the features of the list are those of the folders', () => {
  expect([...listed('FEATURES')].sort()).toEqual(folders('web/src/features'));
});
