import { createHash } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Script } from 'node:vm';

const HERE = dirname(fileURLToPath(import.meta.url));
const ROOT = join(HERE, '..');
const CACHE = join(ROOT, '.cache');

function filesIn(directory) {
  return readdirSync(directory, { withFileTypes: true, recursive: true })
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name));
}

/** What tells one state of the sources from another: their names, sizes and times of change. */
function stateOf(directories) {
  const hash = createHash('sha256');
  for (const file of directories.flatMap(filesIn).sort()) {
    const { size, mtimeMs } = statSync(file);
    hash.update(`${file} ${size} ${mtimeMs}\n`);
  }
  return hash.digest('hex');
}

async function build(out) {
  mkdirSync(CACHE, { recursive: true });
  const esbuild = await import('esbuild');
  await esbuild.build({
    entryPoints: [join(HERE, 'src/hz.ts')],
    outfile: out,
    bundle: true,
    platform: 'node',
    format: 'cjs',
    target: 'node20',
    mainFields: ['module', 'main'],
    minify: true,
    logLevel: 'error',
  });
}

/** Runs a bundled file with the compiled code that V8 kept of the last time, and keeps it where there is none yet. */
function load(file) {
  const compiled = `${file}.compiled`;
  const cachedData = existsSync(compiled) ? readFileSync(compiled) : undefined;
  const source = `(function (exports, require, module) {${readFileSync(file, 'utf8')}\n})`;
  const script = new Script(source, { filename: file, ...(cachedData ? { cachedData } : {}) });
  const module = { exports: {} };
  script.runInThisContext()(module.exports, createRequire(file), module);
  if (!cachedData || script.cachedDataRejected) replaceFile(compiled, script.createCachedData());
  return module.exports;
}

/** Writes a file in one step, so that another process never reads half of it. */
function replaceFile(file, content) {
  const made = `${file}.${process.pid}`;
  writeFileSync(made, content);
  renameSync(made, file);
}

/** The command line as one file, built from the sources when they have changed since the last time, and loaded. */
export async function loadBundle() {
  const out = join(CACHE, 'hz.cjs');
  const stamp = join(CACHE, 'hz.state');
  const state = stateOf([join(HERE, 'src'), join(ROOT, 'core/src')]);
  if (!existsSync(out) || !existsSync(stamp) || readFileSync(stamp, 'utf8') !== state) {
    const made = `${out}.${process.pid}`;
    await build(made);
    renameSync(made, out);
    rmSync(`${out}.compiled`, { force: true });
    replaceFile(stamp, state);
  }
  return load(out);
}
