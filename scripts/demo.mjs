import { spawn } from 'node:child_process';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { build, fail, installPackages, ROOT, step } from './lib.mjs';

const FIRST_PORT = 3210;
const PORTS = 20;

function isFree(port) {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)));
  });
}

async function freePort() {
  for (let port = FIRST_PORT; port < FIRST_PORT + PORTS; port += 1) if (await isFree(port)) return port;
  return fail(`No port between ${FIRST_PORT} and ${FIRST_PORT + PORTS - 1} is free.`);
}

async function answers(address) {
  for (let attempt = 0; attempt < 150; attempt += 1) {
    try {
      if ((await fetch(address)).ok) return true;
    } catch {
      await new Promise((resolve) => setTimeout(resolve, 200));
    }
  }
  return false;
}

installPackages();
step('build');
build();
const port = await freePort();
const address = `http://127.0.0.1:${port}`;
const next = join(ROOT, 'node_modules/next/dist/bin/next');
const server = spawn(process.execPath, [next, 'start', '-H', '127.0.0.1', '-p', String(port)], {
  cwd: join(ROOT, 'web'),
  stdio: ['ignore', 'ignore', 'inherit'],
});
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill('SIGTERM'));
server.on('exit', (code) => process.exit(code ?? 0));
if (!(await answers(address))) {
  server.kill('SIGTERM');
  fail('The application did not answer within 30 seconds.');
}
console.log(
  `\nHerzschlag is at ${address}\nThe demo plan, Greenhouse bench, is on the first page. Ctrl+C ends it.`,
);
