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

/** The server that all test files share, in the process that started it. */
let shared: Served | undefined;

/** Starts the server that all test files share. Their processes find its address in the environment. */
export async function startShared(): Promise<void> {
  shared = await serve();
  process.env['HZ_SERVED'] = shared.address;
}

/** Ends the server that all test files share. */
export async function stopShared(): Promise<void> {
  await shared?.stop();
}

/** Serves the built application on a free port of this machine, unless a server is there that all share. */
export async function serve(): Promise<Served> {
  const there = process.env['HZ_SERVED'];
  if (there !== undefined) return { address: there, stop: () => Promise.resolve() };
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
