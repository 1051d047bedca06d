import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { shippedParts } from '../../src/part/fetch.ts';
import type { SourceFacts } from '../../src/part/trust.ts';
import type { Part } from '../../src/part/types.ts';

const FOLDER = join(__dirname, '../../src/part/parts');

function isPart(value: unknown): value is Part {
  return (
    typeof value === 'object' && value !== null && 'format' in value && value.format === 'herzschlag-part'
  );
}

/** The files of the parts' folder with that ending, by the name before it. */
function filesOf(ending: string): Map<string, string> {
  const files = (readdirSync(FOLDER, { recursive: true }) as string[]).filter((file) =>
    file.endsWith(ending),
  );
  return new Map(
    files.map((file) => [file.replace(/^.*\//, '').slice(0, -ending.length), join(FOLDER, file)]),
  );
}

const modules = filesOf('.ts');

/** Every part that some module of the parts' folder exports, whether or not it is shipped. */
export const WRITTEN: readonly Part[] = [...modules.values()].flatMap((file) =>
  Object.values(jest.requireActual<Record<string, unknown>>(file)).filter(isPart),
);

/** All shipped parts at once, in the order of the product's list, which loads them one by one. */
export const PARTS: readonly Part[] = shippedParts().map((id) => {
  const part = WRITTEN.find((one) => one.id === id);
  if (!part) throw new Error(`no module exports the part ${id}`);
  return part;
});

/** What independent sources say of a part, where there are any. */
export function factsOf(id: string): SourceFacts | undefined {
  const file = filesOf('.facts.json').get(id);
  return file === undefined ? undefined : jest.requireActual<SourceFacts>(file);
}

/** The shipped part of that id, if there is one. */
export function partById(id: string): Part | undefined {
  return PARTS.find((part) => part.id === id);
}

/** The shipped part of that id. @throws Error if there is none. */
export function shipped(id: string): Part {
  const part = partById(id);
  if (!part) throw new Error(`no ${id}`);
  return part;
}
