#!/usr/bin/env node
import { loadBundle } from '../bundle.mjs';

// Who reads the output may have had enough of it, as `head` has.
process.stdout.on('error', (error) => process.exit(error.code === 'EPIPE' ? 0 : 2));

/** Whatever goes wrong without a sentence of its own is told in one line. */
function fail(error) {
  const said = error instanceof Error ? error.message : String(error);
  console.error(`hz: an error in Herzschlag: ${said.split('\n')[0]}`);
  process.exit(2);
}

process.on('uncaughtException', fail);
process.on('unhandledRejection', fail);

try {
  const { run } = await loadBundle();
  process.exitCode = await run(process.argv.slice(2));
} catch (error) {
  fail(error);
}
