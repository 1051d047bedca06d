import { build } from './lib.mjs';

build(process.argv.includes('--types-checked'));
