import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { ROOT } from '../lib.mjs';

/** The addresses of the core's scripts begin with this. */
export const OWN = `${pathToFileURL(join(ROOT, 'core/src')).href}/`;

/** Where each test file leaves what it reached. */
export const REACHED = join(ROOT, '.cache/reached');
