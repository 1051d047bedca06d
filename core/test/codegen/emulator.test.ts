import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { avrCycles, avrSet } from '../../src/machine/avr-cycles.ts';
import { cyclesInListing } from '../../src/machine/listing.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { LOCK_GATE } from '../helpers/plan.ts';

const EMULATOR = '/usr/bin/qemu-system-avr';
const COMPILER = '/usr/bin/avr-gcc';
const missing = [EMULATOR, COMPILER].filter((path) => !existsSync(path));
if (missing.length > 0)
  process.stderr.write(`skipped: the emulator is not run, since ${missing.join(' and ')} is missing\n`);

/** Seconds for which the machine runs; some hundred ticks come in each. */
const SECONDS = 1.2;

const SIGNALS: PlanSignal[] = [
  {
    id: 'beat',
    name: 'Beat',
    kind: 'tick',
    target: { frequencyHz: 500 },
    setting: { drive: 'interrupt', timer: 'TIMER1', mode: 'ctc', prescaler: 1, top: 15_999, divider: 2 },
  },
  {
    id: 'lamp',
    name: 'Lamp',
    kind: 'blink',
    pin: 'PD4',
    target: { frequencyHz: 125 },
    setting: {
      drive: 'interrupt',
      timer: 'TIMER1',
      mode: 'ctc',
      prescaler: 1,
      top: 15_999,
      divider: 4,
      pin: 'PD4',
    },
  },
] as PlanSignal[];

const MAIN = `
#include <avr/interrupt.h>
#include <avr/io.h>
#include "lock_gate.h"
volatile uint16_t beats;
void beat_tick(void) { beats++; }
int main(void)
{
    volatile uint32_t rounds = 0;
    lock_gate_init();
    lock_gate_start();
    sei();
    for (;;) { rounds = rounds * 3u + PIND; }
}
`;

type Executed = { at: number; symbol: string };

/** The instructions that the machine executed in a range of addresses; one that it broke off and began again is told once. */
function executed(trace: string): Executed[] {
  const told = trace.split('\n').flatMap((line) => {
    const read = /\[\w+\/([0-9a-f]+)\/\w+\/\w+\] ?(\S*)/.exec(line);
    return read ? [{ at: parseInt(read[1] ?? '', 16), symbol: read[2] ?? '' }] : [];
  });
  return told.filter(({ at }, i) => at !== told[i - 1]?.at);
}

/** Mnemonics of a program by their addresses. */
function mnemonics(listing: string): Map<number, { name: string; bytes: number }> {
  return new Map(
    listing.split('\n').flatMap((line) => {
      const read = /^ *([0-9a-f]+):\t((?:[0-9a-f]{2} )+) *\t(\S+)/.exec(line);
      return read
        ? [
            [
              parseInt(read[1] ?? '', 16),
              { name: read[3] ?? '', bytes: (read[2] ?? '').trim().split(' ').length },
            ] as const,
          ]
        : [];
    }),
  );
}

(missing.length > 0 ? describe.skip : describe)('code on the emulated processor', () => {
  let directory: string;
  let listing: string;
  let runs: Executed[][];

  beforeAll(() => {
    directory = mkdtempSync(join(tmpdir(), 'hz-emulator-'));
    const file = (name: string): string => join(directory, name);
    const plan: Plan = { ...LOCK_GATE, signals: SIGNALS };
    for (const { name, text } of planCode(plan, atmega328p).files) writeFileSync(file(name), text);
    writeFileSync(file('main.c'), MAIN);
    const flags = ['-mmcu=atmega328p', '-DF_CPU=16000000UL', '-Os', '-std=c11'];
    execFileSync(COMPILER, [...flags, '-c', file('lock_gate.c'), '-o', file('plan.o')]);
    execFileSync(COMPILER, [...flags, file('main.c'), file('lock_gate.c'), '-o', file('prog.elf')]);
    listing = execFileSync('avr-objdump', ['-dr', file('plan.o')], { encoding: 'utf8' });
    const whole = execFileSync('avr-objdump', ['-d', file('prog.elf')], { encoding: 'utf8' });
    const [, start = '0'] = /^([0-9a-f]+) <__vector_11>:$/m.exec(whole) ?? [];
    const code = mnemonics(whole);
    const first = parseInt(start, 16);
    let last = first;
    while (code.get(last)?.name !== 'reti') last += code.get(last)?.bytes ?? 2;
    const vector = 11 * 4;
    const ranges = [`0x${vector.toString(16)}+4`, `0x${start}+0x${(last - first + 2).toString(16)}`];
    spawnSync(
      'timeout',
      [
        ...[String(SECONDS), EMULATOR, '-M', 'uno', '-bios', file('prog.elf'), '-display', 'none'],
        ...[
          '-serial',
          'null',
          '-monitor',
          'none',
          '-singlestep',
          '-d',
          'exec,nochain',
          '-dfilter',
          ranges.join(','),
        ],
        ...['-D', file('trace.log')],
      ],
      { stdio: 'ignore' },
    );
    const steps = executed(readFileSync(file('trace.log'), 'utf8'));
    const starts = steps.flatMap(({ at }, i) => (at === vector ? [i] : []));
    runs = starts.slice(0, -1).map((from, i) => steps.slice(from, starts[i + 1]));
    lengths = runs.map((run) => {
      let cycles = 0;
      run.forEach(({ at }, i) => {
        const own = code.get(at);
        const next = run[i + 1];
        if (!own || own.name === 'reti') return;
        if (own.name.startsWith('br')) cycles += next && next.at !== at + own.bytes ? 2 : 1;
        else if (own.name === 'call') cycles += 8; // and the return of the user's function
        else cycles += avrCycles(own.name, false) ?? NaN;
      });
      return cycles;
    });
  }, 60_000);
  let lengths: number[];

  afterAll(() => rmSync(directory, { recursive: true, force: true }));

  // How many depends on how busy the machine is that emulates.
  it('takes a row of ticks', () => {
    expect(runs.length).toBeGreaterThan(40);
  });

  it('enters each handler by its vector: 4 cycles of the hardware and 3 of the jump are the 7 of the model', () => {
    const jump = avrCycles('jmp', false) ?? NaN;
    expect(4 + jump).toBe(atmega328p.cpu.entryCycles);
    for (const [vector, handler] of runs) {
      expect(vector?.at).toBe(44);
      expect(handler?.symbol).toBe('__vector_11');
    }
  });

  it('executes handlers within the cycles that were counted in the listing, and both ends occur', () => {
    const counted = cyclesInListing(listing, '__vector_11', avrSet());
    if (!counted.ok) throw new Error(counted.fault.sentence);
    const { min, max } = counted.value;
    const jump = avrCycles('jmp', false) ?? NaN;
    const seen = lengths.map((cycles) => cycles - jump);
    expect(Math.min(...seen)).toBe(min);
    expect(Math.max(...seen)).toBe(max);
  });

  it('calls the tick every second interrupt, and toggles the pin every fourth', () => {
    const calls = runs.map((run) => run.length);
    // Neither, the tick, the tick and high, the tick and low: what eight interrupts do comes again with the next eight.
    expect(new Set(calls.slice(0, 8)).size).toBeGreaterThanOrEqual(3);
    expect(calls.slice(8, 104)).toEqual(calls.slice(16, 112));
  });
});
