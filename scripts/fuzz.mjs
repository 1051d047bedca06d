import { fuzz, readerNamed } from '../core/test/fuzz/run.ts';
import { READERS } from '../core/test/fuzz/readers.ts';

// npm run fuzz [-- reader [cases [seed]]]: every reader, a million cases each, unless less is asked for.
const [name, cases = '1000000', seed = String(Date.now() % 1e9)] = process.argv.slice(2);
const readers = name === undefined ? READERS : [readerNamed(name)];
let failed = 0;
for (const reader of readers) {
  const before = performance.now();
  const { failures, ...report } = fuzz(reader, Number(cases), Number(seed), true);
  const seconds = ((performance.now() - before) / 1000).toFixed(1);
  console.log(
    `${reader.name}: ${report.cases} cases from seed ${seed}, ${report.accepted} accepted, slowest ${report.slowestMs.toFixed(0)} ms, ${seconds} s`,
  );
  for (const failure of failures) console.log(`  ${failure}`);
  failed += failures.length;
}
process.exitCode = failed === 0 ? 0 : 1;
