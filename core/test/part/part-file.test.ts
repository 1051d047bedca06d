import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import { fitRequirement } from '../../src/fit/fit.ts';
import { PLAN_VERSION } from '../../src/plan/versions.ts';
import { checkPart, readPart } from '../../src/timer/part-file.ts';
import { readPlan, checkPlan } from '../../src/plan/check-plan.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { writePlan } from '../../src/plan/write-plan.ts';
import { PARTS } from '../helpers/parts.ts';
import type { Part } from '../../src/part/types.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import { planCode } from '../../src/evaluate/code.ts';

const text = readFileSync(join(__dirname, '../../../examples/quill8.part.json'), 'utf8');

function quill(): Part {
  const read = readPart(text);
  if (!read.ok) throw new Error(read.fault.sentence);
  return read.value;
}

function planOf(part: Part): Plan {
  return {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Quill',
    part: part.id,
    clock: part.defaultClock,
    signals: [
      { id: 'hum', name: 'Hum', kind: 'tone', pin: 'A1', target: { frequencyHz: 1000, toleranceCents: 20 } },
    ],
    ownPart: part,
  };
}

describe('the worked example', () => {
  it('does what the page on the format says: 1 kHz is prescaler 64 and top 187', () => {
    const part = quill();
    const requirement = requirementOf({ kind: 'tone', target: { frequencyHz: 1000, toleranceCents: 20 } });
    const [first] = fitRequirement(part, clockPath(part, part.defaultClock), requirement, 'A1').candidates;
    expect(first?.setting).toMatchObject({ prescaler: 64, top: 187, compare: 94 });
    expect(first?.frequencyHz).toBeCloseTo(997.34, 2);
  });

  it('ticks by its interrupt: the same numbers, and the flag cleared by writing one', () => {
    const part = quill();
    const tick = { frequencyHz: 1000, frequencyTolerancePpm: 10000 };
    const [first] = fitRequirement(
      part,
      clockPath(part, part.defaultClock),
      requirementOf({ kind: 'tick', target: tick }),
    ).candidates;
    expect(first?.setting).toEqual({
      drive: 'interrupt',
      timer: 'T',
      mode: 'pwm',
      prescaler: 64,
      top: 187,
      divider: 1,
    });
    const plan: Plan = {
      ...planOf(part),
      signals: [{ id: 'beat', name: 'Beat', kind: 'tick', target: tick, setting: first?.setting }],
    };
    const code = planCode(plan, part)
      .files.map((file) => file.text)
      .join('\n');
    expect(code).toContain('void TIMER_handler(void)');
    expect(code).toMatch(/#define (TIRQ_\w+_BIT) 0x80u\n[^]*TIRQ = [^;]*\1/);
  });

  it('lives in a plan, through its file, down to code by address', () => {
    const written = writePlan(planOf(quill()));
    const read = readPlan(written, PARTS);
    if (!read.ok) throw new Error(read.fault.sentence);
    expect(writePlan(read.value.plan)).toBe(written);
    const [source, header] = planCode(read.value.plan, read.value.part).files;
    expect(source?.text).toContain(
      'TCON = (uint8_t)((TCON & ~TCON_DIV_FIELD(7u)) | TCON_RUN_BIT | TCON_O1_BIT | TCON_DIV_FIELD(3u));',
    );
    expect(source?.text).toContain('#define TCON_RUN_BIT 0x80u');
    expect(source?.text).toContain('#define TCON_DIV_FIELD(n) (n)');
    expect(source?.text).toContain('#define TCMP1 (*(volatile uint8_t *)0x24u)');
    expect(header?.text).toContain('void hum_set(uint8_t compare);');
  });
});

describe('what a file may say in another way', () => {
  it('takes addresses and reset values as datasheets print them', () => {
    const hexed = text
      .replace('"address": 32', '"address": "0x20"')
      .replace('"reset": 255', '"reset": "0xff"');
    expect(hexed).not.toBe(text);
    expect(readPart(hexed)).toEqual(readPart(text));
    const wrong = readPart(text.replace('"address": 32', '"address": "20h"'));
    expect(!wrong.ok && wrong.fault.sentence).toBe('registers[2].address must be a number, and is "20h".');
  });

  it('names in the code which of its registers nothing confirms, and only those that it writes', () => {
    const unverified = quill().registers.map(({ name }) => name);
    const head = (open: readonly string[]): string =>
      (planCode(planOf(quill()), quill(), { unverified: open }).files[0]?.text ?? '').split('*/')[0] ?? '';
    expect(head(unverified)).toContain(
      ' * No independent source confirms these registers or fields of them; compare them with the datasheet:\n * - OUTA, DIRA, TCON, TCNT, TPER, TCMP1.',
    );
    expect(head(['TCMP0', 'TCON.DIV'])).toContain(' * - TCON.\n');
    expect(head([])).not.toContain('independent');
  });
});

describe('faults of a part file, with their place', () => {
  const after = (change: (part: Record<string, never> & Part) => void): string => {
    const part = JSON.parse(text) as Record<string, never> & Part;
    change(part);
    const read = checkPart(part);
    return read.ok ? 'whole' : read.fault.sentence;
  };
  const timer = (part: Part) =>
    part.timers[0] as unknown as {
      clock: string;
      sequence: unknown[];
      modes: { writes: object; compare: object; count: string }[];
    };

  it.each<[string, (part: Record<string, never> & Part) => void, RegExp]>([
    ['an unknown key', (part) => Object.assign(part, { maker: 'us' }), /^maker is not a key of a part\.$/],
    ['a missing list', (part) => Object.assign(part, { timers: undefined }), /^timers is missing\.$/],
    [
      'a field of a register that has none',
      (part) => (timer(part).modes[0]!.writes = { 'TCON.GO': 1 }),
      /^timers\[0\]\.modes\[0\]\.writes\["TCON\.GO"\]: TCON has no field GO; it has RUN, DIV, O0, O1\.$/,
    ],
    [
      'a register that is not there',
      (part) => (timer(part).modes[0]!.writes = { XCON: 1 }),
      /there is not a register XCON/,
    ],
    [
      'a value too large for its field',
      (part) => (timer(part).modes[0]!.writes = { 'TCON.DIV': 9 }),
      /9 does not fit, the greatest value is 7/,
    ],
    [
      'a way of counting that is none',
      (part) => (timer(part).modes[0]!.count = 'sideways'),
      /modes\[0\]\.count must be "up" or "updown", and is "sideways"/,
    ],
    [
      'a clock that is not there',
      (part) => (timer(part).clock = 'sun'),
      /^timers\[0\]\.clock: there is no clock sun; there are crystal, rc, main/,
    ],
    [
      'a sequence with a gap',
      (part) => timer(part).sequence.pop(),
      /TCON is written by a mode or the prescaler and is missing here/,
    ],
    [
      'a field outside its register',
      (part) => Object.assign(part.registers[2]!.fields, { RUN: [8, 8] }),
      /bits 8 to 8 are no field of 8 bits/,
    ],
    [
      'a standard clock that cannot be',
      (part) => (part.defaultClock.sourceHz = 40e6),
      /^standardClock\.sourceHz: The crystal may run from 1 MHz to 12 MHz/,
    ],
  ])('%s', (_, change, sentence) => {
    expect(after(change)).toMatch(sentence);
  });

  it('says so within a plan, and never throws: 20 000 mutated files', () => {
    const broken = { ...planOf(quill()), ownPart: { ...quill(), pins: [] } };
    const read = checkPlan(broken, PARTS);
    expect(!read.ok && read.fault.sentence).toMatch(/^ownPart: pins/);
    const piece = fc.constantFrom(
      '',
      '"',
      '{',
      '}',
      '[',
      '-1',
      '1e999',
      'null',
      ',',
      '9'.repeat(40),
      '"x":{},',
    );
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1, noNaN: true }), fc.nat(20), piece, (at, cut, put) => {
        const from = Math.floor(at * text.length);
        const result = readPart(text.slice(0, from) + put + text.slice(from + cut));
        return result.ok || /^\S.*\.$/s.test(result.fault.sentence);
      }),
      { numRuns: 20_000 },
    );
  });
});
