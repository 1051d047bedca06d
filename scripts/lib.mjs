import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** The root of the repository. */
export const ROOT = join(dirname(fileURLToPath(import.meta.url)), '..');

const CACHE = join(ROOT, '.cache');
const STAMP = join(ROOT, 'node_modules', '.installed-from');

/** Runs a command with its output shown; ends this process when it fails. */
export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { cwd: ROOT, stdio: 'inherit', ...options });
  if (result.error) fail(`${command} could not be started: ${result.error.message}`);
  if (result.status !== 0)
    fail(`${command} ${args.join(' ')} ended with code ${result.status}`, result.status ?? 1);
  return result;
}

/** Runs a Node program; gives what it said and its exit code. */
function runQuietly(args) {
  return new Promise((done) => {
    const child = spawn(process.execPath, args, { cwd: ROOT, stdio: ['ignore', 'pipe', 'pipe'] });
    const said = [];
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (text) => said.push(text));
    child.on('error', (error) => done({ code: 1, said: [String(error)] }));
    child.on('close', (code) => done({ code: code ?? 1, said }));
  });
}

/**
 * Runs rows of Node programs side by side, the programs of a row one after another, each one's output shown when it ends;
 * ends this process when one of them fails.
 */
export async function runTogether(...rows) {
  const failures = [];
  const runRow = async (row) => {
    for (const args of row) {
      const { code, said } = await runQuietly(args);
      process.stdout.write(said.join(''));
      if (code === 0) continue;
      failures.push({ args, code });
      return;
    }
  };
  await Promise.all(rows.map(runRow));
  const [failed] = failures;
  if (failed) fail(`${failed.args.join(' ')} ended with code ${failed.code}`, failed.code);
}

/** Ends this process with one line on standard error. */
export function fail(sentence, code = 1) {
  console.error(sentence);
  process.exit(code);
}

/** Says which part of the work begins. */
export function step(text) {
  console.log(`\n== ${text}`);
}

function lockHash() {
  return createHash('sha256')
    .update(readFileSync(join(ROOT, 'package-lock.json')))
    .digest('hex');
}

/** Installs the packages of the lock file, unless those are installed already. */
export function installPackages() {
  const wanted = lockHash();
  if (existsSync(STAMP) && readFileSync(STAMP, 'utf8') === wanted) return;
  step('packages');
  run('npm', ['ci', '--no-audit', '--no-fund']);
  writeFileSync(STAMP, wanted);
}

/** Installs those of Debian's packages whose program is missing: { program: package }. */
export function installDebian(programs) {
  const missing = Object.entries(programs).filter(([program]) => !existsSync(program));
  if (missing.length === 0) return;
  const packages = [...new Set(missing.map(([, name]) => name))];
  step(`Debian packages: ${packages.join(', ')}`);
  if (!existsSync('/usr/bin/apt-get')) {
    fail(`The tests need ${packages.join(', ')}, which are installed with apt-get; this system has none.`);
  }
  const root = process.getuid?.() === 0;
  const apt = (args) =>
    run(root ? 'apt-get' : 'sudo', root ? args : ['apt-get', ...args], {
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    });
  apt(['update', '-qq']);
  apt(['install', '-y', '-qq', '--no-install-recommends', ...packages]);
}

/** Runs one of the installed packages' programs. */
export function tool(name, args, options) {
  return run(process.execPath, [join(ROOT, 'node_modules', name), ...args], options);
}

/** Generates the types of the web application's routes. */
export function generateTypes() {
  tool('next/dist/bin/next', ['typegen'], { cwd: join(ROOT, 'web'), stdio: 'ignore' });
}

/** Builds the web application; its types are not checked again where that was done before. */
export function build(typesChecked = false) {
  tool('next/dist/bin/next', ['build'], {
    cwd: join(ROOT, 'web'),
    env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1', HZ_TYPES_CHECKED: typesChecked ? '1' : '' },
  });
}

/** The path of a file that a run leaves for later steps. */
export function cacheFile(name) {
  mkdirSync(CACHE, { recursive: true });
  return join(CACHE, name);
}
