import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { isArchive, planInArchive, readArchive, textFile, writeArchive } from '../../src/io/archive.ts';
import { planArchive } from '../../src/io/plan-archive.ts';
import { planWorkspace } from '../../src/evaluate/workspace.ts';
import { fetchTrust } from '../../src/part/fetch.ts';
import { readPlan } from '../../src/plan/check-plan.ts';
import { PARTS } from '../helpers/parts.ts';

const EXAMPLES = join(__dirname, '../../../examples');
const DEMOS = readdirSync(EXAMPLES).filter((name) => name.endsWith('.plan.json'));

/** A program that unpacks archives, on machines that have it. */
const PYTHON = '/usr/bin/python3';

const bytesOf = (text: string): Uint8Array => textFile('', text).bytes;

describe('an archive', () => {
  it('has demos to pack', () => {
    expect(DEMOS.length).toBeGreaterThan(0);
  });

  it.each(DEMOS)('of %s holds its plan, its code and its report, the same bytes each time', async (name) => {
    const text = readFileSync(join(EXAMPLES, name), 'utf8');
    const read = readPlan(text, PARTS);
    if (!read.ok) throw new Error(read.fault.sentence);
    const { plan, part } = read.value;
    const trust = await fetchTrust(part);
    const capture = { name: 'capture/bench.vcd', bytes: bytesOf('$timescale 1 us $end') };
    const bytes = planArchive(plan, part, trust, {}, [capture]);
    expect(planArchive(plan, part, trust, {}, [capture])).toEqual(bytes);
    expect(isArchive(bytes)).toBe(true);
    const files = readArchive(bytes);
    if (!files.ok) throw new Error(files.fault.sentence);
    const names = files.value.map((file) => file.name);
    expect(names).toEqual(expect.arrayContaining(['report.html', 'report.md', 'capture/bench.vcd']));
    const code = planWorkspace(plan, part, {}).files.map((file) => `code/${file.name}`);
    expect(names.filter((one) => one.startsWith('code/'))).toEqual(code);
    const found = planInArchive(files.value);
    if (!found.ok) throw new Error(found.fault.sentence);
    expect(found.value.capture).toEqual(capture);
    const again = readPlan(found.value.plan, PARTS);
    expect(again.ok && again.value.plan).toEqual(plan);
  });

  (existsSync(PYTHON) ? it : it.skip)('is unpacked by other programs', () => {
    const directory = mkdtempSync(join(tmpdir(), 'hz-zip-'));
    try {
      const file = join(directory, 'all.zip');
      writeFileSync(file, writeArchive([textFile('a/b.txt', 'Höhe 5 µs\n'), textFile('c.txt', '')]));
      const script = `import sys, zipfile; z = zipfile.ZipFile(sys.argv[1]); print(z.testzip(), z.namelist(), repr(z.read('a/b.txt').decode()))`;
      expect(execFileSync(PYTHON, ['-c', script, file], { encoding: 'utf8' }).trim()).toBe(
        `None ['a/b.txt', 'c.txt'] 'Höhe 5 µs\\n'`,
      );
    } finally {
      rmSync(directory, { recursive: true });
    }
  });

  it('gives back any files', () => {
    const name = fc.stringMatching(/^[a-z]{1,8}\/[a-z]{1,8}\.bin$/);
    fc.assert(
      fc.property(fc.dictionary(name, fc.uint8Array({ maxLength: 400 }), { maxKeys: 6 }), (all) => {
        const files = Object.entries(all).map(([own, bytes]) => ({ name: own, bytes }));
        const read = readArchive(writeArchive(files));
        expect(read.ok && read.value.map((file) => [file.name, [...file.bytes]])).toEqual(
          files.map((file) => [file.name, [...file.bytes]]),
        );
      }),
      { numRuns: 100 },
    );
  });

  it('that is damaged is refused with a sentence, and none stops the reader', () => {
    const whole = writeArchive([textFile('x.plan.json', '{ "format": "herzschlag-plan" }')]);
    fc.assert(
      fc.property(fc.nat(whole.length - 1), fc.nat(255), fc.nat(whole.length), (at, value, length) => {
        const changed = whole.slice(0, length);
        if (at < changed.length) changed[at] = value;
        const read = readArchive(changed);
        if (!read.ok) expect(read.fault.sentence).toMatch(/^The archive .*\.$/);
      }),
      { numRuns: 500 },
    );
  });

  it.each([
    ['no plan', [textFile('a.txt', 'x')], 'The archive holds no plan.'],
    [
      'two plans',
      ['a', 'b'].map((one) => textFile(`${one}.json`, '{ "format": "herzschlag-plan" }')),
      'The archive holds 2 plans; unpack it and open one of them.',
    ],
  ])('with %s is refused', (_, files, sentence) => {
    const found = planInArchive(files);
    expect(found.ok ? '' : found.fault.sentence).toBe(sentence);
  });
});
