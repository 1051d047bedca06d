import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { mergeProcessCovs } from '@bcoe/v8-coverage';
import swc from '@swc/jest';
import istanbul from 'istanbul-lib-coverage';
import v8ToIstanbul from 'v8-to-istanbul';
import { ROOT } from '../lib.mjs';
import { SWC } from '../swc.mjs';
import { REACHED } from './places.mjs';

const SOURCES = join(ROOT, 'core/src');
const transformer = swc.createTransformer(SWC);

/** Adds what was reached of a source file to a map of lines and functions. */
async function add(map, file, functions) {
  // The tests run this text, which ends with its source map: what they reached are places in it.
  const source = transformer.process(readFileSync(file, 'utf8'), file, { supportsStaticESM: false }).code;
  const converter = v8ToIstanbul(file, 0, { source });
  await converter.load();
  const whole = { startOffset: 0, endOffset: source.length, count: 0 };
  converter.applyCoverage(functions ?? [{ functionName: '', isBlockCoverage: true, ranges: [whole] }]);
  map.merge(converter.toIstanbul());
}

/**
 * What the tests reached of the core's lines and functions, in per cent; files that no test loads count as well. Branches are
 * left out: where a block is only told from its surroundings when it was not reached, those that were cannot be counted.
 */
export async function coverage() {
  const parts = readdirSync(REACHED).map((name) => JSON.parse(readFileSync(join(REACHED, name), 'utf8')));
  const reached = new Map(mergeProcessCovs(parts).result.map(({ url, functions }) => [url, functions]));
  const map = istanbul.createCoverageMap({});
  for (const name of readdirSync(SOURCES, { recursive: true })) {
    if (!name.endsWith('.ts')) continue;
    const file = join(SOURCES, name);
    await add(map, file, reached.get(pathToFileURL(file).href));
  }
  const { lines, functions } = map.getCoverageSummary();
  return { lines: lines.pct, functions: functions.pct };
}
