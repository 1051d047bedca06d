import { PLAN_VERSION } from '../../src/plan/versions.ts';
import { planCode } from '../../src/evaluate/code.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import type { InterruptSetting } from '../../src/timer/setting.ts';
import { MISSING_FOR_ARM, toldBy, type Board } from '../helpers/arm-machine.ts';
import { shipped } from '../helpers/parts.ts';

if (MISSING_FOR_ARM.length > 0)
  process.stderr.write(
    `skipped: no ARM part is emulated, since ${MISSING_FOR_ARM.join(' and ')} is missing\n`,
  );

const tick = (id: string, setting: Omit<InterruptSetting, 'drive' | 'divider'>): PlanSignal => ({
  ...{ id, name: id, kind: 'tick', target: { frequencyHz: 1000 } },
  setting: { drive: 'interrupt', divider: 1, ...setting },
});

function planOf(part: Part, ...signals: PlanSignal[]): Plan {
  const { id, defaultClock: clock } = part;
  return { format: 'herzschlag-plan', version: PLAN_VERSION, name: 'Sluice', part: id, clock, signals };
}

/** A Cortex-M4 with the timers of its family at the same addresses; its SysTick counts 168 MHz, its timers nanoseconds. */
const MICROCONTROLLER: Board = {
  machine: 'netduinoplus2',
  flags: ['-mcpu=cortex-m4', '-mthumb'],
  ask: 'bkpt 0xAB',
  linker: `
MEMORY { FLASH (rx) : ORIGIN = 0x08000000, LENGTH = 64K  RAM (rwx) : ORIGIN = 0x20000000, LENGTH = 16K }
SECTIONS {
  .text : { KEEP(*(.vectors)) *(.text*) *(.rodata*) } > FLASH
  .bss (NOLOAD) : { *(.bss*) *(COMMON) *(.data*) } > RAM
}`,
};

/** An ARM1176 with the system timer and interrupt controller of BCM2835. */
const PROCESSOR: Board = {
  machine: 'raspi0',
  flags: ['-mcpu=arm1176jzf-s', '-marm'],
  ask: 'svc 0x123456',
  linker: `
ENTRY(_start)
SECTIONS { . = 0x8000; .text : { KEEP(*(.vectors)) *(.text*) *(.rodata*) } .bss : { *(.data*) *(.bss*) *(COMMON) } }`,
  // Stacks of both modes, the table of exceptions, and the handler of all interrupts, which calls interrupts().
  start: `
    .section .vectors, "ax"
    .global _start
_start:
    cps #0x12
    mov sp, #0x7000
    cps #0x13
    mov sp, #0x6000
    adr r0, table
    mcr p15, 0, r0, c12, c0, 0
    bl begin
    .balign 32
table:
    .rept 6
    b .
    .endr
    b entry
    b .
entry:
    sub lr, lr, #4
    push {r0-r3, r12, lr}
    bl interrupts
    ldm sp!, {r0-r3, r12, pc}^
`,
};

/** A main program that notes a free-running counter at each tick of two signals, and tells both lists in turn. */
const main = (ruler: string, before: string, wait: string, after: string, note = ''): string => `
#define RULER (*(volatile uint32_t *)${ruler})
#define SEEN 101u
static volatile uint32_t beats[SEEN], gates[SEEN];
static volatile unsigned beat_count, gate_count;
void beat_tick(void) { ${note} if (beat_count < SEEN) beats[beat_count++] = RULER; }
void gate_tick(void) { if (gate_count < SEEN) gates[gate_count++] = RULER; }
void begin(void);
void begin(void)
{
    ${before}
    sluice_init();
    sluice_start();
    __asm volatile ("cpsie i");
    while (beat_count < SEEN || gate_count < SEEN) __asm volatile ("${wait}");
    for (unsigned at = 0; at < SEEN; at++) { tell(beats[at]); tell(gates[at]); }
    ${after}
    end();
}
`;

/** From what was told in turn, the counts between one tick and the next of each signal. */
function distances(told: readonly number[], which: 0 | 1): number[] {
  const own = told.filter((_, at) => at % 2 === which);
  return own.slice(1).map((count, at) => count - (own[at] ?? 0));
}

function mean(values: readonly number[]): number {
  return values.reduce((sum, value) => sum + value, 0) / values.length;
}

(MISSING_FOR_ARM.length > 0 ? describe.skip : describe)(
  'code on emulated ARM processors, in virtual time',
  () => {
    it('SysTick and TIM3 of an STM32F401 come at their rates', () => {
      const part = shipped('stm32f401');
      const plan = planOf(
        part,
        tick('beat', { timer: 'SYSTICK', mode: 'down', prescaler: 1, top: 83_999 }),
        tick('gate', { timer: 'TIM3', mode: 'up', prescaler: 84, top: 999 }),
      );
      const { files } = planCode(plan, part);
      // TIM5 counts nanoseconds up to its end.
      const before =
        '*(volatile uint32_t *)0x40000C2Cu = 0xFFFFFFFFu; *(volatile uint32_t *)0x40000C00u = 1u;';
      const vectors = `
static void stuck(void) { for (;;) { } }
__attribute__((section(".vectors"), used)) static void (*const vectors[64])(void) = {
    (void (*)(void))0x20004000, begin, [2 ... 14] = stuck, SysTick_Handler, [45] = TIM3_IRQHandler };`;
      const told = toldBy(MICROCONTROLLER, files, main('0x40000C24u', before, 'wfi', '') + vectors);
      // 84000 clocks of 168 MHz are 500 000 ns; the handler begins some instructions later, by turns.
      for (const length of distances(told, 0)) expect(Math.abs(length - 500_000)).toBeLessThan(50);
      expect(Math.abs(mean(distances(told, 0)) - 500_000)).toBeLessThan(2);
      // 84 x 1000 counts; the emulator's timer starts again at its top, so that it leaves out one of 1000.
      for (const length of distances(told, 1)) expect(Math.abs(length - 84 * 999)).toBeLessThan(50);
      expect(Math.abs(mean(distances(told, 1)) - 84 * 999)).toBeLessThan(1);
    });

    it('matches of the system timer of a BCM2835 move on without losing a microsecond, and a pin toggles', () => {
      const part = shipped('bcm2835');
      const match = { mode: 'match', prescaler: 1 } as const;
      const pin = part.pins.find(({ software }) => software)?.id ?? '';
      const lamp = {
        ...{ id: 'lamp', name: 'lamp', kind: 'blink', pin, target: { frequencyHz: 250 } },
        setting: { drive: 'interrupt', timer: 'ST1', ...match, top: 999, divider: 2, pin },
      } as PlanSignal;
      const plan = planOf(
        part,
        tick('beat', { timer: 'ST1', ...match, top: 999 }),
        {
          ...tick('gate', { timer: 'ST3', ...match, top: 332 }),
          kind: 'tick',
          target: { frequencyHz: 3003 },
        },
        lamp,
      );
      const { files } = planCode(plan, part);
      const bit = Number(/\d+/.exec(pin)?.[0]);
      const note = 'if (beat_count < 16u) levels[beat_count] = *(volatile uint32_t *)0x20200034u;';
      const after = `for (unsigned at = 0; at < 16u; at++) tell(levels[at] >> ${bit} & 1u);`;
      const kept = 'static volatile uint32_t levels[16];\n';
      const told = toldBy(PROCESSOR, files, kept + main('0x20003004u', '', 'nop', after, note));
      expect(distances(told.slice(0, 202), 0)).toEqual(Array.from({ length: 100 }, () => 1000));
      expect(distances(told.slice(0, 202), 1)).toEqual(Array.from({ length: 100 }, () => 333));
      // What each tick sees before its own change: 250 Hz are two ticks low and two high, from the second interrupt on.
      expect(told.slice(202)).toEqual([0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1, 1]);
    });
  },
);
