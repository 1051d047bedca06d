import { spawn, type ChildProcess } from 'node:child_process';
import { createServer } from 'node:net';
import { join } from 'node:path';

/** Tests and benchmarks alike are run from the root of the repository. */
const ROOT = process.cwd();

/** A built application that is being served, and how to end it. */
export type Served = { address: string; stop: () => Promise<void> };

function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const probe = createServer();
    probe.once('error', reject);
    probe.listen(0, '127.0.0.1', () => {
      const place = probe.address();
      probe.close(() => resolve(typeof place === 'object' && place ? place.port : 0));
    });
  });
}

async function answers(address: string, child: ChildProcess): Promise<void> {
  const end = Date.now() + 60000;
  while (Date.now() < end) {
    if (child.exitCode !== null) throw new Error(`the server ended with code ${child.exitCode}`);
    try {
      if ((await fetch(address)).ok) return;
    } catch {
      await new Promise((resolve) => setTimeout(resolve, 200));
    }
  }
  throw new Error('the server did not answer within a minute');
}

/** Serves the built application on a free port of this machine. */
export async function serve(): Promise<Served> {
  const port = await freePort();
  const next = join(ROOT, 'node_modules/next/dist/bin/next');
  const child = spawn(process.execPath, [next, 'start', '-H', '127.0.0.1', '-p', String(port)], {
    cwd: join(ROOT, 'web'),
    stdio: 'ignore',
  });
  const address = `http://127.0.0.1:${port}`;
  await answers(address, child);
  const stop = (): Promise<void> =>
    new Promise((resolve) => {
      if (child.exitCode !== null) return resolve();
      child.once('exit', () => resolve());
      child.kill('SIGTERM');
    });
  return { address, stop };
}
