import Sequencer from '@jest/test-sequencer';
import { isNoted } from './coverage/places.mjs';

/** Test files that take long, the longest first. */
const LONG = [
  'core/test/codegen/chip',
  'core/test/codegen/compilers',
  'core/test/fuzz/fuzz',
  'core/test/io/capture-files',
  'core/test/assign/assign',
  'cli/test/agreement',
  'core/test/assign/search',
  'cli/test/hz',
  'core/test/part/facts',
  'core/test/part/part-file',
  'e2e/test/unbreakable',
  'e2e/test/fit',
  'e2e/test/start',
  'e2e/test/plan',
  'e2e/test/access',
].map((name) => `/${name}.test.ts`);

/**
 * Begins with the test files whose coverage is noted: to begin noting, V8 looks through all that a process holds, which grows with
 * every file. Then come those that take long, so that both processors are busy until the end.
 */
export default class LongFirst extends Sequencer {
  sort(tests) {
    const place = ({ path }) => {
      if (process.env.HZ_COVERAGE && isNoted(path)) return -1;
      const at = LONG.findIndex((name) => path.endsWith(name));
      return at < 0 ? LONG.length : at;
    };
    return super.sort(tests).sort((one, other) => place(one) - place(other));
  }
}
