import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { declared } from '../../src/codegen/declared.ts';
import { planCode } from '../../src/evaluate/code.ts';
import type { CodeFile } from '../../src/codegen/c-files.ts';
import type { Part } from '../../src/part/types.ts';
import { plansFor } from '../helpers/chip-plans.ts';
import { PARTS } from '../helpers/parts.ts';

/** Headers of random plans in both styles. */
function headersOf(part: Part, count: number): CodeFile[] {
  return fc
    .sample(plansFor(part), { numRuns: count, seed: 271_131 })
    .filter(({ signals }) => signals.length > 0)
    .flatMap((plan) =>
      (['own', 'device'] as const).flatMap((registers) =>
        planCode(plan, part, { registers, startUp: Array.isArray(part.bringUp) }).files.filter(({ name }) =>
          name.endsWith('.h'),
        ),
      ),
    );
}

it.each(PARTS.map((part) => [part.name, part] as const))(
  'the header for %s names no register, and needs no other header than that of whole numbers',
  (_, part) => {
    const registers = new Set(part.registers.map(({ name }) => name));
    const headers = headersOf(part, 12);
    expect(headers.length).toBeGreaterThan(10);
    for (const { text } of headers) {
      const code = text.replace(/\/\*[\s\S]*?\*\//g, '');
      const named = (code.match(/\b[A-Za-z_]\w*\b/g) ?? []).filter((word) => registers.has(word));
      expect(named).toEqual([]);
      expect(code.match(/^#include .*$/gm)).toEqual(['#include <stdint.h>']);
      expect(code).not.toMatch(/volatile uint\d+_t \*|__asm/);
    }
  },
);

it('stands in a program in C and in C++, and twice', () => {
  const directory = mkdtempSync(join(tmpdir(), 'header-'));
  const options = { cwd: directory, stdio: ['ignore', 'pipe', 'pipe'] as ['ignore', 'pipe', 'pipe'] };
  const include = '#include "on_chip.h"\n';
  try {
    writeFileSync(
      join(directory, 'main.c'),
      `${include}${include}int main(void) { on_chip_init(); return 0; }\n`,
    );
    for (const part of PARTS) {
      const [header] = headersOf(part, 4);
      writeFileSync(join(directory, 'on_chip.h'), header?.text ?? '');
      for (const language of ['c', 'c++'])
        execFileSync(
          'gcc',
          ['-x', language, '-Wall', '-Wextra', '-Werror', '-fsyntax-only', 'main.c'],
          options,
        );
    }
  } finally {
    rmSync(directory, { recursive: true, force: true });
  }
});

it('a function becomes a declaration, with what stands before it; its body goes to the source', () => {
  const lines = [
    '#define LAMP_TOP 9',
    '/* Sets it. */',
    'static inline void lamp_set(uint8_t compare)',
    '{',
    '    if (compare > 9u) {',
    '        compare = 9u;',
    '    }',
    '    OCR0A = compare;',
    '}',
    '',
  ];
  expect(declared(lines)).toEqual({
    header: ['#define LAMP_TOP 9', '/* Sets it. */', 'void lamp_set(uint8_t compare);', ''],
    source: [
      'void lamp_set(uint8_t compare)',
      '{',
      '    if (compare > 9u) {',
      '        compare = 9u;',
      '    }',
      '    OCR0A = compare;',
      '}',
      '',
    ],
  });
});
