import { execFileSync, type ExecFileSyncOptions } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { CodeFile } from '../../../src/codegen/c-files.ts';

/** What the compiled program cannot be made without on this machine. */
export const MISSING_FOR_RP2 = ['/usr/bin/arm-none-eabi-gcc', '/usr/bin/arm-none-eabi-objcopy'].filter(
  (path) => !existsSync(path),
);

const LINKER = `
MEMORY { FLASH (rx) : ORIGIN = 0x10000000, LENGTH = 64K  RAM (rwx) : ORIGIN = 0x20000000, LENGTH = 16K }
SECTIONS {
  .text : { KEEP(*(.vectors)) *(.text*) *(.rodata*) } > FLASH
  .bss (NOLOAD) : { *(.bss*) *(COMMON) *(.data*) } > RAM
}`;

/** The interrupts by their numbers, from 0 on. */
const HANDLERS = ['TIMER_IRQ_0', 'TIMER_IRQ_1', 'TIMER_IRQ_2', 'TIMER_IRQ_3', 'PWM_IRQ_WRAP'];

/**
 * Generated files compiled with a table of vectors and a main program that starts them and stands in a branch to itself: the bytes of
 * its program memory.
 */
export function programOfFiles(files: readonly CodeFile[]): Uint8Array {
  const directory = mkdtempSync(join(tmpdir(), 'hz-rp2-'));
  try {
    for (const { name, text } of files) writeFileSync(join(directory, name), text);
    const header = files.find(({ name }) => name.endsWith('.h')) ?? { name: '', text: '' };
    const stem = header.name.replace(/\.h$/, '');
    const callbacks = [...header.text.matchAll(/^void (\w+_tick)\(void\);/gm)].map(([, name]) => name ?? '');
    const table = HANDLERS.map((name) =>
      header.text.includes(`${name}_Handler(void)`) ? `${name}_Handler` : '0',
    );
    const main = [
      `#include "${header.name}"`,
      ...callbacks.map((name) => `void ${name}(void) { }`),
      `void begin(void) { ${stem}_init(); ${stem}_start(); for (;;) { } }`,
      'typedef void (*Vector)(void);',
      '__attribute__((section(".vectors"), used)) static const Vector vectors[] = {',
      `(Vector)0x20004000, begin, ${'0, '.repeat(14)} ${table.join(', ')} };`,
    ];
    writeFileSync(join(directory, 'main.c'), `${main.join('\n')}\n`);
    writeFileSync(join(directory, 'own.ld'), LINKER);
    const sources = files.filter(({ name }) => name.endsWith('.c')).map(({ name }) => name);
    const flags = [
      '-mcpu=cortex-m0plus',
      '-mthumb',
      '-Os',
      '-std=gnu11',
      '-ffreestanding',
      '-nostdlib',
      '-Wall',
    ];
    const own: ExecFileSyncOptions = { cwd: directory, stdio: ['ignore', 'ignore', 'inherit'] };
    const link = ['-T', 'own.ld', 'main.c', ...sources, '-lgcc', '-o', 'own.elf'];
    execFileSync('arm-none-eabi-gcc', [...flags, ...link], own);
    execFileSync('arm-none-eabi-objcopy', ['-O', 'binary', '-j', '.text', 'own.elf', 'own.bin'], own);
    return new Uint8Array(readFileSync(join(directory, 'own.bin')));
  } finally {
    rmSync(directory, { recursive: true });
  }
}
