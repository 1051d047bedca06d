/**
 * Registers of some parts as their manuals lay them out, block by block, in the words of the usual device headers: written down from there,
 * and from nothing of the part data. A word is "NAME", "NAME:bits", "NAME[count]", or "+bytes" that nothing is in.
 */
type Block = {
  type: string;
  /** What a word is called in the end: with `reg` each is a union with that member. */
  reg?: boolean;
  words: string;
  /** A list of groups of words after these. */
  groups?: { name: string; count: number; words: string };
  /** Several views of one place, each with words of its own, instead of plain words. */
  views?: Readonly<Record<string, string>>;
  /** Where blocks of this type are. */
  at: Readonly<Record<string, number>>;
};

/** A part's header: its file name and blocks. */
export type DeviceHeader = { file: string; blocks: readonly Block[] };

const CORE: readonly Block[] = [
  { type: 'SysTick', words: 'CTRL LOAD VAL CALIB', at: { SysTick: 0xe000e010 } },
  { type: 'NVIC', words: 'ISER[8] +96 ICER[8]', at: { NVIC: 0xe000e100 } },
];

const letters = (word: string, from: string, base: number, step: number): Record<string, number> =>
  Object.fromEntries([...from].map((letter, at) => [`${word}${letter}`, base + at * step]));

/** The words of blocks that come once for each number. */
const numbered = (count: number, words: (n: number) => string): string =>
  Array.from({ length: count }, (_, n) => words(n)).join(' ');

export const DEVICE_HEADERS: Readonly<Record<string, DeviceHeader>> = {
  stm32f401: {
    file: 'stm32f4xx.h',
    blocks: [
      {
        type: 'TIM',
        words:
          'CR1 CR2 SMCR DIER SR EGR CCMR1 CCMR2 CCER CNT PSC ARR RCR CCR1 CCR2 CCR3 CCR4 BDTR DCR DMAR OR',
        at: {
          TIM1: 0x40010000,
          TIM2: 0x40000000,
          TIM3: 0x40000400,
          TIM4: 0x40000800,
          TIM5: 0x40000c00,
          TIM9: 0x40014000,
          TIM10: 0x40014400,
          TIM11: 0x40014800,
        },
      },
      {
        type: 'GPIO',
        words: 'MODER OTYPER OSPEEDR PUPDR IDR ODR BSRR LCKR AFR[2]',
        at: letters('GPIO', 'ABCDE', 0x40020000, 0x400),
      },
      {
        type: 'RCC',
        words:
          'CR PLLCFGR CFGR CIR AHB1RSTR AHB2RSTR AHB3RSTR +4 APB1RSTR APB2RSTR +8 AHB1ENR AHB2ENR AHB3ENR +4 APB1ENR APB2ENR',
        at: { RCC: 0x40023800 },
      },
      { type: 'FLASH', words: 'ACR KEYR OPTKEYR SR CR OPTCR', at: { FLASH: 0x40023c00 } },
      ...CORE,
    ],
  },
  rp2040: {
    file: 'RP2040.h',
    blocks: [
      {
        type: 'PWM',
        words: `${numbered(8, (n) => ['CSR', 'DIV', 'CTR', 'CC', 'TOP'].map((name) => `CH${n}_${name}`).join(' '))} EN INTR INTE INTF INTS`,
        at: { PWM: 0x40050000 },
      },
      { type: 'RESETS', words: 'RESET WDSEL RESET_DONE', at: { RESETS: 0x4000c000 } },
      {
        type: 'IO_BANK0',
        words: numbered(30, (n) => `GPIO${n}_STATUS GPIO${n}_CTRL`),
        at: { IO_BANK0: 0x40014000 },
      },
      {
        type: 'SIO',
        words:
          'CPUID GPIO_IN GPIO_HI_IN +4 GPIO_OUT GPIO_OUT_SET GPIO_OUT_CLR GPIO_OUT_XOR GPIO_OE GPIO_OE_SET GPIO_OE_CLR GPIO_OE_XOR',
        at: { SIO: 0xd0000000 },
      },
      {
        type: 'TIMER',
        words:
          'TIMEHW TIMELW TIMEHR TIMELR ALARM0 ALARM1 ALARM2 ALARM3 ARMED TIMERAWH TIMERAWL DBGPAUSE PAUSE INTR INTE INTF INTS',
        at: { TIMER: 0x40054000 },
      },
      {
        type: 'WATCHDOG',
        words: `CTRL LOAD REASON ${numbered(8, (n) => `SCRATCH${n}`)} TICK`,
        at: { WATCHDOG: 0x40058000 },
      },
      { type: 'PLL', words: 'CS PWR FBDIV_INT PRIM', at: { PLL_SYS: 0x40028000 } },
      { type: 'XOSC', words: 'CTRL STATUS DORMANT STARTUP', at: { XOSC: 0x40024000 } },
      {
        type: 'CLOCKS',
        words: ['GPOUT0', 'GPOUT1', 'GPOUT2', 'GPOUT3', 'REF', 'SYS']
          .map((name) => `CLK_${name}_CTRL CLK_${name}_DIV CLK_${name}_SELECTED`)
          .join(' '),
        at: { CLOCKS: 0x40008000 },
      },
      ...CORE,
    ],
  },
  mk20dx256: {
    file: 'MK20D7.h',
    blocks: [
      {
        type: 'FTM',
        words: 'SC CNT MOD',
        groups: { name: 'CONTROLS', count: 8, words: 'CnSC CnV' },
        at: { FTM0: 0x40038000, FTM1: 0x40039000, FTM2: 0x400b8000 },
      },
      {
        type: 'PIT',
        words: 'MCR +252',
        groups: { name: 'CHANNEL', count: 4, words: 'LDVAL CVAL TCTRL TFLG' },
        at: { PIT: 0x40037000 },
      },
      { type: 'PORT', words: 'PCR[32]', at: letters('PORT', 'ABCD', 0x40049000, 0x1000) },
      { type: 'GPIO', words: 'PDOR PSOR PCOR PTOR PDIR PDDR', at: letters('GPIO', 'ABCD', 0x400ff000, 0x40) },
      {
        type: 'SIM',
        words:
          'SOPT1 SOPT1CFG +4092 SOPT2 +4 SOPT4 SOPT5 +4 SOPT7 +8 SDID SCGC1 SCGC2 SCGC3 SCGC4 SCGC5 SCGC6 SCGC7 CLKDIV1',
        at: { SIM: 0x40047000 },
      },
      { type: 'MCG', words: 'C1:8 C2:8 C3:8 C4:8 C5:8 C6:8 S:8', at: { MCG: 0x40064000 } },
      ...CORE,
    ],
  },
  samd21g18: {
    file: 'samd21g18a.h',
    blocks: [
      {
        type: 'Tcc',
        reg: true,
        words:
          'CTRLA CTRLBCLR:8 CTRLBSET:8 +2 SYNCBUSY FCTRLA FCTRLB WEXCTRL DRVCTRL +2 DBGCTRL:8 +1 EVCTRL INTENCLR INTENSET INTFLAG STATUS COUNT PATT:16 +2 WAVE PER CC[4] +16 PATTB:16 +2 WAVEB PERB CCB[4]',
        at: { TCC0: 0x42002000, TCC1: 0x42002400, TCC2: 0x42002800 },
      },
      {
        type: 'Pm',
        reg: true,
        words:
          'CTRL:8 SLEEP:8 +6 CPUSEL:8 APBASEL:8 APBBSEL:8 APBCSEL:8 +8 AHBMASK APBAMASK APBBMASK APBCMASK',
        at: { PM: 0x40000400 },
      },
      {
        type: 'Gclk',
        reg: true,
        words: 'CTRL:8 STATUS:8 CLKCTRL:16 GENCTRL GENDIV',
        at: { GCLK: 0x40000c00 },
      },
      {
        type: 'Sysctrl',
        reg: true,
        words:
          'INTENCLR INTENSET INTFLAG PCLKSR XOSC:16 +2 XOSC32K:16 +2 OSC32K OSCULP32K:8 +3 OSC8M DFLLCTRL:16 +2 DFLLVAL DFLLMUL',
        at: { SYSCTRL: 0x40000800 },
      },
      { type: 'Nvmctrl', reg: true, words: 'CTRLA:16 +2 CTRLB', at: { NVMCTRL: 0x41004000 } },
      {
        type: 'Port',
        reg: true,
        words: '',
        groups: {
          name: 'Group',
          count: 2,
          words:
            'DIR DIRCLR DIRSET DIRTGL OUT OUTCLR OUTSET OUTTGL IN CTRL WRCONFIG +4 PMUX:8[16] PINCFG:8[32] +32',
        },
        at: { PORT: 0x41004400 },
      },
      {
        type: 'Tc',
        reg: true,
        words: '',
        views: Object.fromEntries(
          ['COUNT:16 +6 CC:16[2]', 'COUNT:8 +3 PER:8 +3 CC:8[2]', 'COUNT:32 +4 CC:32[2]'].map((own, at) => [
            ['COUNT16', 'COUNT8', 'COUNT32'][at] ?? '',
            `CTRLA:16 READREQ:16 CTRLBCLR:8 CTRLBSET:8 CTRLC:8 +1 DBGCTRL:8 +1 EVCTRL:16 INTENCLR:8 INTENSET:8 INTFLAG:8 STATUS:8 ${own}`,
          ]),
        ),
        at: { TC3: 0x42002c00, TC4: 0x42003000, TC5: 0x42003400 },
      },
      ...CORE,
    ],
  },
};

/** One word of a block: its name, width and count, or bytes that nothing is in. */
type Word = { name: string; bits: number; count?: number } | { gap: number };

function wordsOf(text: string): Word[] {
  return text
    .split(' ')
    .filter(Boolean)
    .map((word): Word => {
      if (word.startsWith('+')) return { gap: Number(word.slice(1)) };
      const [, name = '', bits = '32', count] = /^(\w+)(?::(\d+))?(?:\[(\d+)\])?$/.exec(word) ?? [];
      return { name, bits: Number(bits), ...(count === undefined ? {} : { count: Number(count) }) };
    });
}

type Placed = { at: number; bits: number; name: string };

/** The places of words from an address on, and where they end. */
function placed(text: string, base: number, path: string, reg: boolean): { places: Placed[]; end: number } {
  let at = base;
  const places: Placed[] = [];
  for (const word of wordsOf(text)) {
    if ('gap' in word) {
      at += word.gap;
      continue;
    }
    for (let i = 0; i < (word.count ?? 1); i += 1) {
      const index = word.count === undefined ? '' : `[${i}]`;
      places.push({ at, bits: word.bits, name: `${path}${word.name}${index}${reg ? '.reg' : ''}` });
      at += word.bits / 8;
    }
  }
  return { places, end: at };
}

function placesOf({ reg = false, words, groups, views = {} }: Block, block: string, base: number): Placed[] {
  const own = placed(words, base, `${block}->`, reg);
  let { end } = own;
  const grouped = Array.from({ length: groups?.count ?? 0 }, (_, n) => {
    const one = placed(groups?.words ?? '', end, `${block}->${groups?.name}[${n}].`, reg);
    end = one.end;
    return one.places;
  });
  const seen = Object.entries(views).map(
    ([name, text]) => placed(text, base, `${block}->${name}.`, reg).places,
  );
  return [...own.places, ...grouped.flat(), ...seen.flat()];
}

/** What the header calls the register of so many bits at an address; else the first of any width there. */
export function placeIn({ blocks }: DeviceHeader): (address: number, bits: number) => string | undefined {
  const all = blocks.flatMap((block) =>
    Object.entries(block.at).flatMap(([name, base]) => placesOf(block, name, base)),
  );
  return (address, bits) => {
    const there = all.filter(({ at }) => at === address);
    return (there.find((one) => one.bits === bits) ?? there[0])?.name;
  };
}

function members(text: string, reg: boolean): string {
  let gaps = 0;
  return wordsOf(text)
    .map((word) => {
      if ('gap' in word) return `uint8_t gap${(gaps += 1)}[${word.gap}];`;
      const type = `volatile uint${word.bits}_t`;
      const count = word.count === undefined ? '' : `[${word.count}]`;
      return reg ? `union { ${type} reg; } ${word.name}${count};` : `${type} ${word.name}${count};`;
    })
    .join(' ');
}

/** The header as C. */
export function headerOf({ blocks }: DeviceHeader): string {
  const types = blocks.flatMap(({ type, reg = false, words, groups, views, at }) => {
    const parts = [
      members(words, reg),
      ...(groups ? [`struct { ${members(groups.words, reg)} } ${groups.name}[${groups.count}];`] : []),
      ...(views
        ? [
            `union { ${Object.entries(views)
              .map(([name, text]) => `struct { ${members(text, reg)} } ${name};`)
              .join(' ')} };`,
          ]
        : []),
    ];
    return [
      `typedef struct { ${parts.join(' ')} } ${type}_Type;`,
      ...Object.entries(at).map(
        ([name, address]) => `#define ${name} ((${type}_Type *)0x${address.toString(16)}u)`,
      ),
    ];
  });
  return ['#pragma once', '#include <stdint.h>', ...types, ''].join('\n');
}
