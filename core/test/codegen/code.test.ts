import type { ProgramSignal } from '../../src/program/signal.ts';
import { identifier } from '../../src/program/names.ts';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { clockPath } from '../../src/clock/path.ts';
import { cFiles, CodeError } from '../../src/codegen/c-files.ts';
import { readPlan } from '../../src/plan/check-plan.ts';
import { fitRequirement } from '../../src/fit/fit.ts';
import { PARTS, partById } from '../helpers/parts.ts';
import { atmega2560 } from '../../src/part/parts/avr/atmega2560.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import { attiny85 } from '../../src/part/parts/avr/attiny85.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import type { Part } from '../../src/part/types.ts';
import type { KindAndTarget } from '../../src/signal/signal.ts';
import { hasTimer, topRange, type OutputSetting, type Setting } from '../../src/timer/setting.ts';
import { mergeWrites } from '../../src/timer/merge.ts';
import { planCode } from '../../src/evaluate/code.ts';

const part = atmega328p;
const path = clockPath(part, { source: 'crystal', sourceHz: 16e6 });

/** Compiles a C file with all warnings as errors; gives the object's disassembly. */
function compile(files: { name: string; text: string }[], chip = 'atmega328p', level = '-Os'): string {
  const directory = mkdtempSync(join(tmpdir(), 'code-'));
  try {
    for (const { name, text } of files) writeFileSync(join(directory, name), text);
    const source = files.find(({ name }) => name.endsWith('.c'))?.name ?? '';
    const flags = ['-Wall', '-Wextra', '-Werror', '-pedantic', '-std=c99', level, `-mmcu=${chip}`];
    execFileSync('avr-gcc', [...flags, '-c', source, '-o', 'out.o'], {
      cwd: directory,
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    return execFileSync('avr-objdump', ['-d', 'out.o'], { cwd: directory, maxBuffer: 2 ** 26 }).toString();
  } finally {
    rmSync(directory, { recursive: true, force: true });
  }
}

function signal(name: string, change: Partial<OutputSetting>): ProgramSignal {
  const base: OutputSetting = {
    drive: 'pwm',
    timer: 'TIMER1',
    mode: 'fast-icr',
    channel: 'OC1A',
    pin: 'PB1',
    prescaler: 8,
    top: 999,
    compare: 499,
  };
  return { name, sentence: `${name} does its work.`, setting: { ...base, ...change } };
}

describe('the C files', () => {
  it('of the demo compile without a warning and hold what the plan says', () => {
    const text = readFileSync(join(__dirname, '../../../examples/greenhouse.plan.json'), 'utf8');
    const read = readPlan(text, PARTS);
    if (!read.ok) throw new Error(read.fault.sentence);
    const files = planCode(read.value.plan, read.value.part).files;
    const source = files[0]?.text ?? '';
    expect(source).toContain('TCCR1A = (1 << COM1A1) | (1 << COM1B1) | (1 << WGM11);');
    expect(source).toContain('ICR1 = 31249;');
    expect(compile(files)).toContain('<greenhouse_bench_start>');
  });

  it.each([atmega328p, atmega2560, attiny85])(
    'compile for every mode, drive and polarity of $name',
    (chip) => {
      const { defaultClock } = chip;
      const clock = clockPath(chip, {
        ...defaultClock,
        ...(chip === attiny85 ? { settings: { timer1: 'pll' } } : {}),
      });
      const signals = chip.timers.flatMap((timer) =>
        timer.modes.flatMap((mode) =>
          (['pwm', 'toggle'] as const).flatMap((drive) =>
            timer.channels
              .filter((channel) => mode[drive]?.channels.includes(channel.id))
              .flatMap((channel) =>
                channel.outputs
                  .filter((output) => output.drive === drive)
                  .map((output) => ({ channel, output })),
              )
              .map(({ channel, output }) => {
                const top = topRange(mode).max;
                return signal(
                  `${timer.id} ${mode.id} ${channel.id} ${output.pin} ${drive} ${output.polarity}`,
                  {
                    drive,
                    timer: timer.id,
                    mode: mode.id,
                    channel: channel.id,
                    pin: output.pin,
                    polarity: output.polarity,
                    prescaler: 64,
                    top,
                    compare: drive === 'toggle' ? top : 20,
                  },
                );
              }),
          ),
        ),
      );
      expect(signals.length).toBeGreaterThan(20);
      const all = signals.map((one, at) => cFiles(chip, clock, `unit ${at}`, [one]));
      const headers = all.map(([, header]) => header).filter((file) => file !== undefined);
      const sources = all.map(([source]) => source?.text ?? '').join('\n');
      const listing = compile([{ name: 'all.c', text: sources }, ...headers], chip.id);
      expect(listing.match(/<unit_\d+_start>:/g)).toHaveLength(signals.length);
    },
  );

  it('stop the clock until mode and top are written, and set the direction last', () => {
    const [source] = cFiles(part, path, 'order', [signal('Fan', {})]);
    const lines = (source?.text ?? '').split('\n').map((line) => line.trim());
    const at = (start: string): number => lines.findIndex((line) => line.startsWith(start));
    const order = [
      '__asm__ __volatile__ ("sts %0, %1\\n\\tsts %0, %2" : : "n" (_SFR_MEM_ADDR(CLKPR)), "r" ((uint8_t)((1 << CLKPCE))), "r" ((uint8_t)(0)));',
      'PORTB &=',
      'OCR1A = 499;',
      'TCCR1A =',
      'TCCR1B = (1 << WGM13) | (1 << WGM12); /*',
      'ICR1 = 999;',
      'TCNT1 = 0u;',
      'TCCR1B = (1 << WGM13) | (1 << WGM12) | (1 << CS11);',
      'DDRB |=',
    ];
    const places = order.map(at);
    expect(places).toEqual([...places].sort((one, other) => one - other));
    expect(places).not.toContain(-1);
  });

  it.each(['-Os', '-O0'])(
    'unlock the clock divider in the instruction before it is written, with %s',
    (level) => {
      const slow = clockPath(part, { source: 'rc8', sourceHz: 8e6, settings: { io: 8 } });
      const listing = compile(cFiles(part, slow, 'slow', [signal('Fan', {})]), part.id, level).split('\n');
      // CLKPR is at 0x61.
      const unlock = listing.findIndex((line) => /\bsts\s+0x0061/.test(line));
      expect(unlock).toBeGreaterThan(0);
      expect(listing[unlock + 1]).toMatch(/\bsts\s+0x0061/);
    },
  );

  it('survive any name: comments stay comments, identifiers stay identifiers', () => {
    const name = '*/ int x; /* "Ünï" \\\n??/ 9';
    expect(identifier(name)).toMatch(/^[a-z][a-z0-9_]*$/);
    expect(identifier('')).toBe('plan_unnamed');
    const files = cFiles(part, path, name, [signal(name, {}), signal(name, { channel: 'OC1B', pin: 'PB2' })]);
    expect(() => compile(files)).not.toThrow();
  });
});

/** Compiles C files, each by itself, with all warnings as errors. */
function compileEach({ id, code }: Part, files: readonly { name: string; text: string }[]): void {
  const directory = mkdtempSync(join(tmpdir(), 'code-'));
  try {
    for (const { name, text } of files) writeFileSync(join(directory, name), text);
    const sources = files.flatMap(({ name }) => (name.endsWith('.c') ? [name] : []));
    const flags = ['-Wall', '-Wextra', '-Werror', '-std=c99'];
    const options = { cwd: directory, stdio: ['ignore', 'pipe', 'pipe'] as ['ignore', 'pipe', 'pipe'] };
    if (code.headers.length > 0)
      execFileSync('avr-gcc', [...flags, '-pedantic', '-Os', `-mmcu=${id}`, '-S', ...sources], options);
    // C that names its registers by address: pointers of this machine are wider than those of the chips.
    else execFileSync('gcc', [...flags, '-Wno-int-to-pointer-cast', '-fsyntax-only', ...sources], options);
  } finally {
    rmSync(directory, { recursive: true, force: true });
  }
}

describe('the program that interrupts and loops make', () => {
  const blink: KindAndTarget = { kind: 'blink', target: { frequencyHz: 2, duty: 0.25 } };
  const tick: KindAndTarget = { kind: 'tick', target: { frequencyHz: 100 } };
  const wanted: [string, KindAndTarget][] = [
    ['interrupt', { kind: 'blink', target: { frequencyHz: 2 } }],
    ['software-pwm', blink],
    ['interrupt-pair', blink],
    ['delay-loop', blink],
    ['interrupt', tick],
    ['capture', { kind: 'measure', target: { minHz: 100, maxHz: 500, resolution: 0.05 } }],
  ];

  it.each(PARTS.map((own) => [own.name, own] as const))(
    'compiles for every drive of %s',
    (_, own) => {
      const clock = clockPath(own, own.defaultClock);
      const seen = new Set<string>();
      const all: { name: string; text: string }[] = [];
      for (const [drive, aim] of wanted) {
        const found = fitRequirement(own, clock, requirementOf(aim)).candidates;
        const modes = new Map(
          found
            .filter(({ setting }) => setting.drive === drive)
            .map(({ setting }) => [hasTimer(setting) ? `${setting.timer} ${setting.mode}` : '', setting]),
        );
        for (const setting of modes.values()) {
          const light = { name: 'Buoy light', sentence: 'It does its work.', setting };
          all.push(...cFiles(own, clock, `unit ${all.length}`, [light]));
          seen.add(drive);
        }
      }
      compileEach(own, all);
      expect(seen).toContain('interrupt');
    },
    60_000,
  );

  it('writes a bit that two signals want once: the clock of a port, an interrupt both use', () => {
    const own = partById('stm32f401');
    if (!own) throw new Error('no part');
    const base = { timer: 'TIM2', mode: 'up', prescaler: 84, top: 999 } as const;
    const [source] = cFiles(own, clockPath(own, own.defaultClock), 'twice', [
      {
        name: 'One',
        sentence: '',
        setting: { ...base, drive: 'software-pwm', pin: 'PC13', divider: 10, compare: 3 },
      },
      {
        name: 'Two',
        sentence: '',
        setting: { ...base, drive: 'interrupt-pair', channel: 'CH1', pin: 'PC0', compare: 300 },
      },
    ]);
    expect(source?.text).toContain('RCC_AHB1ENR = RCC_AHB1ENR | RCC_AHB1ENR_GPIOCEN_BIT;');
    expect(source?.text).toContain('NVIC_ISER0 = NVIC_ISER0_IRQ28_BIT;');
    expect(source?.text).toContain('TIM2_DIER = TIM2_DIER | TIM2_DIER_CC1IE_BIT | TIM2_DIER_UIE_BIT;');
  });

  it('has one handler for signals that share an interrupt, each with its own count', () => {
    const base = { drive: 'interrupt', timer: 'TIMER2', mode: 'ctc', prescaler: 64, top: 249 } as const;
    const files = cFiles(part, path, 'shared', [
      { name: 'Slow', sentence: '', setting: { ...base, pin: 'PC0', divider: 500 } },
      { name: 'Fast', sentence: '', setting: { ...base, pin: 'PC1', divider: 50 } },
      { name: 'Clock', sentence: '', setting: { ...base, divider: 1 } },
    ]);
    const text = files[0]?.text ?? '';
    expect(text.match(/ISR\(/g)).toHaveLength(1);
    expect(text).toContain('if (++slow_count >= 500u) {');
    expect(text).toContain('if (++fast_count >= 50u) {');
    expect(text).toContain('clock_tick();');
    expect(text).toContain('TIMSK2 |= (1 << OCIE2A);');
    expect(text.indexOf('TIMSK2')).toBeGreaterThan(text.indexOf('TCCR2B ='));
    expect(text).toContain('sei();');
    expect(files[1]?.text).toContain('void clock_tick(void);');
    expect(() => compile(files)).not.toThrow();
  });

  it('stores orders to a clock controller whole, one for each channel of it', () => {
    const own = partById('samd21g18');
    if (!own) throw new Error('no part');
    const tick = (timer: string, mode: string): Setting => ({
      drive: 'interrupt',
      timer,
      mode,
      prescaler: 64,
      top: 999,
      divider: 1,
    });
    const [source] = cFiles(own, clockPath(own, own.defaultClock), 'orders', [
      { name: 'One', sentence: '', setting: tick('TC3', 'match') },
      { name: 'Two', sentence: '', setting: tick('TC4', 'match') },
      { name: 'Three', sentence: '', setting: tick('TCC2', 'single') },
    ]);
    const orders = (source?.text ?? '').match(/GCLK_CLKCTRL = .*/g);
    expect(orders).toEqual(
      [27, 28].map(
        (id) =>
          `GCLK_CLKCTRL = GCLK_CLKCTRL_CLKEN_BIT | GCLK_CLKCTRL_GEN_FIELD(4u) | GCLK_CLKCTRL_ID_FIELD(${id}u);`,
      ),
    );
  });

  it('reloads an overflow timer before anything else, and clears the flag itself', () => {
    const own = partById('pic16f684');
    if (!own) throw new Error('no part');
    const setting = {
      drive: 'interrupt',
      timer: 'TMR0',
      mode: 'reload',
      prescaler: 1,
      top: 197,
      divider: 1,
    } as const;
    const clock = clockPath(own, { source: 'rc8', sourceHz: 8e6 });
    const [source] = cFiles(own, clock, 'reload', [{ name: 'Beat', sentence: '', setting }]);
    const lines = (source?.text ?? '').split('\n').map((line) => line.trim());
    const start = lines.indexOf('void TMR0_handler(void)');
    expect(lines.slice(start + 2, start + 4)).toEqual([
      'INTCON &= (uint8_t)~INTCON_TMR0IF_BIT;',
      'TMR0 += 58u;',
    ]);
    expect(source?.text).toContain('if (INTCON & INTCON_TMR0IF_BIT) TMR0_handler();');
  });

  it('moves a match on by the period, from where the counter stands at the start', () => {
    const own = partById('rp2040');
    if (!own) throw new Error('no part');
    const setting = {
      drive: 'interrupt',
      timer: 'ALARM2',
      mode: 'alarm',
      prescaler: 1,
      top: 999,
      divider: 1,
    } as const;
    const [source] = cFiles(own, clockPath(own, own.defaultClock), 'moved', [
      { name: 'Beat', sentence: '', setting },
    ]);
    expect(source?.text).toContain('TIMER_INTR = TIMER_INTR_ALARM2_BIT;');
    expect(source?.text).toContain('TIMER_ALARM2 += 1000u;');
    expect(source?.text).toContain('TIMER_ALARM2 = TIMER_TIMERAWL + 1000u;');
  });
});

describe('two signals on one timer', () => {
  it('share it when they agree', () => {
    const [source] = cFiles(part, path, 'pair', [
      signal('Fan', {}),
      signal('Lamp', { channel: 'OC1B', pin: 'PB2', compare: 20 }),
    ]);
    expect(source?.text).toContain('(1 << COM1A1) | (1 << COM1B1)');
    expect(source?.text).toContain('OCR1B = 20;');
  });

  it('are refused with their names and the register when they do not', () => {
    const attempt = (): unknown =>
      cFiles(part, path, 'clash', [
        signal('Fan', {}),
        signal('Lamp', { channel: 'OC1B', pin: 'PB2', top: 500, compare: 20 }),
      ]);
    expect(attempt).toThrow(CodeError);
    expect(attempt).toThrow('Fan and Lamp both need ICR1, one as 999, the other as 500.');
  });

  it('merge to each write once', () => {
    const write = { register: 'A', field: 'X', value: 1 };
    const merged = mergeWrites([
      { name: 'one', writes: [write, { register: 'B', field: null, value: 7 }] },
      { name: 'two', writes: [write, { register: 'B', field: null, value: 8 }] },
    ]);
    expect(merged.writes).toHaveLength(2);
    expect(merged.conflicts).toEqual([{ register: 'B', field: null, users: ['one', 'two'], values: [7, 8] }]);
  });
});
