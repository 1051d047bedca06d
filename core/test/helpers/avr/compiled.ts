import { execFileSync, type ExecFileSyncOptions } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { CodeFile } from '../../../src/codegen/c-files.ts';

/** What the compiled program cannot be made without on this machine. */
export const MISSING_FOR_AVR = ['/usr/bin/avr-gcc', '/usr/bin/avr-objcopy'].filter(
  (path) => !existsSync(path),
);

/** Functions of the user's that a header asks for. */
function callbacks(header: string): string[] {
  return [...header.matchAll(/^void (\w+_tick)\(void\);/gm)].map(([, name]) => name ?? '');
}

/** Sources in a directory of their own compiled and linked for an ATmega328P: the bytes of its program memory. */
function compiled(sources: readonly CodeFile[], others: readonly CodeFile[] = []): Uint8Array {
  const directory = mkdtempSync(join(tmpdir(), 'hz-avr-'));
  try {
    for (const { name, text } of [...sources, ...others]) writeFileSync(join(directory, name), text);
    const flags = ['-mmcu=atmega328p', '-Os', '-std=gnu11', '-Wall', '-Werror', '-o', 'all.elf'];
    const own: ExecFileSyncOptions = { cwd: directory, stdio: ['ignore', 'ignore', 'inherit'] };
    execFileSync('avr-gcc', [...flags, ...sources.map(({ name }) => name)], own);
    execFileSync('avr-objcopy', ['-O', 'binary', 'all.elf', 'all.bin'], own);
    return new Uint8Array(readFileSync(join(directory, 'all.bin')));
  } finally {
    rmSync(directory, { recursive: true });
  }
}

/** A whole program in one file, compiled: the bytes of its program memory. */
export function programOfText(text: string): Uint8Array {
  return compiled([{ name: 'main.c', text }]);
}

/**
 * Generated files compiled with a main program that starts them, does what `then` says with STEM for the name of the program, and stands in a loop of two cycles:
 * the bytes of its program memory.
 */
export function programOfFiles(files: readonly CodeFile[], then = ''): Uint8Array {
  const header = files.find(({ name }) => name.endsWith('.h')) ?? { name: '', text: '' };
  const stem = header.name.replace(/\.h$/, '');
  const main = [
    '#include <avr/interrupt.h>',
    `#include "${header.name}"`,
    ...callbacks(header.text).map((name) => `void ${name}(void) { }`),
    `int main(void) { ${stem}_init(); ${stem}_start(); sei(); ${then.replaceAll('STEM', stem)} for (;;) { } }`,
  ];
  const sources = files.filter(({ name }) => name.endsWith('.c'));
  return compiled(
    [{ name: 'main.c', text: `${main.join('\n')}\n` }, ...sources],
    files.filter((file) => !sources.includes(file)),
  );
}
