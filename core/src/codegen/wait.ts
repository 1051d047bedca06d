import type { Part } from '../part/types.ts';

/** The most passes that a counter of 16 bits makes. */
const MOST_PASSES = 65_535;

function block(head: string, lines: readonly string[]): string[] {
  return [head, ...lines.map((line) => `    ${line}`), '}'];
}

/** Statements that wait for so many passes of the part's loop. */
export function waitLines(part: Part, passes: number): string[] {
  if (part.code.assembler !== 'avr') {
    return [`for (uint32_t pass = 0; pass < ${passes}u; pass += 1) __asm volatile ("");`];
  }
  // Two cycles each: sbiw counts down, brne goes back.
  const loop = (count: number): string[] =>
    count === 0
      ? []
      : block('{', [
          `uint16_t pass = ${count}u;`,
          '__asm__ __volatile__ ("1: sbiw %0, 1\\n\\tbrne 1b" : "+w" (pass));',
        ]);
  const whole = Math.floor(passes / MOST_PASSES);
  const rest = loop(passes % MOST_PASSES);
  if (whole === 0) return rest;
  return [...block(`for (uint16_t block = 0; block < ${whole}u; block += 1) {`, loop(MOST_PASSES)), ...rest];
}

/** Statements that wait for at least a time in µs, whatever clock the processor has. */
export function delayLines(part: Part, us: number): string[] {
  const passes = Math.ceil((us * part.limits.maxHz) / 1e6 / part.cpu.loopCycles);
  return [`/* At least ${us} us. */`, ...waitLines(part, passes)];
}
