import type {
  BitLoop,
  CaptureUnit,
  ClockNode,
  Cpu,
  Dialect,
  Encoded,
  Pin,
  Timer,
  Writes,
  Interrupt,
} from '../../types.ts';

/** A PWM block that runs on the period timer: its control and duty registers, its duty bits, and its pin. */
export type PicPwm = {
  id: string;
  control: string;
  duty: string;
  low: readonly [string, string];
  pin: string;
};

/** The period timer with the PWM blocks on it. One count is one or more quarters; the duty counts quarters. */
export function picPeriodTimer(blocks: readonly PicPwm[], postscaler: string): Timer {
  const postscale = (bit: number): Encoded => ({ of: 'postscale', bias: -1, shift: bit, keep: 1 });
  const ids = blocks.map((block) => block.id);
  return {
    id: 'TMR2',
    name: 'Timer 2',
    width: 8,
    clock: 'cycle',
    prescaler: {
      kind: 'list',
      options: [
        { divide: 1, writes: { 'T2CON.T2CKPS1': 0, 'T2CON.T2CKPS0': 0 } },
        { divide: 4, writes: { 'T2CON.T2CKPS1': 0, 'T2CON.T2CKPS0': 1 } },
        // The lower bit does not matter beside the upper one.
        {
          divide: 16,
          writes: { 'T2CON.T2CKPS1': 1, 'T2CON.T2CKPS0': 0 },
          same: [{ 'T2CON.T2CKPS0': 1 }],
        },
      ],
    },
    modes: [
      {
        id: 'pwm',
        name: 'PWM, top PR2, duty of 10 bits',
        count: 'up',
        base: 1,
        top: { kind: 'register', writes: { PR2: { of: 'top' } }, min: 1, max: 255 },
        pwm: { channels: ids, high: 'compare', grain: 4, bits: 10 },
        tick: 'overflow',
        update: { top: 'immediate', compare: 'bottom' },
        writes: { 'T2CON.TMR2ON': 1 },
      },
    ],
    channels: blocks.map(({ id, control, duty, low, pin }) => ({
      id,
      name: id,
      compare: {
        [duty]: { of: 'compare', shift: 2 },
        [`${control}.${low[1]}`]: { of: 'compare', shift: 1, keep: 1 },
        [`${control}.${low[0]}`]: { of: 'compare', keep: 1 },
      },
      outputs: [{ pin, drive: 'pwm', polarity: 'normal', writes: pwmMode(control, id) }],
    })),
    counter: 'TMR2',
    preset: true,
    interrupts: {
      overflow: {
        vector: 'TMR2',
        number: 0,
        enable: picEnable('PIE1.TMR2IE'),
        flag: 'PIR1.TMR2IF',
        clear: 'write-zero',
        postscaler: {
          kind: 'range',
          min: 1,
          max: 16,
          scale: 1,
          writes: Object.fromEntries(
            [0, 1, 2, 3].map((bit) => [`T2CON.${postscaler}${bit}`, postscale(bit)]),
          ),
        },
      },
    },
    sequence: [
      { register: 'PR2' },
      ...blocks.flatMap(({ control, duty }) => [{ register: duty }, { register: control }]),
      { register: 'TMR2' },
      { register: 'T2CON' },
    ],
  };
}

function pwmMode(control: string, id: string): Record<string, number> {
  return {
    [`${control}.${id}M3`]: 1,
    [`${control}.${id}M2`]: 1,
    [`${control}.${id}M1`]: 0,
    [`${control}.${id}M0`]: 0,
  };
}

/** Peripheral interrupts need a bit of their own and the one for all peripherals. */
export function picEnable(place: string, peripheral = 'INTCON.PEIE'): Writes {
  return { [place]: 1, [peripheral]: 1 };
}

/** Prescalers of powers of two by three or two bits from `field`0 up; a code for each. */
function binary(
  field: string,
  bits: number,
  codes: readonly { divide: number; code: number }[],
  extra: Writes = {},
) {
  return codes.map(({ divide, code }) => ({
    divide,
    writes: {
      ...extra,
      ...Object.fromEntries(Array.from({ length: bits }, (_, bit) => [`${field}${bit}`, (code >> bit) & 1])),
    },
  }));
}

/**
 * Cycles between reading the lower byte of a running 16-bit counter and writing it back with the reload value added, during
 * which it counts for nothing: read and keep the lower byte, add, carry, read and add the upper byte, write it, fetch the
 * lower byte, write it. The assembler file of the generated code takes exactly so long; what a compiler makes of the C may differ.
 */
export const READ_ADD_WRITE = 9;

/** What Timer 0 of one part has of its own: where its bits live, and its width. */
export type PicTimer0 = {
  control: string;
  prescale: string;
  width: 8 | 16;
  writes: Writes;
  reload: Writes;
  /** Fields of its control register that change no steady count. */
  neutral?: readonly string[];
};

/** Timer 0: it can only overflow, a write stops it for two cycles and clears the prescaler, so its interrupt reloads it. */
export function picTimer0({ control, prescale, width, writes, reload, neutral }: PicTimer0): Timer {
  const powers = [1, 2, 3, 4, 5, 6, 7, 8].map((power, code) => ({ divide: 2 ** power, code }));
  return {
    id: 'TMR0',
    name: 'Timer 0',
    width,
    clock: 'cycle',
    prescaler: {
      kind: 'list',
      options: [
        { divide: 1, writes: { [`${control}.PSA`]: 1 } },
        ...binary(`${control}.${prescale}`, 3, powers, { [`${control}.PSA`]: 0 }),
      ],
    },
    modes: [
      {
        id: 'reload',
        name: 'overflow, reloaded by its interrupt',
        count: 'up',
        base: 1,
        top: {
          kind: 'reload',
          writes: reload,
          min: 9,
          max: 2 ** width - 1,
          hold: width > 8 ? 2 + READ_ADD_WRITE : 2,
          clears: true,
          ...(width > 8
            ? { bytes: { upper: 'TMR0H', lower: 'TMR0L', cycles: READ_ADD_WRITE, latched: true } }
            : {}),
        },
        tick: 'overflow',
        update: { top: 'immediate', compare: 'immediate' },
        writes,
      },
    ],
    channels: [],
    ...(neutral ? { neutral } : {}),
    interrupts: {
      overflow: {
        vector: 'TMR0',
        number: 0,
        enable: { 'INTCON.TMR0IE': 1 },
        flag: 'INTCON.TMR0IF',
        clear: 'write-zero',
      },
    },
    sequence: [
      ...Object.keys(reload)
        .reverse()
        .map((register) => ({ register })),
      { register: control },
    ],
  };
}

/** A capture block on a 16-bit timer: its pin as an input, every rising edge. */
export function picCapture(
  n: number,
  pin: string,
  enable: Writes,
  flag: string,
  extra: Writes = {},
): CaptureUnit {
  const edge = Object.fromEntries([0, 1, 2, 3].map((bit) => [`CCP${n}CON.CCP${n}M${bit}`, (5 >> bit) & 1]));
  const direction = `TRIS${pin.charAt(1)}.TRIS${pin.slice(1)}`;
  return {
    id: `CCP${n}`,
    name: `CCP${n}`,
    mode: 'reload',
    value: [`CCPR${n}L`, `CCPR${n}H`],
    interrupt: { vector: `CCP${n}`, number: 0, enable, flag, clear: 'write-zero' },
    inputs: [{ pin, writes: { [direction]: 1, ...extra, ...edge } }],
  };
}

/** A 16-bit timer that can only overflow; writing it clears the prescaler. */
export function picTimer1(
  n: number,
  enable: Writes,
  flag: string,
  captures: readonly CaptureUnit[] = [],
): Timer {
  return {
    id: `TMR${n}`,
    name: `Timer ${n}`,
    width: 16,
    clock: 'cycle',
    prescaler: {
      kind: 'list',
      options: binary(
        `T${n}CON.T${n}CKPS`,
        2,
        [0, 1, 2, 3].map((code) => ({ divide: 2 ** code, code })),
      ),
    },
    modes: [
      {
        id: 'reload',
        name: 'overflow, reloaded by its interrupt',
        count: 'up',
        base: 1,
        top: {
          kind: 'reload',
          bytes: { upper: `TMR${n}H`, lower: `TMR${n}L`, cycles: READ_ADD_WRITE },
          writes: {
            [`TMR${n}H`]: { of: 'reload', shift: 8 },
            [`TMR${n}L`]: { of: 'reload', keep: 8 },
          },
          min: 31,
          max: 65535,
          hold: READ_ADD_WRITE,
          clears: true,
        },
        tick: 'overflow',
        update: { top: 'immediate', compare: 'immediate' },
        writes: { [`T${n}CON.TMR${n}CS`]: 0, [`T${n}CON.TMR${n}ON`]: 1 },
      },
    ],
    channels: [],
    ...(captures.length > 0 ? { captures } : {}),
    interrupts: { overflow: { vector: `TMR${n}`, number: 0, enable, flag, clear: 'write-zero' } },
    sequence: [{ register: `TMR${n}H` }, { register: `TMR${n}L` }, { register: `T${n}CON` }],
  };
}

/** A compare block beside a 16-bit timer: its number, and how its interrupt is enabled and told. */
export type PicCompare = { n: number; enable: Writes; flag: string };

/** The mode of a capture and compare block as its four bits. */
function blockMode(n: number, mode: number): Writes {
  return Object.fromEntries([0, 1, 2, 3].map((bit) => [`CCP${n}CON.CCP${n}M${bit}`, (mode >> bit) & 1]));
}

/** A compare value of 16 bits, or a period, in the two registers of a block. */
function blockValue(n: number, of: 'top' | 'compare'): Writes {
  return { [`CCPR${n}H`]: { of, shift: 8 }, [`CCPR${n}L`]: { of, keep: 8 } };
}

/** The registers that some writes go to, each once. */
function registersIn(writes: Writes): string[] {
  return [...new Set(Object.keys(writes).map((key) => key.split('.')[0] ?? key))];
}

/**
 * A 16-bit timer that a compare block clears at its match (the special event, mode 11), so that nothing has to reload it; the match of
 * another block interrupts (mode 10) and leaves its pin alone.
 */
export function picEventTimer(timer: Timer, period: PicCompare, match: PicCompare, extra: Writes): Timer {
  const [reload] = timer.modes;
  const name = `CCP${match.n}`;
  const interruptOf = ({ n, enable, flag }: PicCompare, writes: Writes): Interrupt => ({
    vector: `CCP${n}`,
    number: 0,
    enable: { ...enable, ...writes },
    flag,
    clear: 'write-zero',
  });
  return {
    ...timer,
    id: `${timer.id}E`,
    name: `${timer.name} with CCP${period.n}`,
    variantOf: timer.id,
    captures: [],
    modes: [
      {
        id: 'event',
        name: `cleared by CCP${period.n}`,
        count: 'up',
        base: 1,
        top: { kind: 'register', writes: blockValue(period.n, 'top'), min: 31, max: 65535 },
        tick: 'capture',
        update: { top: 'immediate', compare: 'immediate' },
        writes: { ...reload?.writes, ...extra, ...blockMode(period.n, 11) },
      },
    ],
    channels: [
      {
        id: name,
        name,
        compare: blockValue(match.n, 'compare'),
        outputs: [],
        interrupt: interruptOf(match, blockMode(match.n, 10)),
      },
    ],
    interrupts: { capture: interruptOf(period, {}) },
    sequence: [
      ...[period.n, match.n].flatMap((n) => [
        { register: `CCPR${n}H` },
        { register: `CCPR${n}L` },
        { register: `CCP${n}CON` },
      ]),
      ...registersIn(extra).map((register) => ({ register })),
      ...timer.sequence,
    ],
  };
}

/** A loop that sends bits: a skip takes the cycle of what it leaves out, and a borrow is taken from the upper byte by hand. */
const BIT_LOOP: BitLoop = {
  store: { cycles: 1, last: 0xfff, beyond: 1 },
  test: 1,
  count: 2,
  carry: 3,
  read: 3,
  fetch: 2,
  back: 3,
};

/** The same where there is a subtraction with borrow (the enhanced cores). */
export const ENHANCED_BIT_LOOP: BitLoop = { ...BIT_LOOP, carry: 2 };

/** The same where the counters borrow as they are decremented, and registers are moved in two cycles (the 16-bit family). */
export const WIDE_BIT_LOOP: BitLoop = { ...BIT_LOOP, count: 1, carry: 2, read: 2 };

/** One vector for all; a cycle is a quarter of the oscillator. */
export const picCpu: Cpu = {
  clock: 'cycle',
  entryCycles: 3,
  reloadCycles: 3,
  exitCycles: 2,
  lateCycles: 1,
  handlerCycles: 20,
  operations: {
    word: 1,
    frame: { min: 4, max: 24 },
    save: 4,
    load: { min: 1, max: 4 },
    store: { min: 1, max: 4 },
    read: { min: 1, max: 4 },
    write: { min: 1, max: 4 },
    compute: { min: 0, max: 4 },
    constant: 2,
    bit: { cycles: 1, last: 0xfff },
    branch: { min: 2, max: 4 },
    index: { min: 6, max: 24 },
    table: { min: 4, max: 14 },
    call: { min: 4, max: 40 },
    exclude: { min: 2, max: 8 },
  },
  loopCycles: 3,
  loopJitterCycles: 0,
  feedCycles: 12,
  bitLoop: BIT_LOOP,
  priorities: { scheme: 'single', levels: 1 },
};

/** C for registers by address; one handler asks the flags one after the other. */
export const picCode: Dialect = {
  headers: [],
  registers: 'addresses',
  call: '%_handler()',
  setsClock: false,
  bytewise: true,
  handler: 'void %_handler(void)',
  allow: 'INTCON |= 0x80u; /* GIE */',
  excludes: 'intcon',
  // The data has the names of the header as they are.
  device: { header: '<xc.h>', names: [{ registers: '*', as: '*' }] },
};

/** The instruction cycle: a quarter of the oscillator. */
export const cycle: ClockNode = {
  kind: 'divider',
  id: 'cycle',
  name: 'instruction cycle',
  from: 'osc',
  by: { kind: 'list', options: [{ divide: 4, writes: {} }] },
  standard: 4,
  note: 'Timers count instruction cycles: a quarter of the oscillator.',
};

/** A pin of a port with a direction register and an output register. */
export function picPin(id: string, output: 'PORT' | 'LAT', packages: Record<string, number>): Pin {
  const port = id.charAt(1);
  const bit = Number(id.slice(2));
  const level = `${output}${port}.${output === 'LAT' ? 'LAT' : 'R'}${port}${bit}`;
  const direction = `TRIS${port}.TRIS${port}${bit}`;
  return {
    id,
    port: `PORT${port}`,
    bit,
    package: packages,
    idle: { [level]: 0 },
    enable: { [direction]: 0 },
    software: { output: { [direction]: 0 }, high: { [level]: 1 }, low: { [level]: 0 } },
  };
}
