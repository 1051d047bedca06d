import { execFile, spawn } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { JSDOM } from 'jsdom';
import { junitText } from '../src/run/junit.ts';

const ROOT = join(__dirname, '../..');
const HZ = join(ROOT, 'cli/bin/hz.mjs');
const DEMO = 'examples/greenhouse.plan.json';

type Ran = { code: number; out: string; err: string };

function hz(args: readonly string[], input?: string): Promise<Ran> {
  return new Promise((resolve) => {
    const child = execFile(process.execPath, [HZ, ...args], { cwd: ROOT }, (error, out, err) => {
      resolve({ code: typeof error?.code === 'number' ? error.code : 0, out, err });
    });
    child.stdin?.end(input);
  });
}

let directory: string;
beforeAll(() => {
  directory = mkdtempSync(join(tmpdir(), 'hz-'));
});
afterAll(() => rmSync(directory, { recursive: true, force: true }));

function file(name: string, text: string): string {
  const path = join(directory, name);
  writeFileSync(path, text);
  return path;
}

jest.setTimeout(60000);

it('tells its version', async () => {
  expect(await hz(['--version'])).toMatchObject({ code: 0, out: '0.1.0\n' });
});

it('reads a plan from standard input', async () => {
  const { code, out } = await hz(['check', '-'], readFileSync(join(ROOT, DEMO), 'utf8'));
  expect(code).toBe(0);
  expect(out).toBe((await hz(['check', DEMO])).out);
});

it('says that a reader of its output has gone by ending in silence', async () => {
  const child = spawn(process.execPath, [HZ, 'parts'], { cwd: ROOT, stdio: ['ignore', 'pipe', 'pipe'] });
  let err = '';
  child.stderr.on('data', (piece: Buffer) => {
    err += piece.toString();
  });
  child.stdout.destroy();
  const code = await new Promise((resolve) => child.on('exit', resolve));
  expect([code, err]).toEqual([0, '']);
});

it('refuses a wire and a signal that are not there', async () => {
  const capture = file('two.csv', 'time (s),a,b\n0,0,1\n1,1,0\n2,0,1\n');
  const wire = await hz(['check', DEMO, '--capture', capture, '--as', 'c=frost-alarm']);
  expect(wire).toMatchObject({ code: 2, err: 'hz: --as: there is no wire “c”; there are a, b.\n' });
  const signal = await hz(['check', DEMO, '--capture', capture, '--as', 'a=horn']);
  expect(signal.code).toBe(2);
  expect(signal.err).toMatch(/^hz: --as: there is no signal “horn”; there are [a-z-]+(, [a-z-]+)*\.\n$/);
  expect((await hz(['check', DEMO, '--as', 'a=horn'])).err).toBe('hz: --as needs a --capture.\n');
});

it('names a value of a capture that is not a reading', async () => {
  const rows = Array.from(
    { length: 20 },
    (_, at) => `${at / 1000},${at === 7 ? '9.91E+37' : (at % 2) * 3.3}`,
  );
  const capture = file('gap.csv', `time (s),probe\n${rows.join('\n')}\n`);
  const { out } = await hz(['check', DEMO, '--capture', capture, '--table']);
  expect(out).toContain('Line 9: “9.91E+37” of probe is not a reading; it was left out.');
});

it('leaves nothing half written behind', async () => {
  const out = join(directory, 'nowhere', 'trace.vcd');
  const { code, err } = await hz(['trace', DEMO, '--seconds', '1', '--out', out]);
  expect([code, err]).toEqual([2, `hz: ${out}: there is no such file.\n`]);
  await hz(['trace', DEMO, '--seconds', '1', '--out', join(directory, 'trace.vcd')]);
  expect(readdirSync(directory).filter((name) => name.includes('.tmp'))).toEqual([]);
});

it.each([
  ['nested', '['.repeat(5000) + ']'.repeat(5000), /nested too deeply to be read, at line 1, column 65\.$/],
  ['doubled', '{"format":"herzschlag-plan","version":2,"version":2}', /version stands twice in one object/],
  ['inherited', '{"format":"herzschlag-plan","__proto__":{"a":1}}', /__proto__ is not a key, at line 1/],
])('refuses a plan file in one line: %s', async (name, text, sentence) => {
  const { code, err } = await hz(['check', file(`${name}.plan.json`, text)]);
  expect(code).toBe(2);
  expect(err.trimEnd()).toMatch(sentence);
  expect(err.trimEnd()).not.toContain('\n');
});

it('writes a report that is XML, whatever the names are', () => {
  const text = junitText('a\u0000b\u001b\ud800<&>"\'\n\uffff', [
    { signal: ']]><x>', property: '"', verdict: 'fail', text: '\u0007' },
  ]);
  // A reader of its own, which throws for what is not well-formed.
  const parsed = new JSDOM(text, { contentType: 'application/xml' }).window.document;
  expect(parsed.querySelector('testsuite')?.getAttribute('name')).toBe('a\ufffdb\ufffd\ufffd<&>"\' \ufffd');
  expect(parsed.querySelector('testcase')?.getAttribute('classname')).toBe(']]><x>');
});
