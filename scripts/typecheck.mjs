import { generateTypes, tool } from './lib.mjs';

if (!process.argv.includes('--generated')) generateTypes();
for (const project of ['core', 'core/test', 'cli', 'web', 'e2e', 'bench']) {
  // TypeScript's native compiler, which takes a sixth of the time; the linter and the build need the other one.
  tool('typescript-native/bin/tsc', ['-p', project]);
}
