import { execFileSync, type ExecFileSyncOptions } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { CodeFile } from '../../../src/codegen/c-files.ts';

/** What the compiled program cannot be made without on this machine. */
export const MISSING_FOR_THUMB = ['/usr/bin/arm-none-eabi-gcc', '/usr/bin/arm-none-eabi-objcopy'].filter(
  (path) => !existsSync(path),
);

/** A chip as far as a program is built for it: its processor, where its program memory is, its interrupts by their numbers. */
export type ThumbChip = {
  processor: 'cortex-m0plus' | 'cortex-m4';
  flashAt: number;
  handlers: Readonly<Record<number, string>>;
};

export const PICO: ThumbChip = {
  processor: 'cortex-m0plus',
  flashAt: 0x10000000,
  handlers: {
    0: 'TIMER_IRQ_0_Handler',
    1: 'TIMER_IRQ_1_Handler',
    2: 'TIMER_IRQ_2_Handler',
    3: 'TIMER_IRQ_3_Handler',
    4: 'PWM_IRQ_WRAP_Handler',
  },
};

export const F401: ThumbChip = {
  processor: 'cortex-m4',
  flashAt: 0x08000000,
  handlers: {
    24: 'TIM1_BRK_TIM9_IRQHandler',
    25: 'TIM1_UP_TIM10_IRQHandler',
    26: 'TIM1_TRG_COM_TIM11_IRQHandler',
    27: 'TIM1_CC_IRQHandler',
    28: 'TIM2_IRQHandler',
    29: 'TIM3_IRQHandler',
    30: 'TIM4_IRQHandler',
    50: 'TIM5_IRQHandler',
  },
};

const linker = (flashAt: number): string => `
MEMORY { FLASH (rx) : ORIGIN = ${flashAt}, LENGTH = 64K  RAM (rwx) : ORIGIN = 0x20000000, LENGTH = 16K }
SECTIONS {
  .text : { KEEP(*(.vectors)) *(.text*) *(.rodata*) } > FLASH
  .bss (NOLOAD) : { *(.bss*) *(COMMON) *(.data*) } > RAM
}`;

/** The table of vectors: the stack, the start, the system timer, and the interrupts that the files handle. */
function vectorLines({ handlers }: ThumbChip, header: string): string[] {
  const last = Math.max(...Object.keys(handlers).map(Number));
  const own = (name = ''): string => (name !== '' && header.includes(`void ${name}(void)`) ? name : '0');
  const table = Array.from({ length: last + 1 }, (_, at) => own(handlers[at]));
  return [
    'typedef void (*Vector)(void);',
    '__attribute__((section(".vectors"), used)) static const Vector vectors[] = {',
    `(Vector)0x20004000, begin, ${'0, '.repeat(13)} ${[own('SysTick_Handler'), ...table].join(', ')} };`,
  ];
}

/**
 * Generated files compiled with a table of vectors and a main program that starts them and stands in a branch to itself: the bytes of
 * its program memory. `then` is what it does after the start, STEM standing for the name of the files.
 */
export function thumbProgram(chip: ThumbChip, files: readonly CodeFile[], then = ''): Uint8Array {
  const directory = mkdtempSync(join(tmpdir(), 'hz-thumb-'));
  try {
    for (const { name, text } of files) writeFileSync(join(directory, name), text);
    const header = files.find(({ name }) => name.endsWith('.h')) ?? { name: '', text: '' };
    const stem = header.name.replace(/\.h$/, '');
    const callbacks = [...header.text.matchAll(/^void (\w+_tick)\(void\);/gm)].map(([, name]) => name ?? '');
    const main = [
      `#include "${header.name}"`,
      ...callbacks.map((name) => `void ${name}(void) { }`),
      `void begin(void) { ${stem}_init(); ${stem}_start(); ${then.replaceAll('STEM', stem)} for (;;) { } }`,
      ...vectorLines(chip, header.text),
    ];
    writeFileSync(join(directory, 'main.c'), `${main.join('\n')}\n`);
    writeFileSync(join(directory, 'own.ld'), linker(chip.flashAt));
    const sources = files.filter(({ name }) => name.endsWith('.c')).map(({ name }) => name);
    const flags = [
      ...[`-mcpu=${chip.processor}`, '-mthumb', '-mfloat-abi=soft', '-Os', '-std=gnu11'],
      ...['-ffreestanding', '-nostdlib', '-Wall'],
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
