import { labelsOf } from '../../src/program/names.ts';
import { commentText } from '../../src/codegen/comment.ts';
import fc from 'fast-check';
import { csvReader } from '../../src/io/csv-read.ts';
import { csvNames, writeCsv } from '../../src/io/csv-write.ts';
import { vcdReader } from '../../src/io/vcd-read.ts';
import { vcdNames, writeVcd } from '../../src/io/vcd-write.ts';
import type { NamedWaveform } from '../../src/wave/merge.ts';
import { readWhole } from '../helpers/capture.ts';

/** Names as people, and those who mean harm, write them. */
const nasty = fc.oneof(
  fc.string({ unit: 'binary', minLength: 1, maxLength: 20 }),
  fc.constantFrom(
    '*÷ int evil; ÷*',
    '$end',
    '$scope',
    '#5',
    '1!',
    '=1+1',
    "'=2",
    '@x',
    '-1',
    'a,b',
    'a"b',
    'a;b',
  ),
  fc.constantFrom(
    'Grün',
    'Лампа',
    'ランプ',
    'a\nb',
    'x[3]',
    'bus[7:0]',
    'a.b',
    '\u202eabc',
    '??/',
    '\\',
    '/*',
    '//',
  ),
);
const names = fc.array(nasty, { minLength: 1, maxLength: 6 });

/** A pin that changes every tenth of a second. */
function waveform(name: string): NamedWaveform {
  const cycle = { periodTicks: 200, edges: { rise: 100, fall: 0 } };
  return { name, tickHz: 1000, waveform: { cycle, scale: 1, settled: 0, begin: new Float64Array(0) } };
}

/** The cells of one line, read by the rules of RFC 4180 and nothing of ours. */
function cellsOf(line: string): string[] {
  const cells = [''];
  let inQuotes = false;
  for (let at = 0; at < line.length; at += 1) {
    const sign = line.charAt(at);
    if (inQuotes && sign === '"' && line.charAt(at + 1) === '"') at += 1;
    else if (sign === '"') {
      inQuotes = !inQuotes;
      continue;
    } else if (sign === ',' && !inQuotes) {
      cells.push('');
      continue;
    }
    cells[cells.length - 1] += sign;
  }
  return cells;
}

function bytesOf(pieces: Iterable<string>): Uint8Array {
  return Uint8Array.from(Buffer.from([...pieces].join(''), 'utf8'));
}

it('names of a VCD file come back as they were written, each of them once', () => {
  fc.assert(
    fc.property(names, (own) => {
      const capture = readWhole(vcdReader(), bytesOf(writeVcd(own.map(waveform), 1)));
      expect(capture.wires.map((wire) => wire.name)).toEqual(vcdNames(own));
      expect(new Set(vcdNames(own)).size).toBe(own.length);
      expect(capture.wires.every((wire) => wire.times.length === 10)).toBe(true);
    }),
    { numRuns: 400 },
  );
  expect(vcdNames(['Grün', '$end', 'x[3]', 'a b', 'a b'])).toEqual(['Grün', '_end', 'x(3)', 'a_b', 'a_b_2']);
});

it('names of a CSV file come back as they were written, to us and to another reader, and are no formulas', () => {
  fc.assert(
    fc.property(names, (own) => {
      const bytes = bytesOf(writeCsv(own.map(waveform), 1));
      const capture = readWhole(csvReader(), bytes);
      expect(capture.wires.map((wire) => wire.name)).toEqual(csvNames(own));
      const head = cellsOf(Buffer.from(bytes).toString('utf8').split('\n')[0] ?? '');
      expect(head).toHaveLength(own.length + 1);
      expect(head.some((cell) => /^[=+\-@\t\r]/.test(cell))).toBe(false);
    }),
    { numRuns: 400 },
  );
  expect(csvNames(['a\nb', 'Grün', 'Grün', '\u0000'])).toEqual(['a b', 'Grün', 'Grün 2', 'unnamed']);
});

it('a comment of generated code holds nothing that ends it or begins a line', () => {
  fc.assert(
    fc.property(nasty, (name) => {
      const text = commentText(name);
      expect(text).not.toMatch(/\*\/|\/\*|\?\?|[\\\n\r\u2028\u2029]/);
      expect(text).not.toMatch(/\p{Cc}|\p{Cf}/u);
    }),
    { numRuns: 1000 },
  );
  expect(commentText('*÷ int evil; ÷*')).toBe('* / int evil; / *');
  expect(commentText('2\u202f304.147\u202f47 Hz ± 2 µs')).toBe('2304.14747 Hz +- 2 us');
});

it('identifiers of signals are C names that differ from each other and are no words of C', () => {
  const setting = { drive: 'delay-loop', pin: 'PB0', top: 10, compare: 5 } as const;
  const labels = (own: readonly string[]) => labelsOf(own.map((name) => ({ name, sentence: '', setting })));
  fc.assert(
    fc.property(names, (own) => {
      const found = labels(own);
      expect(new Set(found).size).toBe(own.length);
      for (const label of found) expect(label).toMatch(/^[a-z][a-z0-9_]*$/);
    }),
    { numRuns: 400 },
  );
  expect(labels(['a', 'a 2', 'a', 'int', 'Grün'])).toEqual(['a', 'a_2', 'a_3', 'int_signal', 'grun']);
});
