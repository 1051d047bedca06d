import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { featuresOf } from '../../src/part/features.ts';
import { factsOf, PARTS } from '../helpers/parts.ts';

const plain = (text: string): string => text.replace(/\s+/g, ' ');
const page = plain(readFileSync(join(__dirname, '../../../docs/parts.md'), 'utf8'));

it.each(PARTS.map((part) => [part.name, part] as const))(
  'docs/parts.md tells what the data of %s covers',
  (name, part) => {
    const section = page.split('## ').find((one) => one.startsWith(`${name} `)) ?? '';
    expect(part.leftOut?.length).toBeGreaterThan(0);
    for (const one of [...featuresOf(part), ...(part.leftOut ?? []), part.source])
      expect(section).toContain(plain(one));
    const named = [...section.matchAll(/`([^`]+)`/g)].map(([, field]) => field);
    expect(named).toEqual(factsOf(part.id)?.unnamed ?? []);
  },
);
