import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { planWorkspace } from '../../src/evaluate/workspace.ts';
import { shiftsText } from '../../src/evaluate/register-rows.ts';
import { readPlan } from '../../src/plan/check-plan.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { PARTS, shipped } from '../helpers/parts.ts';
import { planOn } from '../helpers/plan.ts';

function demo(name: string): { plan: Plan; part: (typeof PARTS)[number] } {
  const read = readPlan(readFileSync(join(__dirname, `../../../examples/${name}.plan.json`), 'utf8'), PARTS);
  if (!read.ok) throw new Error(read.fault.sentence);
  return read.value;
}

describe('registers as rows of fields', () => {
  const { plan, part } = demo('greenhouse');
  const { registers } = planWorkspace(plan, part, {});

  // TCCR2A: COM2B1, WGM21 and WGM20 are bits 5, 1 and 0; the alarm has Timer 2 to itself.
  it('have a value, that after reset, named bits, and who wants each', () => {
    const row = registers.find(({ name }) => name === 'TCCR2A');
    expect(row).toMatchObject({ address: 0xb0, width: 8, value: 0x23, reset: 0, signals: ['frost-alarm'] });
    expect(row?.fields.map(({ name, low, value }) => [name, low, value])).toEqual([
      ...[
        ['COM2A1', 7, 0],
        ['COM2A0', 6, 0],
        ['COM2B1', 5, 1],
        ['COM2B0', 4, 0],
      ],
      ...[
        ['WGM21', 1, 1],
        ['WGM20', 0, 1],
      ],
    ]);
    expect(row?.fields.find(({ name }) => name === 'COM2B1')?.signals).toEqual(['frost-alarm']);
    expect(row?.fields.find(({ name }) => name === 'COM2A1')?.signals).toEqual([]);
    expect(shiftsText(row!)).toBe('(1u << 5) | (1u << 1) | (1u << 0)');
  });

  it('tell all signals of a register that two of them share', () => {
    expect(registers.find(({ name }) => name === 'ICR1')?.signals).toEqual(['status-led', 'mist-pump']);
    expect(registers.find(({ name }) => name === 'CLKPR')?.signals).toEqual([]);
  });

  it('leave bits that the plan does not decide as after reset', () => {
    // TRISB is 0xFF after reset; RB0 becomes an output.
    const pic = shipped('pic18f4620');
    const { registers: rows } = planWorkspace(
      planOn(pic, { ...{ id: 'a', name: 'A', kind: 'blink', pin: 'RB0' }, target: { frequencyHz: 2 } }),
      pic,
      {},
    );
    expect(rows.find(({ name }) => name === 'TRISB')).toMatchObject({ value: 0xfe, reset: 0xff, mask: 1 });
  });
});

describe('lines of the code', () => {
  it('name their registers and signals; remarks and definitions name none', () => {
    const { plan, part } = demo('greenhouse');
    const [source] = planWorkspace(plan, part, {}).files;
    const lines = source!.text.split('\n');
    const at = (text: string): number => lines.findIndex((line) => line.includes(text)) + 1;
    const mark = (text: string) => source!.marks.find(({ line }) => line === at(text));
    expect(mark('OCR1A = 3124')).toEqual({
      line: at('OCR1A = 3124'),
      registers: ['OCR1A'],
      signals: ['status-led'],
    });
    expect(mark('TCCR1A = (1 << COM1A1) | (1 << COM1B1)')).toMatchObject({
      signals: ['status-led', 'mist-pump'],
    });
    for (const { line } of source!.marks) expect(lines[line - 1]).not.toMatch(/^\s*(?:\/\*|\*|#)/);
  });

  it('are found by the names of the device’s header, too', () => {
    const stm = shipped('stm32f401');
    const plan = planOn(stm, {
      ...{ id: 'a', name: 'Fan', kind: 'pwm', pin: 'PA6' },
      target: { frequencyHz: 25_000, duty: 0.4 },
    });
    const [source] = planWorkspace(plan, stm, { registers: 'device' }).files;
    const registers = new Set(source!.marks.flatMap((mark) => mark.registers));
    expect(source!.text).toContain('TIM3->ARR');
    expect([...registers]).toEqual(expect.arrayContaining(['TIM3_ARR', 'TIM3_CCR1', 'GPIOA_MODER']));
  });
});

describe('what is kept back', () => {
  it('are the signals of conflicts, with the sentence; the rest is whole code', () => {
    const { plan, part } = demo('harbour-buoy');
    const work = planWorkspace(plan, part, {});
    expect(work.keptBack.map(({ name }) => name)).toEqual([
      'Lantern',
      'Chart lamp',
      'Lens shutter',
      'Anemometer',
    ]);
    expect(work.keptBack[0]?.reason).toContain('0.25 Hz for Lantern');
    expect(work.files.map(({ name }) => name)).toEqual(['harbour_buoy.c', 'harbour_buoy.h', 'main.c']);
    expect(work.files[0]?.text).not.toContain('TIM3_');
  });

  it('is everything where nothing passes', () => {
    const avr = shipped('atmega328p');
    const plan = planOn(avr, {
      ...{ id: 'a', name: 'A', kind: 'tone' },
      target: { frequencyHz: 30_000_000 },
    });
    expect(planWorkspace(plan, avr, {})).toMatchObject({ files: [], keptBack: [{ name: 'A' }] });
  });
});

const CASES = [
  ['atmega328p', '/usr/bin/avr-gcc'],
  ['stm32f401', '/usr/bin/arm-none-eabi-gcc'],
  ['rp2040', '/usr/bin/arm-none-eabi-gcc'],
] as const;

describe.each(CASES)('the main program for %s', (id, compiler) => {
  (existsSync(compiler) ? it : it.skip)(
    'compiles by the lines that are handed over, with a tick and a loop',
    () => {
      const part = shipped(id);
      const plan = planOn(
        part,
        { ...{ id: 'lamp', name: 'Lamp', kind: 'blink' }, target: { frequencyHz: 2 } },
        { ...{ id: 'beat', name: 'Beat', kind: 'tick' }, target: { frequencyHz: 100 } },
      );
      const { files, build } = planWorkspace(plan, part, {});
      expect(files.find(({ name }) => name === 'main.c')?.text).toContain('void beat_tick(void)');
      const directory = mkdtempSync(join(tmpdir(), 'hz-main-'));
      try {
        for (const { name, text } of files) writeFileSync(join(directory, name), text);
        const script = build.join('\n').replaceAll('-Wextra', '-Wextra -Werror');
        execFileSync('sh', ['-e', '-c', script], { cwd: directory, stdio: 'pipe' });
      } finally {
        rmSync(directory, { recursive: true });
      }
    },
  );
});
