import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { CodeFile } from '../../src/codegen/c-files.ts';

const EMULATOR = '/usr/bin/qemu-system-arm';
const COMPILER = '/usr/bin/arm-none-eabi-gcc';

/** What an emulated ARM processor cannot be run without on this machine. */
export const MISSING_FOR_ARM = [EMULATOR, COMPILER].filter((path) => !existsSync(path));

/** A board of the emulator: its name, the compiler's flags, and what the program needs beside the generated files. */
export type Board = {
  machine: string;
  flags: readonly string[];
  /** How a program asks the emulator for something: one instruction. */
  ask: string;
  linker: string;
  /** Assembler that runs before `begin`, where the hardware does not call it by itself. */
  start?: string;
};

/** Printing and ending by requests to the emulator, for both instruction sets. */
const requests = (ask: string): string => `
static void ask(unsigned operation, const void *argument)
{
    register unsigned r0 __asm("r0") = operation;
    register const void *r1 __asm("r1") = argument;
    __asm volatile ("${ask}" : "+r"(r0) : "r"(r1) : "memory", "lr");
}
static void tell(uint32_t value)
{
    char text[12];
    unsigned at = 11;
    text[at] = 0;
    text[--at] = '\\n';
    do { text[--at] = (char)('0' + value % 10u); value /= 10u; } while (value);
    ask(4, &text[at]);
}
static void end(void)
{
    ask(0x18, (const void *)0x20026);
    for (;;) { }
}
`;

/** Compiles generated files with a main program for a board and runs it: the numbers it tells, in virtual time. */
export function toldBy(board: Board, files: readonly CodeFile[], main: string): number[] {
  const directory = mkdtempSync(join(tmpdir(), 'hz-arm-'));
  try {
    const file = (name: string, text: string): void => writeFileSync(join(directory, name), text);
    for (const { name, text } of files) file(name, text);
    const source = files.find(({ name }) => name.endsWith('.c'))?.name ?? '';
    const header = files.find(({ name }) => name.endsWith('.h'))?.name ?? '';
    file('main.c', `#include "${header}"\n${requests(board.ask)}${main}`);
    file('own.ld', board.linker);
    if (board.start !== undefined) file('start.s', board.start);
    const sources = [...(board.start === undefined ? [] : ['start.s']), 'main.c', source];
    const flags = [...board.flags, '-Os', '-std=gnu11', '-ffreestanding', '-nostdlib', '-Wall', '-Werror'];
    execFileSync(COMPILER, [...flags, '-T', 'own.ld', ...sources, '-lgcc', '-o', 'own.elf'], {
      cwd: directory,
    });
    const run = spawnSync(
      EMULATOR,
      [
        ...[
          '-M',
          board.machine,
          '-kernel',
          'own.elf',
          '-display',
          'none',
          '-monitor',
          'none',
          '-serial',
          'null',
        ],
        // An instruction is a nanosecond of virtual time, and waiting takes none of ours.
        ...['-semihosting-config', 'enable=on,target=native', '-icount', 'shift=0,sleep=off'],
      ],
      { cwd: directory, encoding: 'utf8', timeout: 30_000 },
    );
    const told = `${run.stdout}${run.stderr}`.trim();
    if (!/^\d+(?:\n\d+)*$/.test(told)) throw new Error(`the program told “${told.slice(0, 200)}”`);
    return told.split('\n').map(Number);
  } finally {
    rmSync(directory, { recursive: true, force: true });
  }
}
