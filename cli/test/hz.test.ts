import { PLAN_VERSION } from '@herzschlag/core';
import { execFile } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const ROOT = join(__dirname, '../..');
const DEMO = 'examples/greenhouse.plan.json';

type Ran = { code: number; out: string; err: string };

function hz(...args: string[]): Promise<Ran> {
  return new Promise((resolve) => {
    execFile(process.execPath, [join(ROOT, 'cli/bin/hz.mjs'), ...args], { cwd: ROOT }, (error, out, err) => {
      resolve({ code: typeof error?.code === 'number' ? error.code : 0, out, err });
    });
  });
}

let directory: string;
beforeAll(() => {
  directory = mkdtempSync(join(tmpdir(), 'hz-'));
});
afterAll(() => rmSync(directory, { recursive: true, force: true }));

function planFile(
  name: string,
  change: (plan: { clock: object; signals: Record<string, unknown>[] }) => void,
): string {
  const plan = JSON.parse(readFileSync(join(ROOT, DEMO), 'utf8')) as {
    clock: object;
    signals: Record<string, unknown>[];
  };
  change(plan);
  const file = join(directory, name);
  writeFileSync(file, JSON.stringify(plan));
  return file;
}

const toneAt = (
  clock: object,
  signal: object,
): ((plan: { clock: object; signals: Record<string, unknown>[] }) => void) => {
  return (plan) => {
    plan.clock = clock;
    plan.signals = [{ id: 'one', name: 'One', ...signal }];
  };
};

jest.setTimeout(60000);

it('lists the parts', async () => {
  const { code, out } = await hz('parts');
  const parts = JSON.parse(out) as {
    id: string;
    timers: string[];
    pins: string[];
    features: string[];
    verified: boolean;
  }[];
  const part = parts.find((one) => one.id === 'atmega328p');
  expect(code).toBe(0);
  expect(parts.find((one) => one.id === 'rp2040')).toMatchObject({
    verified: false,
    features: expect.arrayContaining(['fractional divider']) as unknown,
  });
  expect(part).toMatchObject({ id: 'atmega328p', timers: ['TIMER0', 'TIMER1', 'TIMER2'] });
  expect(part?.pins).toContain('PB1');
});

it('fits 1 kHz at 16 MHz: prescaler 1 and top 15999 first, with registers', async () => {
  const tone = { kind: 'tone', target: { frequencyHz: 1000 } };
  const file = planFile('tone.plan.json', toneAt({ source: 'crystal', sourceHz: 16000000 }, tone));
  const { code, out } = await hz('fit', file, '--signal', 'one', '--limit', '3');
  const { signals } = JSON.parse(out) as {
    signals: { candidates: Record<string, unknown>[]; refused: { timer: string; mode?: string }[] }[];
  };
  expect(code).toBe(0);
  expect(signals[0]?.candidates).toHaveLength(3);
  expect(signals[0]?.candidates[0]).toMatchObject({
    drive: 'pwm',
    timer: 'TIMER1',
    prescaler: 1,
    top: 15999,
    divider: 1,
    frequencyHz: 1000,
    frequencyExact: '1000',
    errorPpm: 0,
    cpu: 0,
    jitterS: 0,
    steps: 16000,
  });
  expect(signals[0]?.candidates[0]?.['registers']).toContainEqual({ name: 'TCCR1B', value: 0x19 });
  expect(signals[0]?.refused).toContainEqual(expect.objectContaining({ timer: 'TIMER0', mode: 'fast' }));
});

it('fits a plan that brings its own part', async () => {
  const ownPart = JSON.parse(readFileSync(join(ROOT, 'examples/quill8.part.json'), 'utf8')) as object;
  const plan = {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Own',
    part: 'quill8',
    clock: { source: 'crystal', sourceHz: 12000000 },
    signals: [{ id: 'hum', name: 'Hum', kind: 'tone', target: { frequencyHz: 1000, toleranceCents: 20 } }],
    ownPart,
  };
  const file = join(directory, 'own.plan.json');
  writeFileSync(file, JSON.stringify(plan));
  const { code, out } = await hz('fit', file, '--limit', '1');
  const { signals } = JSON.parse(out) as { signals: { candidates: { prescaler: number; top: number }[] }[] };
  expect(code).toBe(0);
  expect(signals[0]?.candidates[0]).toMatchObject({
    prescaler: 64,
    top: 187,
    registers: expect.arrayContaining([{ name: 'TPER', value: 187 }]) as unknown,
  });
});

it('says what comes nearest where nothing meets a target', async () => {
  const file = planFile(
    'fast.plan.json',
    toneAt({ source: 'rc8', sourceHz: 8000000 }, { kind: 'tone', target: { frequencyHz: 30e6 } }),
  );
  const { out } = await hz('fit', file);
  const { signals } = JSON.parse(out) as {
    signals: { candidates: unknown[]; nearest: { frequencyHz: number }[] }[];
  };
  expect(signals[0]?.candidates).toEqual([]);
  expect(signals[0]?.nearest[0]?.frequencyHz).toBe(4000000);
});

it('checks the demo: all hold, exit 0; and an oscillator that cannot: exit 1', async () => {
  const good = await hz('check', DEMO);
  expect(good.code).toBe(0);
  const { checks } = JSON.parse(good.out) as {
    checks: { signal: string; property: string; verdict: string }[];
  };
  expect(checks).toHaveLength(9);
  expect(checks.every((check) => check.verdict === 'pass')).toBe(true);
  const bad = await hz(
    'check',
    planFile('rc.plan.json', (plan) => (plan.clock = { source: 'rc8', sourceHz: 8000000 })),
    '--table',
  );
  expect(bad.code).toBe(1);
  expect(bad.out).toMatch(/^status-led\s+computed\s+frequency\s+0\.25 .* fail$/m);
});

it('writes the C files and names them', async () => {
  const out = join(directory, 'deep/out');
  const { code } = await hz('code', DEMO, '--out', out);
  expect(code).toBe(0);
  expect(readdirSync(out).sort()).toEqual(['greenhouse_bench.c', 'greenhouse_bench.h']);
});

it('calls registers as the header of the device does, where its data names one', async () => {
  const out = join(directory, 'named');
  const file = planFile('named.plan.json', (plan) => {
    Object.assign(plan, {
      part: 'stm32f401',
      clock: { source: 'crystal', sourceHz: 8e6 },
      pinNames: undefined,
    });
    plan.signals = [{ id: 'lamp', name: 'Lamp', kind: 'blink', target: { frequencyHz: 2 } }];
  });
  expect((await hz('code', file, '--out', out, '--device-header')).code).toBe(0);
  const [source = ''] = readdirSync(out).filter((name) => name.endsWith('.c'));
  expect(readFileSync(join(out, source), 'utf8')).toMatch(/TIM\d+->CR1 = /);
  const avr = await hz('code', DEMO, '--out', out, '--device-header');
  expect(avr.code).toBe(2);
  expect(avr.err).toMatch(/^hz: ATmega328P: its code always uses the names of its headers\.$/m);
});

it('brings the clocks up where that is wanted and can be, and says why not elsewhere', async () => {
  const out = join(directory, 'clocked');
  const file = planFile('clocked.plan.json', (plan) => {
    Object.assign(plan, {
      part: 'rp2040',
      clock: { source: 'crystal', sourceHz: 12e6 },
      pinNames: undefined,
    });
    plan.signals = [{ id: 'lamp', name: 'Lamp', kind: 'blink', target: { frequencyHz: 20 } }];
  });
  expect((await hz('code', file, '--out', out, '--start-up')).code).toBe(0);
  const text = (end: string) => {
    const [name = ''] = readdirSync(out).filter((one) => one.endsWith(end));
    return readFileSync(join(out, name), 'utf8');
  };
  expect(text('.h')).toMatch(/^void \w+_clocks\(void\);$/m);
  expect(text('.c')).toMatch(/^ \* Set by \w+_clocks:$/m);
  const avr = await hz('code', DEMO, '--out', out, '--start-up');
  expect(avr.code).toBe(2);
  expect(avr.err).toMatch(/^hz: ATmega328P: init sets the clocks in any case\.$/m);
});

it.each<[string, string[], RegExp]>([
  ['no file', ['fit', 'nowhere.json'], /^hz: nowhere\.json: there is no such file\.$/],
  ['a directory', ['check', 'core'], /^hz: core: it is a directory\.$/],
  ['no such signal', ['fit', DEMO, '--signal', 'bell'], /no signal has the id “bell”; there are frost-alarm/],
  ['a limit that is not a number', ['fit', DEMO, '--limit', 'many'], /must be a whole number, 1 or more/],
  ['an unknown command', ['dance'], /unknown command/],
  ['no output directory', ['code', DEMO], /required option '--out <dir>'/],
])('answers %s with one line and exit 2', async (_, args, line) => {
  const { code, out, err } = await hz(...args);
  expect(code).toBe(2);
  expect(out).toBe('');
  expect(err.trim().split('\n')).toHaveLength(1);
  expect(err.trim()).toMatch(line);
});

it('reads register values back: what they make, and the slip that explains it', async () => {
  const words = ['TCCR1A=0x82', 'TCCR1B=0x1C', 'ICR1=31249', 'OCR1A=3124', 'DDRB=2'];
  const { code, out } = await hz('decode', DEMO, ...words, '--signal', 'status-led');
  const read = JSON.parse(out) as { timers: { effects: object[] }[]; slips: { id: string }[] };
  expect(code).toBe(0);
  // 16 MHz / 256 / 31250 = 2 Hz, four times the half hertz of the target.
  expect(read.timers[0]?.effects[0]).toMatchObject({ pin: 'PB1', prescaler: 256, frequencyExact: '2' });
  expect(read.slips.map((slip) => slip.id)).toEqual(['clock']);
  expect((await hz('decode', DEMO, 'TCCR9X=1')).code).toBe(2);
});

it('finds a tick from interrupts, with its cost', async () => {
  const tick = { kind: 'tick', target: { frequencyHz: 1000 } };
  const file = planFile('tick.plan.json', toneAt({ source: 'crystal', sourceHz: 16000000 }, tick));
  const { out } = await hz('fit', file, '--limit', '1');
  const { signals } = JSON.parse(out) as { signals: { candidates: Record<string, unknown>[] }[] };
  expect(signals[0]?.candidates[0]).toMatchObject({ drive: 'interrupt', divider: 1, frequencyExact: '1000' });
  expect(signals[0]?.candidates[0]?.cpu).toBeGreaterThan(0);
});

it('writes a trace and holds it against the plan again: all as it was', async () => {
  const vcd = join(directory, 'demo.vcd');
  const wrote = await hz('trace', DEMO, '--seconds', '5', '--out', vcd);
  expect([wrote.code, wrote.err]).toEqual([0, '']);
  expect(JSON.parse(wrote.out)).toMatchObject({
    signals: ['frost-alarm', 'status-led', 'mist-pump', 'grow-light'],
  });
  const report = join(directory, 'report.xml');
  const checked = await hz('check', DEMO, '--capture', vcd, '--junit', report);
  const { checks, capture } = JSON.parse(checked.out) as {
    checks: { of: string; verdict: string; signal: string }[];
    capture: { ratio: number; pairs: { wire: string; signal: string; slip?: object }[] };
  };
  expect(checked.code).toBe(0);
  expect(capture.ratio).toBeCloseTo(1, 7);
  expect(capture.pairs.map(({ wire, signal }) => `${wire} ${signal}`)).toEqual([
    'Frost_alarm frost-alarm',
    'Status_LED status-led',
    'Mist_pump mist-pump',
    'Grow_light grow-light',
  ]);
  expect(checks.filter(({ of }) => of === 'captured').every(({ verdict }) => verdict === 'pass')).toBe(true);
  const xml = readFileSync(report, 'utf8');
  expect(xml).toContain(`tests="${checks.length}" failures="0"`);
  expect(xml).toContain('<testcase classname="mist-pump" name="captured duty"/>');
});

it('answers a broken capture, a wrong wire and a name without a kind in one line', async () => {
  const bad = join(directory, 'bad.vcd');
  writeFileSync(bad, '$timescale 1 ns $end $var wire 1 ! a $end $enddefinitions $end\n#5\n1!\n#4\n');
  for (const [words, sentence] of [
    [['check', DEMO, '--capture', bad], /bad\.vcd: Byte \d+: time goes back from 5 to 4\./],
    [['check', DEMO, '--capture', bad, '--as', 'nonsense'], /./],
    [['trace', DEMO, '--seconds', '1', '--out', 'x.dat'], /must end in \.vcd, \.csv or \.wav/],
    [['trace', DEMO, '--seconds', '1', '--out', 'x.wav'], /holds one signal/],
    [['trace', DEMO, '--seconds', 'soon', '--out', 'x.vcd'], /time in s/],
  ] as const) {
    const { code, err } = await hz(...words);
    expect([code, err.trim().split('\n').length]).toEqual([2, 1]);
    expect(err).toMatch(sentence);
  }
});

it('finds one tick for several signals', async () => {
  const file = planFile('ticks.plan.json', (plan) => {
    plan.clock = { source: 'crystal', sourceHz: 16000000 };
    plan.signals = [1, 2, 10].map((frequencyHz) => ({
      id: `b${frequencyHz}`,
      name: `B${frequencyHz}`,
      kind: 'blink',
      target: { frequencyHz },
    }));
  });
  const { code, out } = await hz('share-tick', file);
  const { tickExact, uses } = JSON.parse(out) as { tickExact: string; uses: { divider: number }[] };
  expect(code).toBe(0);
  expect([tickExact, uses.map(({ divider }) => divider)]).toEqual(['20', [10, 5, 1]]);
  const wrong = await hz('share-tick', file, 'b7');
  expect([wrong.code, wrong.err]).toEqual([2, expect.stringContaining('b1, b2, b10 can') as unknown]);
});

it('names the place of a fault in a plan', async () => {
  const file = planFile('bad.plan.json', (plan) => (plan.signals[0]!['pin'] = 'PX1'));
  const { code, err } = await hz('check', file);
  expect(code).toBe(2);
  expect(err).toMatch(/bad\.plan\.json: signals\[0\]\.pin: ATmega328P has no pin “PX1”/);
});

it('refuses code for two signals that want one register differently', async () => {
  const file = planFile('clash.plan.json', (plan) => {
    (plan.signals[2]!['setting'] as { top: number }).top = 30000;
  });
  const { code, err } = await hz('code', file, '--out', directory);
  expect(code).toBe(2);
  expect(err).toMatch(
    /Mist pump cannot share Timer 1 with Status LED\. Both want 0\.5 Hz, by different settings: .* ICR1/,
  );
});

it('places all signals of a plan together, each on a channel of its own', async () => {
  const { code, out } = await hz('assign', 'examples/harbour-buoy.plan.json');
  expect(code).toBe(0);
  const { feasible, optimal, settings, conflicts } = JSON.parse(out) as {
    feasible: boolean;
    optimal: boolean;
    settings: { signal: string; timer: string; channel?: string }[];
    conflicts: unknown[];
  };
  expect({ feasible, optimal, conflicts }).toEqual({ feasible: true, optimal: true, conflicts: [] });
  expect(settings).toHaveLength(6);
  const places = settings.map(({ timer, channel }) => `${timer} ${channel}`);
  expect(new Set(places).size).toBe(6);
});

it('says what is to blame where a plan does not fit, and fixes that were tried; exit code 1', async () => {
  const plan = JSON.parse(readFileSync(join(ROOT, 'examples/harbour-buoy.plan.json'), 'utf8')) as object;
  const file = join(directory, 'kept.plan.json');
  writeFileSync(file, JSON.stringify({ ...plan, reserved: ['TIM2'] }));
  const { code, out } = await hz('assign', file, '--fixes');
  expect(code).toBe(1);
  const { conflicts } = JSON.parse(out) as { conflicts: { reason: string; fixes: string[] }[] };
  expect(conflicts.map(({ reason }) => reason)).toEqual([
    'Anemometer on PA15 could only be made by TIM2, which is reserved.',
  ]);
  expect(conflicts[0]?.fixes[0]).toBe('TIM2 not reserved');
  expect(conflicts[0]?.fixes).toContain('without Anemometer');
  const table = await hz('assign', file, '--fixes', '--table');
  expect(table.out).toMatch(/which is reserved\.\n {2}fix: TIM2 not reserved\n/);
});

it('checks a part file, and makes a plan for a part of a file', async () => {
  const whole = await hz('part', 'check', 'examples/quill8.part.json');
  expect(whole).toMatchObject({ code: 0, err: '' });
  expect(whole.out).toMatch(/^Quill8: nothing contradicts itself; 1 timer in 1 mode, /);
  const text = readFileSync(join(ROOT, 'examples/quill8.part.json'), 'utf8');
  const file = join(directory, 'wrong.part.json');
  writeFileSync(file, text.replace('"address": 17', '"address": 16'));
  const wrong = await hz('part', 'check', file);
  expect(wrong).toMatchObject({ code: 1, out: '' });
  expect(wrong.err).toContain(`${file}: registers[1].address: DIRA has the same address as OUTA, 0x10.`);
  expect(await hz('part', 'mend', file)).toMatchObject({ code: 2 });

  const said = await hz('say', 'examples/quill8.part.json', 'buzzer 1 kHz on A1');
  expect(JSON.parse(said.out)).toMatchObject({ part: 'quill8', ownPart: { id: 'quill8' } });
  const unknown = await hz('say', file, 'buzzer 1 kHz on A1');
  expect(unknown.code).toBe(2);
  expect(unknown.err).toContain('DIRA has the same address as OUTA');
});

it('decodes a program of a file for a part alone, and makes a plan of it', async () => {
  const file = join(directory, 'pump.c');
  writeFileSync(
    file,
    '#define TOP 15999\nint main(void) { DDRB |= (1<<PB1); TCCR1A = 0x82; TCCR1B = 0x19; ICR1 = TOP; OCR1A = 3999; lcd_init(); }',
  );
  const out = join(directory, 'pump.plan.json');
  const read = await hz('decode', 'atmega328p', file, '--out', out);
  expect(read).toMatchObject({ code: 0, err: '' });
  expect(JSON.parse(read.out)).toMatchObject({
    timers: [{ timer: 'TIMER1', effects: [{ pin: 'PB1', frequencyHz: 1000, duty: 0.25 }] }],
    reading: { lines: 2, understood: 1, skipped: [] },
  });
  const checked = await hz('check', out);
  expect(checked.code).toBe(0);
  expect((await hz('decode', 'atmega999', file)).code).toBe(2);
});

it('describes a plan for a review, as HTML or Markdown by the ending', async () => {
  const out = join(directory, 'greenhouse.html');
  const written = await hz('report', DEMO, '--out', out);
  expect(written).toMatchObject({ code: 0, err: '' });
  expect(written.out).toContain('9 of 9 checks pass.');
  expect(readFileSync(out, 'utf8')).toMatch(/^<!DOCTYPE html>/);
  const printed = await hz('report', DEMO);
  expect(printed.out).toMatch(/^# Greenhouse bench\n/);
  expect(printed.out).toContain('Independent sources confirm');
  expect((await hz('report', DEMO, '--out', join(directory, 'greenhouse.pdf'))).code).toBe(2);
});

it('packs a plan with everything of it, and reads it from there', async () => {
  const out = join(directory, 'greenhouse.zip');
  const capture = join(directory, 'bench.csv');
  writeFileSync(capture, 'time,fan\n0,0\n0.001,1\n');
  const written = await hz('archive', DEMO, '--out', out, '--capture', capture);
  expect([written.code, written.err]).toEqual([0, '']);
  expect(written.out).toMatch(/greenhouse\.zip: \d+ bytes\.\n$/);
  const [plain, packed] = [await hz('check', DEMO), await hz('check', out)];
  expect(packed).toEqual(plain);
  const broken = join(directory, 'broken.zip');
  writeFileSync(broken, readFileSync(out).subarray(0, 300));
  const refused = await hz('check', broken);
  expect([refused.code, refused.err]).toEqual([
    2,
    expect.stringMatching(/broken\.zip: The archive cannot be unpacked: .*\.\n$/),
  ]);
});

it('shows what is different between two plans, and fails where a check got worse', async () => {
  const same = await hz('diff', DEMO, DEMO);
  expect(same.code).toBe(0);
  expect(JSON.parse(same.out)).toMatchObject({ signals: [], checks: [], worse: false });
  const slower = planFile('slower.plan.json', (plan) => {
    plan.signals = plan.signals.map((signal) =>
      signal['id'] === 'status-led'
        ? { ...signal, target: { frequencyHz: 0.7, frequencyTolerancePpm: 100 } }
        : signal,
    );
  });
  const worse = await hz('diff', DEMO, slower, '--table');
  expect(worse.code).toBe(1);
  expect(worse.out).toContain('! status-led frequency: pass to fail');
});
