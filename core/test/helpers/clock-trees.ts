/** Words of registers by name. */
export type Words = Map<string, number>;

function bits(words: Words, name: string, least: number, count: number): number {
  const word = words.get(name);
  if (word === undefined) throw new RangeError(`no register ${name}`);
  return Math.floor(word / 2 ** least) % 2 ** count;
}

const AHB = [2, 4, 8, 16, 64, 128, 256, 512];

function stm32(source: string, hz: number, words: Words): Record<string, number> {
  const read = (name: string, least: number, count: number) => bits(words, name, least, count);
  const external = source === 'hsi' ? 0 : hz;
  const input = read('RCC_PLLCFGR', 22, 1) === 1 ? external : 16e6;
  const pll =
    ((input / read('RCC_PLLCFGR', 0, 6)) * read('RCC_PLLCFGR', 6, 9)) /
    (2 * (read('RCC_PLLCFGR', 16, 2) + 1));
  const sys = [16e6, external, pll][read('RCC_CFGR', 0, 2)] ?? 0;
  const hpre = read('RCC_CFGR', 4, 4);
  const ahb = sys / (hpre < 8 ? 1 : (AHB[hpre - 8] ?? 0));
  const timers = (least: number) => {
    const code = read('RCC_CFGR', least, 3);
    return code < 4 ? ahb : (2 * ahb) / 2 ** (code - 3);
  };
  return { ahb, apb1t: timers(10), apb2t: timers(13) };
}

function rp2040(_: string, hz: number, words: Words): Record<string, number> {
  const read = (name: string, least: number, count: number) => bits(words, name, least, count);
  const ref = read('CLOCKS_CLK_REF_CTRL', 0, 2) === 2 ? hz : 6.5e6;
  const pll =
    ((hz / read('PLL_SYS_CS', 0, 6)) * read('PLL_SYS_FBDIV_INT', 0, 12)) /
    read('PLL_SYS_PRIM', 16, 3) /
    read('PLL_SYS_PRIM', 12, 3);
  const running = (read('PLL_SYS_PWR', 0, 6) & 0b101001) === 0;
  return { sys: read('CLOCKS_CLK_SYS_CTRL', 0, 1) === 0 ? ref : running ? pll : 0 };
}

function mk20(_: string, hz: number, words: Words): Record<string, number> {
  const read = (name: string, least: number, count: number) => bits(words, name, least, count);
  const pll = (hz / (read('MCG_C5', 0, 5) + 1)) * (read('MCG_C6', 0, 5) + 24);
  const out = read('MCG_C1', 6, 2) === 0 && read('MCG_C6', 6, 1) === 1 ? pll : hz;
  // Two rules of the manual besides: the flash has at most 25 MHz, and the FLL at most 39.0625 kHz.
  const flash = out / (read('SIM_CLKDIV1', 16, 4) + 1);
  const fll = hz / ([32, 64, 128, 256, 512, 1024, 1280, 1536][read('MCG_C1', 3, 3)] ?? 1);
  if (flash > 25e6) throw new RangeError(`the flash gets ${flash} Hz`);
  if (fll > 39062.5) throw new RangeError(`the FLL gets ${fll} Hz`);
  return { core: out / (read('SIM_CLKDIV1', 28, 4) + 1), bus: out / (read('SIM_CLKDIV1', 24, 4) + 1) };
}

function samd21(source: string, hz: number, words: Words): Record<string, number> {
  const read = (name: string, least: number, count: number) => bits(words, name, least, count);
  const osc8m = 8e6 / 2 ** read('SYSCTRL_OSC8M', 8, 2);
  const watch = source === 'crystal32k' && read('SYSCTRL_XOSC32K', 1, 1) === 1 ? hz : 0;
  const crystal = source === 'crystal' && read('SYSCTRL_XOSC', 1, 1) === 1 ? hz : 0;
  const oscillators: Record<number, () => number> = {
    0: () => crystal,
    5: () => watch,
    6: () => osc8m,
    7: () => watch * read('SYSCTRL_DFLLMUL', 0, 16),
  };
  const generator = (id: number) => {
    const from = oscillators[read(`GCLK_GENCTRL[${id}]`, 8, 5)];
    return (from?.() ?? 0) / Math.max(1, read(`GCLK_GENDIV[${id}]`, 8, 16));
  };
  // A plan without the timers of generator 4 leaves it alone.
  return { cpu: generator(0), ...(words.has('GCLK_GENCTRL[4]') ? { timers: generator(4) } : {}) };
}

function pic16f684(source: string, hz: number, words: Words): Record<string, number> {
  const internal = [31e3, 125e3, 250e3, 500e3, 1e6, 2e6, 4e6, 8e6];
  return { cycle: (source === 'rc8' ? (internal[bits(words, 'OSCCON', 4, 3)] ?? 0) : hz) / 4 };
}

function pic18f4620(source: string, hz: number, words: Words): Record<string, number> {
  // With a crystal the configuration bits decide whether the PLL runs.
  if (source !== 'rc8') return {};
  const internal = [31e3, 125e3, 250e3, 500e3, 1e6, 2e6, 4e6, 8e6][bits(words, 'OSCCON', 4, 3)] ?? 0;
  return { cycle: (internal * (bits(words, 'OSCTUNE', 6, 1) === 1 ? 4 : 1)) / 4 };
}

function pic16f18875(_: string, hz: number, words: Words): Record<string, number> {
  const internal = [1, 2, 4, 8, 12, 16, 32][bits(words, 'OSCFRQ', 0, 3)] ?? 0;
  const code = bits(words, 'OSCCON1', 4, 3);
  const input = code === 7 ? hz : code === 6 ? internal * 1e6 : 0;
  return { cycle: input / 2 ** bits(words, 'OSCCON1', 0, 4) / 4 };
}

const TREES: Record<string, (source: string, hz: number, words: Words) => Record<string, number>> = {
  stm32f401: stm32,
  rp2040,
  mk20dx256: mk20,
  samd21g18: samd21,
  pic16f684,
  pic18f4620,
  pic16f18875,
};

/**
 * The clocks in Hz that a chip has with some words in its registers, written down from the manuals and from nothing of the
 * part data: by the nodes of the clock path that feed the processor and the timers.
 */
export function hertzOf(part: string, source: string, hz: number, words: Words): Record<string, number> {
  const tree = TREES[part];
  if (!tree) throw new RangeError(`no clock tree of ${part}`);
  return tree(source, hz, words);
}
