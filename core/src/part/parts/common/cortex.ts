import type { Cpu, Dialect, Interrupt, Register, Timer } from '../../types.ts';
import { field, register, strobe } from './registers.ts';

const WORD = Array.from({ length: 32 }, (_, bit) => bit);

/** The set-enable registers of the interrupt controller, 32 interrupts to each. */
export function enableRegisters(words: number): Register[] {
  return Array.from({ length: words }, (_, n) =>
    strobe(
      `NVIC_ISER${n}`,
      0xe000e100 + 4 * n,
      Object.fromEntries(WORD.map((bit) => [`IRQ${32 * n + bit}`, field(bit)])),
    ),
  );
}

/** The priority registers of the interrupt controller, a byte for each interrupt, and that of the system timer. */
export function priorityRegisters(words: number): Register[] {
  const own = Array.from({ length: words }, (_, n) =>
    register(
      `NVIC_IPR${n}`,
      0xe000e400 + 4 * n,
      Object.fromEntries([0, 1, 2, 3].map((at) => [`IRQ${4 * n + at}`, field(8 * at, 8)])),
    ),
  );
  return [...own, register('SCB_SHPR3', 0xe000ed20, { PRI_15: field(24, 8) })];
}

/** An interrupt that goes through the controller: its own enable bits, and the controller's. */
export function irq(
  vector: string,
  number: number,
  enable: string,
  flag: string,
  clear: Interrupt['clear'],
): Interrupt {
  const controller = `NVIC_ISER${Math.floor(number / 32)}.IRQ${number}`;
  return { vector, number, enable: { [enable]: 1, [controller]: 1 }, flag, clear };
}

/**
 * The processor: tail-chained handlers with priorities; a multi-cycle instruction is abandoned for an interrupt. All of these parts have memory
 * transfers that timers ask for. Waiting for the program memory may shift an edge by `loopJitterCycles`.
 */
export function cortexCpu(
  clock: string,
  entryCycles: number,
  exitCycles: number,
  levels: number,
  loopJitterCycles: number,
  tailCycles?: number,
): Cpu {
  return {
    clock,
    entryCycles,
    reloadCycles: 3,
    exitCycles,
    lateCycles: 1,
    handlerCycles: 20,
    operations: {
      word: 4,
      frame: { min: 0, max: 14 },
      save: 2,
      load: { min: 1, max: 3 },
      store: { min: 1, max: 2 },
      read: { min: 1, max: 3 },
      write: { min: 1, max: 3 },
      compute: { min: 0, max: 2 },
      constant: 1,
      branch: { min: 1, max: 3 },
      index: { min: 2, max: 6 },
      table: { min: 1, max: 3 },
      call: { min: 4, max: 10 },
      exclude: { min: 4, max: 10 },
    },
    loopCycles: 4,
    loopJitterCycles,
    feedCycles: 16,
    sendCycles: 52,
    transfers: true,
    callCycles: 10,
    ...(tailCycles === undefined ? {} : { tailCycles }),
    priorities: {
      scheme: 'levels',
      levels,
      // The upper bits of a byte each; the lower ones are not there.
      fields: { numbered: 'NVIC_IPR%w.IRQ%n', vectors: { SysTick: 'SCB_SHPR3.PRI_15' }, scale: 256 / levels },
    },
  };
}

/** What the headers of these parts call the registers of the core, whatever the part's sources call those of the system timer. */
export const CORE_NAMES: NonNullable<Dialect['device']>['names'] = [
  { registers: 'NVIC_ISER#', as: 'NVIC->ISER[#]' },
  { registers: 'NVIC_ICER#', as: 'NVIC->ICER[#]' },
  { registers: 'SysTick_*', as: 'SysTick->*' },
  ...['SYST', 'SYSTICK'].flatMap((stem) => [
    { registers: `${stem}_CSR`, as: 'SysTick->CTRL' },
    { registers: `${stem}_RVR`, as: 'SysTick->LOAD' },
    { registers: `${stem}_CVR`, as: 'SysTick->VAL' },
  ]),
];

/** Other names of the registers of the core's system timer, which programs use. */
export const CORE_ALIASES = [
  { registers: 'SysTick_CTRL', as: 'SYST_CSR' },
  { registers: 'SysTick_LOAD', as: 'SYST_RVR' },
  { registers: 'SysTick_VAL', as: 'SYST_CVR' },
] as const;

/** C for registers by address; handlers have the names that the vector tables of these parts use. */
export const cortexCode: Dialect = {
  aliases: CORE_ALIASES,
  headers: [],
  registers: 'addresses',
  call: '%_IRQHandler()',
  setsClock: false,
  bytewise: false,
  handler: 'void %_IRQHandler(void)',
  allow: '__asm volatile ("cpsie i");',
  excludes: 'primask',
};

/** Registers of the system timer of the core, by the names the part's sources give them. */
export function systemTimerRegisters(names: readonly [string, string, string]): Register[] {
  const [control, reload, value] = names;
  return [
    register(control, 0xe000e010, {
      ENABLE: field(0),
      TICKINT: field(1),
      CLKSOURCE: field(2),
      COUNTFLAG: field(16),
    }),
    register(reload, 0xe000e014),
    register(value, 0xe000e018),
  ];
}

/** The system timer: 24 bits counted down from its reload value, an interrupt and nothing else; `slow` divides by 8. */
export function systemTimer(names: readonly [string, string, string], clock: string, slow: boolean): Timer {
  const [control, reload, value] = names;
  return {
    id: 'SYSTICK',
    name: 'SysTick',
    width: 24,
    clock,
    prescaler: {
      kind: 'list',
      options: [
        { divide: 1, writes: { [`${control}.CLKSOURCE`]: 1 } },
        ...(slow ? [{ divide: 8, writes: { [`${control}.CLKSOURCE`]: 0 } }] : []),
      ],
    },
    modes: [
      {
        id: 'down',
        name: 'counting down from its reload value',
        count: 'up',
        base: 1,
        top: { kind: 'register', writes: { [reload]: { of: 'top' } }, min: 1, max: 2 ** 24 - 1 },
        tick: 'overflow',
        update: { top: 'top', compare: 'immediate' },
        writes: { [`${control}.ENABLE`]: 1 },
      },
    ],
    channels: [],
    counter: value,
    interrupts: {
      overflow: {
        vector: 'SysTick',
        handler: 'SysTick_Handler',
        number: -1,
        enable: { [`${control}.TICKINT`]: 1 },
        flag: `${control}.COUNTFLAG`,
        clear: 'none',
      },
    },
    sequence: [{ register: reload }, { register: value }, { register: control }],
  };
}
