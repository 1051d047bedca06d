import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { CRASHES, fuzz, readerNamed } from './run.ts';
import { READERS } from './readers.ts';

/** Cases of each reader; readers whose accepted cases are computed to the end take fewer. `HZ_FUZZ` runs more or less. */
const CASES = Number(process.env['HZ_FUZZ'] ?? 20_000);
const FEWER: Readonly<Record<string, number>> = { plan: 0.25, part: 0.1, token: 0.25, 'demo plan': 0.25 };

describe('broken input ends in a sentence', () => {
  // A failure names its seed; HZ_SEED starts from there.
  const seed = Number(process.env['HZ_SEED'] ?? Date.now() % 1e9);

  it.each(READERS.map((reader) => [reader.name, reader] as const))('%s', (name, reader) => {
    const report = fuzz(reader, Math.round(CASES * (FEWER[name] ?? 1)), seed, false);
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
