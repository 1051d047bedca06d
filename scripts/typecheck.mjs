import { join } from 'node:path';
import { ROOT, tool } from './lib.mjs';

tool('next/dist/bin/next', ['typegen'], { cwd: join(ROOT, 'web'), stdio: 'ignore' });
for (const project of ['core', 'core/tsconfig.test.json', 'cli', 'web', 'e2e', 'bench']) {
  tool('typescript/bin/tsc', ['-p', project]);
}
