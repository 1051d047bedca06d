import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { marked } from 'marked';

/** The docs, beside the folder the application runs in. */
const DOCS = join(process.cwd(), '..', 'docs');

/** The pages of the guide: the last part of the address, the file, and the name in the list. */
export const PAGES = [
  { id: '', file: 'guide.md', name: 'Guide' },
  { id: 'plan', file: 'guide/plan.md', name: 'Plan' },
  { id: 'fit', file: 'guide/fit.md', name: 'Fit' },
  { id: 'trace', file: 'guide/trace.md', name: 'Trace' },
  { id: 'interrupts', file: 'guide/interrupts.md', name: 'Interrupts' },
  { id: 'handoff', file: 'guide/handoff.md', name: 'Hand-off' },
  { id: 'interrupt-model', file: 'interrupts.md', name: 'Interrupts: the model' },
  { id: 'glossary', file: 'guide/glossary.md', name: 'Glossary' },
] as const;

/** Links between the files and to their pictures, as addresses of the application. */
function address(link: string): string {
  const page = PAGES.find(({ file }) => link === file || link === `../${file}` || `guide/${link}` === file);
  if (page) return page.id === '' ? '/guide' : `/guide/${page.id}`;
  return link.replace(/^(?:\.\.\/)?screenshots\//, '/guide-pictures/');
}

/** A page of the guide as HTML; undefined where there is none of that id. */
export async function guidePage(id: string): Promise<string | undefined> {
  const page = PAGES.find((one) => one.id === id);
  if (!page) return undefined;
  const text = await readFile(join(DOCS, page.file), 'utf8');
  return marked.parse(text, {
    async: true,
    walkTokens: (token) => {
      if (token.type === 'link' || token.type === 'image') token['href'] = address(String(token['href']));
    },
  });
}

/** A picture of the guide; undefined where there is none of that name. */
export async function guidePicture(name: string): Promise<Uint8Array<ArrayBuffer> | undefined> {
  if (!/^[a-z-]+\.png$/.test(name)) return undefined;
  try {
    return new Uint8Array(await readFile(join(DOCS, 'screenshots', name)));
  } catch {
    return undefined;
  }
}
