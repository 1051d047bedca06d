import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { planFileName, type Plan } from '../../src/plan/plan.ts';
import { writePlan } from '../../src/plan/write-plan.ts';
import { checkPlan, readPlan } from '../../src/plan/check-plan.ts';
import { PARTS } from '../helpers/parts.ts';

const text = readFileSync(join(__dirname, '../../../examples/greenhouse.plan.json'), 'utf8');

function parsed(): Plan {
  const read = readPlan(text, PARTS);
  if (!read.ok) throw new Error(read.fault.sentence);
  return read.value.plan;
}

/** The sentence for the demo plan with one thing changed by a path such as "signals.0.target.frequencyHz". */
function faultAfter(path: string, value: unknown): { path: string; sentence: string } | undefined {
  const plan = JSON.parse(text) as Record<string, unknown>;
  const keys = path.split('.');
  const last = keys.pop() ?? '';
  const place = keys.reduce<Record<string, unknown>>((at, key) => at[key] as Record<string, unknown>, plan);
  place[last] = value;
  const read = checkPlan(plan, PARTS);
  return read.ok ? undefined : { ...read.fault, sentence: read.fault.sentence.replace(/\u202f/g, ' ') };
}

describe('the demo plan', () => {
  it('opens, and is written back to the same bytes', () => {
    const plan = parsed();
    expect(plan.name).toBe('Greenhouse bench');
    const written = writePlan(plan);
    const again = readPlan(written, PARTS);
    expect(again.ok && writePlan(again.value.plan)).toBe(written);
    expect(JSON.parse(written)).toEqual(JSON.parse(text));
  });

  it('gives the same bytes whatever the order of its keys', () => {
    const shuffled = (value: unknown): unknown =>
      Array.isArray(value)
        ? value.map(shuffled)
        : typeof value === 'object' && value !== null
          ? Object.fromEntries(
              Object.entries(value)
                .reverse()
                .map(([key, item]) => [key, shuffled(item)]),
            )
          : value;
    expect(writePlan(shuffled(parsed()) as Plan)).toBe(writePlan(parsed()));
  });

  it('has its keys in the order of the schemas: the plan, a signal, its target by its kind, its setting by its drive', () => {
    const keysOf = (value: unknown): string[] => Object.keys(value as object);
    const written = JSON.parse(
      writePlan({
        ...parsed(),
        reserved: ['TIMER2'],
        signals: [
          {
            target: { dutyTolerance: 0.1, duty: 0.5, frequencyHz: 440, toleranceCents: 5 },
            setting: {
              compare: 3,
              divider: 8,
              postscale: 1,
              top: 99,
              prescaler: 8,
              pin: 'PB1',
              mode: 'ctc-ocr',
              timer: 'TIMER1',
              drive: 'software-pwm',
            },
            sequence: { once: true, steps: [{ duty: 0.1, forS: 1 }] },
            load: { type: 'led', currentA: 0.01, forwardV: 2, supplyV: 5 },
            pin: 'PB1',
            kind: 'tone',
            name: 'One',
            id: 'one',
          },
        ],
      }),
    ) as Plan;
    expect(keysOf(written)).toEqual(
      ['format', 'version', 'name', 'part', 'clock', 'signals', 'reserved', 'pinNames', 'bookmarks'].filter(
        (key) => Object.hasOwn(written, key),
      ),
    );
    const [signal] = written.signals;
    expect(keysOf(signal)).toEqual(['id', 'name', 'kind', 'pin', 'target', 'sequence', 'setting', 'load']);
    expect(keysOf(signal?.target)).toEqual(['frequencyHz', 'toleranceCents', 'duty', 'dutyTolerance']);
    expect(keysOf(signal?.sequence)).toEqual(['steps', 'once']);
    expect(keysOf(signal?.sequence?.steps[0])).toEqual(['forS', 'duty']);
    expect(keysOf(signal?.load)).toEqual(['type', 'supplyV', 'forwardV', 'currentA']);
    expect(keysOf(signal?.setting)).toEqual([
      'drive',
      'timer',
      'mode',
      'pin',
      'prescaler',
      'top',
      'compare',
      'postscale',
      'divider',
    ]);
  });

  it('gives a part of the user’s own what its file leaves to the defaults', () => {
    const own = JSON.parse(
      readFileSync(join(__dirname, '../../../examples/quill8.part.json'), 'utf8'),
    ) as Record<string, unknown>;
    const { cpu } = own as { cpu: Record<string, unknown> };
    delete cpu['reloadCycles'];
    const plan = { ...parsed(), part: 'quill8', ownPart: own, signals: [], clock: undefined, pinNames: {} };
    const read = checkPlan(JSON.parse(JSON.stringify(plan)), PARTS);
    expect(read).toMatchObject({ ok: true, value: { plan: { ownPart: { cpu: { reloadCycles: 3 } } } } });
  });

  it('is saved under its name', () => {
    expect(planFileName(parsed())).toBe('greenhouse-bench.plan.json');
    expect(planFileName({ ...parsed(), name: '../../Ünï' })).toBe('uni.plan.json');
    expect(planFileName({ ...parsed(), name: '***' })).toBe('plan.plan.json');
  });
});

describe('bad input: one sentence with the place', () => {
  it.each<[string, unknown, string, RegExp]>([
    ['colour', 'red', 'colour', /^colour is not a key of a plan\.$/],
    ['signals.0.glow', 1, 'signals[0].glow', /^signals\[0\]\.glow is not a key/],
    [
      'signals.0.target.frequencyHz',
      -5,
      'signals[0].target.frequencyHz',
      /must be greater than 0, and is -5/,
    ],
    ['signals.0.target.frequencyHz', 0, 'signals[0].target.frequencyHz', /must be greater than 0, and is 0/],
    [
      'signals.0.target.frequencyHz',
      'fast',
      'signals[0].target.frequencyHz',
      /must be a number or a fraction .* and is "fast"/,
    ],
    ['signals.0.target.frequencyHz', NaN, 'signals[0].target.frequencyHz', /must be a number/],
    [
      'signals.0.target.frequencyHz',
      '1/0',
      'signals[0].target.frequencyHz',
      /must be a number or a fraction/,
    ],
    ['signals.1.pin', 'PQ9', 'signals[1].pin', /ATmega328P has no pin “PQ9”; it has PB0/],
    ['signals.1.setting.top', 70000, 'signals[1].setting.top', /from 3 to 65535; 70000 is not possible/],
    ['signals.1.setting.mode', 'nice', 'signals[1].setting.mode', /Timer 1 has no mode “nice”/],
    ['signals.1.setting.pin', 'PB2', 'signals[1].setting.pin', /is PB2, but the signal is on PB1/],
    ['signals.1.id', 'frost-alarm', 'signals[1]', /has the same id as entry 0/],
    ['signals.1.kind', 'wobble', 'signals[1].kind', /must be "blink" or .* and is "wobble"/],
    ['signals.3.target.minSteps', 1.5, 'signals[3].target.minSteps', /must be a whole number, and is 1.5/],
    ['signals.1.target.duty', 1.2, 'signals[1].target.duty', /must be 1 or less, and is 1.2/],
    ['signals', {}, 'signals', /must be a list/],
    ['part', 'abacus', 'part', /no part “abacus” is known; there are atmega328p, /],
    ['version', 3, 'version', /of version 3; this program reads versions up to 2/],
    ['clock.source', 'sun', 'clock.source', /no clock source “sun”; it has crystal/],
    ['clock.sourceHz', 99e6, 'clock.sourceHz', /may run from 400 kHz to 20 MHz, not at 99 MHz/],
    ['clock.settings', { io: 3 }, 'clock.settings.io', /divides by 1, 2, 4, .* not by 3/],
    ['clock.settings', { pll: 3 }, 'clock.settings.pll', /no clock setting “pll”/],
    ['name', '', 'name', /must not be empty/],
  ])('%s = %j', (path, value, place, sentence) => {
    const fault = faultAfter(path, value);
    expect(fault?.path).toBe(place);
    expect(fault?.sentence).toMatch(sentence);
  });

  it.each<[string, string, RegExp]>([
    ['an empty file', '', /^The file is empty\.$/],
    ['a truncated file', text.slice(0, 400), /^The file ends too early, at line \d+, column \d+/],
    [
      'NaN',
      '{\n  "name": NaN\n}',
      /^The file is not JSON: "NaN\\n}" is not expected at line 2, column 11\.$/,
    ],
    ['a comma too many', '{"name": "a",}', /line 1, column 14/],
    ['10 MB of noise', 'x9{'.repeat(3_400_000), /^The file has 10.2 MB; a plan has 5 MB at most/],
    ['deep nesting', '['.repeat(500_000), /nested too deeply|ends too early/],
    ['a list', '[]', /^The plan must be an object/],
    ['null', 'null', /^The plan must be an object/],
  ])('%s', (_, content, sentence) => {
    const read = readPlan(content, PARTS);
    expect(read.ok).toBe(false);
    expect(!read.ok && read.fault.sentence).toMatch(sentence);
  });

  it('reads a file with a byte order mark, and takes the pin of a setting from its signal', () => {
    const value = JSON.parse(text) as { signals: { setting: { pin?: string } }[] };
    delete value.signals[1]?.setting.pin;
    const read = readPlan(`\uFEFF${JSON.stringify(value)}`, PARTS);
    expect(read.ok && read.value.plan.signals[1]?.setting?.pin).toBe('PB1');
  });

  it('never throws, whatever is cut out, put in or doubled: 20 000 mutated files', () => {
    const piece = fc.constantFrom(
      '',
      '"',
      '{',
      '}',
      '[',
      '-',
      '1e999',
      'null',
      ',',
      '\\',
      '\u0000',
      '"__proto__":1,',
      '9'.repeat(40),
    );
    const mutation = fc.record({
      at: fc.double({ min: 0, max: 1, noNaN: true }),
      cut: fc.nat(30),
      put: piece,
    });
    fc.assert(
      fc.property(fc.array(mutation, { minLength: 1, maxLength: 3 }), (mutations) => {
        const changed = mutations.reduce((whole, { at, cut, put }) => {
          const from = Math.floor(at * whole.length);
          return whole.slice(0, from) + put + whole.slice(from + cut);
        }, text);
        const read = readPlan(changed, PARTS);
        return read.ok || /^\S.*\.$/s.test(read.fault.sentence);
      }),
      { numRuns: 20_000 },
    );
  });
});
