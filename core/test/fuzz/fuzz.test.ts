import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { CRASHES, fuzz, readerNamed } from './run.ts';
import { READERS } from './readers.ts';

/** Cases of each reader, about 20 000 in all; `HZ_FUZZ` multiplies them. Slow ones take fewer. */
const TIMES = Number(process.env['HZ_FUZZ'] ?? 1);
const CASES = 2000;
const FEWER: Readonly<Record<string, number>> = { plan: 1500, part: 400, 'demo plan': 1000 };

describe('broken input ends in a sentence', () => {
  // A failure names its seed; HZ_SEED starts from there.
  const seed = Number(process.env['HZ_SEED'] ?? Date.now() % 1e9);

  it.each(READERS.map((reader) => [reader.name, reader] as const))('%s', (name, reader) => {
    const report = fuzz(reader, TIMES * (FEWER[name] ?? CASES), seed, false);
    expect(report.failures).toEqual([]);
    // A fuzzer of which nothing is accepted, or everything, tries nothing.
    expect(report.accepted).toBeGreaterThan(0);
    expect(report.accepted).toBeLessThan(report.cases);
  });
});

const kept = existsSync(CRASHES) ? readdirSync(CRASHES).filter((name) => name.endsWith('.txt')) : [];

describe('input that once threw', () => {
  it.each(kept)('%s', (file) => {
    const reader = readerNamed((file.split('.')[0] ?? '').replace(/-/g, ' '));
    expect(() => reader.try(readFileSync(join(CRASHES, file), 'utf8'))).not.toThrow();
  });
});
