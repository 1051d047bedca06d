import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import type { CodeFile } from '../../src/codegen/c-files.ts';
import { inStyle, registerName } from '../../src/part/register-names.ts';
import { clockPath } from '../../src/clock/path.ts';
import { decodeText } from '../../src/decode/decode.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { plansFor } from '../helpers/chip-plans.ts';
import { PARTS, shipped } from '../helpers/parts.ts';

const COMPILER = '/usr/bin/arm-none-eabi-gcc';
const part = shipped('stm32f401');
const device = inStyle(part, 'device');

/** The blocks of registers as the reference manual lays them out, word by word, and where each block is. */
const TIMER =
  'CR1 CR2 SMCR DIER SR EGR CCMR1 CCMR2 CCER CNT PSC ARR RCR CCR1 CCR2 CCR3 CCR4 BDTR DCR DMAR OR';
const PORT = 'MODER OTYPER OSPEEDR PUPDR IDR ODR BSRR LCKR AFR[2]';
const CLOCKS =
  'CR PLLCFGR CFGR CIR AHB1RSTR AHB2RSTR AHB3RSTR GAP0 APB1RSTR APB2RSTR GAP1[2] AHB1ENR AHB2ENR AHB3ENR GAP2 APB1ENR APB2ENR';
const BLOCKS: readonly (readonly [string, string, readonly (readonly [string, number])[]])[] = [
  [
    'TIM',
    TIMER,
    [
      ['TIM1', 0x40010000],
      ['TIM2', 0x40000000],
      ['TIM3', 0x40000400],
      ['TIM4', 0x40000800],
      ['TIM5', 0x40000c00],
      ['TIM9', 0x40014000],
      ['TIM10', 0x40014400],
      ['TIM11', 0x40014800],
    ],
  ],
  [
    'GPIO',
    PORT,
    ['A', 'B', 'C', 'D', 'E'].map((letter, at) => [`GPIO${letter}`, 0x40020000 + 0x400 * at] as const),
  ],
  ['RCC', CLOCKS, [['RCC', 0x40023800]]],
  ['SysTick', 'CTRL LOAD VAL CALIB', [['SysTick', 0xe000e010]]],
  ['NVIC', 'ISER[8] GAP0[24] ICER[8]', [['NVIC', 0xe000e100]]],
];

/** A header of the device with these blocks only, written down from the manual and from nothing of ours. */
const HEADER = [
  '#pragma once',
  '#include <stdint.h>',
  ...BLOCKS.flatMap(([name, words, places]) => [
    `typedef struct { ${words
      .split(' ')
      .map((word) => `volatile uint32_t ${word};`)
      .join(' ')} } ${name}_Type;`,
    ...places.map(([own, address]) => `#define ${own} ((${name}_Type *)0x${address.toString(16)}u)`),
  ]),
  '',
].join('\n');

/** What the manual calls the register at each address. */
const PLACES = new Map(
  BLOCKS.flatMap(([, words, blocks]) =>
    blocks.flatMap(([block, base]) => {
      let address = base;
      return words.split(' ').flatMap((word) => {
        const [, name = '', count] = /^(\w+?)(?:\[(\d+)\])?$/.exec(word) ?? [];
        return Array.from({ length: Number(count ?? 1) }, (_, at): [number, string] => {
          address += 4;
          return [address - 4, `${block}->${name}${count === undefined ? '' : `[${at}]`}`];
        });
      });
    }),
  ),
);

/** Definitions by address turned into the places that the manual has there. */
function byAddress(text: string): string {
  return text.replace(
    /\(\*\(volatile uint\d+_t \*\)(0x[0-9A-F]+)u\)/g,
    (whole, address: string) => PLACES.get(Number(address)) ?? whole,
  );
}

describe('names of the device’s header', () => {
  it.each([
    ['TIM3_CR1', 'TIM3->CR1'],
    ['GPIOB_AFRH', 'GPIOB->AFR[1]'],
    ['GPIOA_MODER', 'GPIOA->MODER'],
    ['RCC_APB1ENR', 'RCC->APB1ENR'],
    ['NVIC_ISER1', 'NVIC->ISER[1]'],
    ['SysTick_LOAD', 'SysTick->LOAD'],
    // No rule has it: it keeps its own name and address.
    ['NVIC_IPR7', 'NVIC_IPR7'],
  ])('%s is %s', (own, name) => {
    expect(registerName(device, own)).toBe(name);
    expect(registerName(part, own)).toBe(own);
  });

  it('one style is all that parts without such a header have', () => {
    for (const one of PARTS) if (!one.code.device) expect(inStyle(one, 'device')).toBe(one);
  });
});

/** Random plans that become a program, with their files in both styles. */
function programs(count: number): { own: CodeFile[]; named: CodeFile[] }[] {
  return fc
    .sample(plansFor(part), { numRuns: count, seed: 71_126 })
    .filter(({ signals }) => signals.length > 0)
    .map((plan) => ({
      own: planCode(plan, part).files,
      named: planCode(plan, part, { registers: 'device' }).files,
    }));
}

const skipped = existsSync(COMPILER) ? describe : describe.skip;
if (!existsSync(COMPILER)) process.stderr.write(`skipped: ${COMPILER} is missing\n`);

skipped('code with names of the device’s header', () => {
  it('is the same program, instruction by instruction, as that with addresses', () => {
    const directory = mkdtempSync(join(tmpdir(), 'hz-device-'));
    const options = { cwd: directory, encoding: 'utf8' } as const;
    const flags =
      '-mcpu=cortex-m4 -mthumb -Os -std=c11 -Wall -Wextra -Werror -Wconversion -pedantic -c'.split(' ');
    const compiled = (files: readonly CodeFile[]): string => {
      for (const { name, text } of files) writeFileSync(join(directory, name), text);
      const source = files.find(({ name }) => name.endsWith('.c'))?.name ?? '';
      execFileSync(COMPILER, [...flags, source, '-o', 'own.o'], options);
      return execFileSync('arm-none-eabi-objdump', ['-dr', 'own.o'], options);
    };
    try {
      writeFileSync(join(directory, 'stm32f4xx.h'), HEADER);
      let compared = 0;
      for (const { own, named } of programs(8)) {
        const text = named.map((file) => file.text).join('\n');
        expect(text).toContain('#include "stm32f4xx.h"');
        expect(text).toMatch(/\b(?:TIM\d+|SysTick)->/);
        expect(text).not.toMatch(/^(?!.*\/\*| \*).*\b(?:TIM\d+|RCC|GPIO[A-H])_[A-Z0-9]+ (?:=|&)/m);
        const words = own.map(({ name, text: one }) => ({
          name,
          text: `#include "stm32f4xx.h"\n${byAddress(one)}`,
        }));
        const [first, second] = [compiled(words), compiled(named)];
        expect(second).toBe(first);
        compared += 1;
      }
      expect(compared).toBeGreaterThan(0);
    } finally {
      rmSync(directory, { recursive: true, force: true });
    }
  });

  it('is read as the same settings', () => {
    const path = clockPath(part, part.defaultClock);
    for (const { own, named } of programs(8)) {
      const [one, other] = [own, named].map((files) => {
        const body = files[0]?.text ?? '';
        const found = decodeText(part, path, body.slice(body.indexOf('#include')));
        if (!found.ok) throw new Error(found.fault.sentence);
        return found.value.timers;
      });
      expect(other).toEqual(one);
    }
  });
});
