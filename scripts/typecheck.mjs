import { generateTypes, tool } from './lib.mjs';

if (!process.argv.includes('--generated')) generateTypes();
for (const project of ['core', 'core/tsconfig.test.json', 'cli', 'web', 'e2e', 'bench']) {
  tool('typescript/bin/tsc', ['-p', project]);
}
