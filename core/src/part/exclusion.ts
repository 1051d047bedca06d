import type { Exclusion } from './types.ts';

/**
 * Statements before and after those that no interrupt is to come between; `status` keeps what was, of the processor's own register
 * where it is one with a name.
 */
export const EXCLUSIONS: Readonly<
  Record<Exclusion, { before: readonly string[]; after: readonly string[]; register?: string }>
> = {
  avr: { register: 'SREG', before: ['uint8_t status = SREG;', 'cli();'], after: ['SREG = status;'] },
  intcon: {
    before: [
      'uint8_t status = (uint8_t)(INTCON & 0x80u); /* GIE */',
      '/* An interrupt that comes during the store enables them again as it returns. */',
      'do INTCON &= 0x7Fu; while (INTCON & 0x80u);',
    ],
    after: ['INTCON |= status;'],
  },
  primask: {
    before: [
      'uint32_t status;',
      '__asm volatile ("mrs %0, primask\\n\\tcpsid i" : "=r" (status) : : "memory");',
    ],
    after: ['__asm volatile ("msr primask, %0" : : "r" (status) : "memory");'],
  },
  cpsr: {
    before: [
      'uint32_t status;',
      '__asm volatile ("mrs %0, cpsr\\n\\tcpsid i" : "=r" (status) : : "memory");',
    ],
    after: ['__asm volatile ("msr cpsr_c, %0" : : "r" (status) : "memory");'],
  },
  xtensa: {
    before: ['uint32_t status;', '__asm volatile ("rsil %0, 15" : "=a" (status) : : "memory");'],
    after: ['__asm volatile ("wsr %0, ps\\n\\trsync" : : "a" (status) : "memory");'],
  },
};
