#!/usr/bin/env node
import { loadBundle } from '../bundle.mjs';

const { run } = await loadBundle();
process.exitCode = await run(process.argv.slice(2));
