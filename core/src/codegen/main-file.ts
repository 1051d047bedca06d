import type { Part } from '../part/types.ts';
import { handlersOf } from '../program/handlers.ts';
import { identifier, labelsOf } from '../program/names.ts';
import type { ProgramSignal } from '../program/signal.ts';
import { driveOf } from '../timer/drives/index.ts';
import type { CodeFile } from './c-files.ts';
import { commentText } from './comment.ts';

/** What the main program of a plan calls: the choices of the code that it belongs to. */
type MainOptions = { startUp?: boolean; allowInterrupts?: boolean };

/** The functions that the application has to give, each with a place to fill in. */
function callbacks(part: Part, signals: readonly ProgramSignal[], labels: readonly string[]): string[] {
  return signals.flatMap(({ name, setting }, at) => {
    const actions = driveOf(setting)
      .handlers(part, setting)
      .flatMap((use) => use.actions);
    if (!actions.some((action) => action.do === 'call')) return [];
    return [
      `/* ${commentText(name)}: called from the interrupt at each tick, so keep it short. */`,
      `void ${labels[at]}_tick(void)`,
      '{',
      '    /* Yours. */',
      '}',
      '',
    ];
  });
}

/** How the program lets interrupts happen, if any of its handlers needs them. */
function allowLines(
  part: Part,
  signals: readonly ProgramSignal[],
  { allowInterrupts }: MainOptions,
): string[] {
  const { allow } = part.code;
  if (allow === '' || handlersOf(part, signals).length === 0) return [];
  if (allowInterrupts === true) return ['    /* The start has let interrupts happen. */'];
  return part.code.registers === 'addresses'
    ? [`    /* Let interrupts happen here: ${commentText(allow)} */`]
    : [`    ${allow}`];
}

/**
 * A minimal main program around the code of a plan: functions that the application has to give, the calls in their order, and the loop,
 * with a remark at each place to fill in.
 */
export function mainFile(
  part: Part,
  name: string,
  signals: readonly ProgramSignal[],
  options: MainOptions = {},
): CodeFile {
  const stem = identifier(name);
  const labels = labelsOf(signals);
  const loops = signals.flatMap(({ setting }, at) =>
    driveOf(setting).loop ? [`        ${labels[at]}_period();`] : [],
  );
  const includes = allowLines(part, signals, options).length > 0 ? part.code.headers : [];
  const text = [
    `/* A minimal program around ${commentText(name)}. */`,
    ...includes.map((header) => `#include ${header}`),
    `#include "${stem}.h"`,
    '',
    ...callbacks(part, signals, labels),
    'int main(void)',
    '{',
    ...(options.startUp === true && Array.isArray(part.bringUp) ? [`    ${stem}_clocks();`] : []),
    `    ${stem}_init();`,
    `    ${stem}_start();`,
    ...allowLines(part, signals, options),
    '    for (;;) {',
    ...loops,
    '        /* Yours. */',
    '    }',
    '}',
    '',
  ].join('\n');
  return { name: 'main.c', text };
}

/**
 * How the files of a plan are compiled with what Debian packages, as lines of a shell; or a sentence where no compiler of its makes
 * code for the part.
 */
export function buildLines(part: Part, files: readonly CodeFile[]): string[] {
  const sources = files.map(({ name }) => name).filter((name) => name.endsWith('.c'));
  const [first = 'plan.c'] = sources;
  const stem = first.replace(/\.c$/, '');
  const { compiler, assembly } = part.code;
  if (compiler?.family === 'avr')
    return [
      '# packages gcc-avr, avr-libc, binutils-avr',
      `avr-gcc -mmcu=${compiler.device} -std=c11 -Os -Wall -Wextra -o ${stem}.elf ${sources.join(' ')}`,
      `avr-objcopy -O ihex ${stem}.elf ${stem}.hex`,
    ];
  if (compiler?.family === 'thumb')
    return [
      '# package gcc-arm-none-eabi; the start-up file and the linker script are those of your board',
      `arm-none-eabi-gcc -mcpu=${compiler.device} -mthumb -std=c11 -ffreestanding -Os -Wall -Wextra -c ${sources.join(' ')}`,
    ];
  const assembled = files.map(({ name }) => name).filter((name) => name.endsWith('.asm'));
  return [
    `# No compiler of the distribution makes code for ${part.name}. The files are plain C11: add them to your project.`,
    ...(assembly && assembled.length > 0
      ? ['# package gputils', ...assembled.map((name) => `gpasm -c -p ${assembly.device} ${name}`)]
      : []),
  ];
}
