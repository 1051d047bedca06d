import { spawn } from 'node:child_process';
import { join } from 'node:path';

const ROOT = join(__dirname, '../..');

type Ran = { code: number | null; out: string; err: string };

function hz(args: readonly string[], input = ''): Promise<Ran> {
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, [join(ROOT, 'cli/bin/hz.mjs'), ...args], { cwd: ROOT });
    let [out, err] = ['', ''];
    child.stdout.on('data', (piece) => (out += String(piece)));
    child.stderr.on('data', (piece) => (err += String(piece)));
    child.on('error', reject);
    child.on('close', (code) => resolve({ code, out, err }));
    child.stdin.end(input);
  });
}

type Shown = { name: string; part: string; signals: { id: string; kind: string; target: object }[] };

describe('hz say', () => {
  it('makes a plan of its arguments, which hz assign reads from standard input', async () => {
    const wishes = ['fan 25 kHz ±2 % in 8 bit, 40 %', 'half-bridge 100 kHz dead time 200 ns'];
    const said = await hz(['say', 'stm32f401', '--name', 'Winch', ...wishes]);
    expect(said).toMatchObject({ code: 0, err: '' });
    const plan = JSON.parse(said.out) as Shown;
    expect(plan).toMatchObject({ name: 'Winch', part: 'stm32f401' });
    expect(plan.signals).toMatchObject([
      {
        id: 'fan',
        kind: 'pwm',
        target: { frequencyHz: 25_000, frequencyTolerancePpm: 20_000, duty: 0.4, minSteps: 256 },
      },
      { id: 'half-bridge', kind: 'pwm', target: { frequencyHz: 100_000 }, complement: { deadS: 2e-7 } },
    ]);
    const assigned = await hz(['assign', '-'], said.out);
    expect(assigned.code).toBe(0);
  });

  it('reads lines of standard input; what is not understood is said, with exit code 1, and the rest is in the plan', async () => {
    const lines = 'LED blinks twice a second\n\nbrew tea\nLED blinks 2 Hz 5 s\n10 ms\n';
    const { code, out, err } = await hz(['say', 'atmega328p'], lines);
    expect(code).toBe(1);
    expect((JSON.parse(out) as Shown).signals.map(({ id }) => id)).toEqual(['led', 'led-2']);
    expect(err.trim().split('\n')).toEqual([
      expect.stringMatching(/^“brew tea”: What should a pin do\?/),
      '“LED blinks 2 Hz 5 s”: not understood: “5 s”.',
      '“10 ms” may mean “ticks” or “blinks”; say which.',
    ]);
  });

  it('an unknown part and an empty input are errors in one line', async () => {
    const unknown = await hz(['say', 'z80', 'LED blinks']);
    expect(unknown.code).toBe(2);
    expect(unknown.err).toMatch(/^hz: There is no part “z80”; there are atmega328p, /);
    expect(await hz(['say', 'stm32f401'], '\n')).toMatchObject({ code: 2, out: '' });
  });
});
