import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { partSchema } from '../../src/part/part-schema.ts';
import { formatKeys, formatRows } from '../helpers/format-keys.ts';

const page = readFileSync(join(__dirname, '../../../docs/part-format.md'), 'utf8');

describe('the page on the part format', () => {
  it('has a row for each object of the schema, with its keys and defaults', () => {
    const rows = formatRows(partSchema());
    expect(rows.length).toBeGreaterThan(40);
    const spaced = page.replace(/ +/g, ' ');
    for (const row of rows) expect(spaced).toContain(row.replace(/ +/g, ' '));
  });

  it('describes each key before that table, too', () => {
    const [prose = ''] = page.split('## All keys');
    const said = new Set(prose.match(/[A-Za-z]+/g));
    const keys = [...formatKeys(partSchema()).values()].flatMap(({ required, optional }) => [
      ...required,
      ...optional,
    ]);
    const missing = [...new Set(keys.map((key) => key.split('=')[0] ?? ''))].filter((key) => !said.has(key));
    expect(missing).toEqual([]);
  });
});
