import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { build, installDebian, installPackages, ROOT, step, tool } from './lib.mjs';

installPackages();
installDebian({ '/usr/bin/chromium': 'chromium', '/usr/bin/chromedriver': 'chromium-driver' });
step('build');
if (process.argv.includes('--built') && existsSync(join(ROOT, 'web/.next/BUILD_ID'))) console.log('as it is');
else build();
for (const name of ['fit', 'edit', 'trace', 'pan', 'assign', 'interrupts']) {
  step(name);
  tool('tsx/dist/cli.mjs', [`bench/${name}.bench.ts`]);
}
