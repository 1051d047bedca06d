import type { Channel, Interrupt, Mode, Output, Register, Timer, Writes } from '../../types.ts';
import { irq } from '../common/cortex.ts';
import { field, numbered, register, strobe } from '../common/registers.ts';

/** Timers with their base address, clock gate, clock channel, interrupt, width and channels. */
export const GROUPS = [
  { id: 'TCC0', base: 0x42002000, gate: 8, clock: 0x1a, irq: 15, width: 24, channels: 4 },
  { id: 'TCC1', base: 0x42002400, gate: 9, clock: 0x1a, irq: 16, width: 24, channels: 2 },
  { id: 'TCC2', base: 0x42002800, gate: 10, clock: 0x1b, irq: 17, width: 16, channels: 2 },
  { id: 'TC3', base: 0x42002c00, gate: 11, clock: 0x1b, irq: 18, width: 16, channels: 2 },
  { id: 'TC4', base: 0x42003000, gate: 12, clock: 0x1c, irq: 19, width: 16, channels: 2 },
  { id: 'TC5', base: 0x42003400, gate: 13, clock: 0x1c, irq: 20, width: 16, channels: 2 },
] as const;

type Group = (typeof GROUPS)[number];

/** Pins: name, place on the 48-pin package, and what the functions E (4) and F (5) bring out there. */
export const PINS: readonly (readonly [string, number, ...(readonly [number, string])[]])[] = [
  ['PA00', 1, [4, 'TCC2_WO0']],
  ['PA01', 2, [4, 'TCC2_WO1']],
  ['PA02', 3],
  ['PA03', 4],
  ['PB08', 7, [4, 'TC4_WO0']],
  ['PB09', 8, [4, 'TC4_WO1']],
  ['PA04', 9, [4, 'TCC0_WO0']],
  ['PA05', 10, [4, 'TCC0_WO1']],
  ['PA06', 11, [4, 'TCC1_WO0']],
  ['PA07', 12, [4, 'TCC1_WO1']],
  ['PA08', 13, [4, 'TCC0_WO0'], [5, 'TCC1_WO2']],
  ['PA09', 14, [4, 'TCC0_WO1'], [5, 'TCC1_WO3']],
  ['PA10', 15, [4, 'TCC1_WO0'], [5, 'TCC0_WO2']],
  ['PA11', 16, [4, 'TCC1_WO1'], [5, 'TCC0_WO3']],
  ['PB10', 19, [4, 'TC5_WO0'], [5, 'TCC0_WO4']],
  ['PB11', 20, [4, 'TC5_WO1'], [5, 'TCC0_WO5']],
  ['PA12', 21, [4, 'TCC2_WO0'], [5, 'TCC0_WO6']],
  ['PA13', 22, [4, 'TCC2_WO1'], [5, 'TCC0_WO7']],
  ['PA14', 23, [4, 'TC3_WO0'], [5, 'TCC0_WO4']],
  ['PA15', 24, [4, 'TC3_WO1'], [5, 'TCC0_WO5']],
  ['PA16', 25, [4, 'TCC2_WO0'], [5, 'TCC0_WO6']],
  ['PA17', 26, [4, 'TCC2_WO1'], [5, 'TCC0_WO7']],
  ['PA18', 27, [4, 'TC3_WO0'], [5, 'TCC0_WO2']],
  ['PA19', 28, [4, 'TC3_WO1'], [5, 'TCC0_WO3']],
  ['PA20', 29, [5, 'TCC0_WO6']],
  ['PA21', 30, [5, 'TCC0_WO7']],
  ['PA22', 31, [4, 'TC4_WO0'], [5, 'TCC0_WO4']],
  ['PA23', 32, [4, 'TC4_WO1'], [5, 'TCC0_WO5']],
  ['PA24', 33, [4, 'TC5_WO0'], [5, 'TCC1_WO2']],
  ['PA25', 34, [4, 'TC5_WO1'], [5, 'TCC1_WO3']],
  ['PB22', 37],
  ['PB23', 38],
  ['PA27', 39],
  ['PA28', 41],
  ['PA30', 45, [4, 'TCC1_WO0']],
  ['PA31', 46, [4, 'TCC1_WO1']],
  ['PB02', 47],
  ['PB03', 48],
];

const DIVIDES = [1, 2, 4, 8, 16, 64, 256, 1024];

function prescaler(control: string): Timer['prescaler'] {
  return {
    kind: 'list',
    options: DIVIDES.map((divide, code) => ({ divide, writes: { [`${control}.PRESCALER`]: code } })),
  };
}

/** Selects what comes out on a pin: one field for the even and one for the odd pin of each pair. */
function select(pin: string, code: number): Writes {
  const port = pin.charAt(1);
  const bit = Number(pin.slice(2));
  return { [`PORT_${port}_PMUX${bit >> 1}.PMUX${bit % 2 === 0 ? 'E' : 'O'}`]: code };
}

/** Pins on which an output of a timer comes out, each with what it takes. `invert` names the bit that inverts it. */
function outputsOf(
  id: string,
  lines: readonly number[],
  drives: readonly Output['drive'][],
  invert: (line: number) => string,
): Output[] {
  return PINS.flatMap(([pin, , ...functions]) =>
    functions.flatMap(([code, name]) => {
      const line = lines.find((n) => name === `${id}_WO${n}`);
      if (line === undefined) return [];
      return drives.flatMap((drive) =>
        (drive === 'toggle' ? (['normal'] as const) : (['normal', 'inverted'] as const)).map(
          (polarity): Output => ({
            pin,
            drive,
            polarity,
            writes: { ...select(pin, code), [invert(line)]: polarity === 'inverted' ? 1 : 0 },
          }),
        ),
      );
    }),
  );
}

/** The gate of a timer's bus clock. */
function power({ id }: Group): Writes {
  return { [`PM_APBCMASK.${id}`]: 1 };
}

/** Leads generator 4 to a timer: an order, since one register serves all channels of the clock controller. */
function commands({ clock }: Group): Writes[] {
  return [{ 'GCLK_CLKCTRL.ID': clock, 'GCLK_CLKCTRL.GEN': 4, 'GCLK_CLKCTRL.CLKEN': 1 }];
}

function controlMode(own: Group, id: string, name: string, code: number): Mode {
  const channels = Array.from({ length: own.channels }, (_, n) => `CC${n}`);
  const dual = code > 3;
  return {
    id,
    name,
    count: dual ? 'updown' : 'up',
    base: dual ? 0 : 1,
    top: {
      kind: 'register',
      writes: { [`${own.id}_PER`]: { of: 'top' } },
      running: { [`${own.id}_PERB`]: { of: 'top' } },
      min: 1,
      max: 2 ** own.width - 1,
    },
    pwm: {
      channels,
      high: 'compare',
      turned: Object.fromEntries(
        channels.map((channel, n) => [channel, { [`${own.id}_WAVE.POL${n}`]: dual ? 0 : 1 }]),
      ),
    },
    ...(dual ? {} : { tick: 'overflow' }),
    // A match that only interrupts has its value written to CCx itself and not to the buffer.
    update: { top: 'bottom', compare: 'bottom', match: 'immediate' },
    writes: {
      [`${own.id}_WAVE.WAVEGEN`]: code,
      // Two slopes: a match clears the output on the way up and sets it on the way down only with the polarity bit
      // (datasheet section 31.6.2.5.6, table of set and clear conditions).
      ...Object.fromEntries(channels.map((_, n) => [`${own.id}_WAVE.POL${n}`, dual ? 1 : 0])),
      [`${own.id}_CTRLA.ENABLE`]: 1,
    },
    // New values at both ends, or at the top alone: a steady waveform is the same.
    ...(dual ? { same: [6, 7].map((other) => ({ [`${own.id}_WAVE.WAVEGEN`]: other })) } : {}),
  };
}

/** An interrupt of a timer: one register enables, another disables. */
function event({ id, irq: number }: Group, name: string): Interrupt {
  return {
    ...irq(id, number, `${id}_INTENSET.${name}`, `${id}_INTFLAG.${name}`, 'write-one'),
    disable: { [`${id}_INTENCLR.${name}`]: 1 },
  };
}

function controlTimer(own: Group): Timer {
  const { id, width, channels } = own;
  const numbers = Array.from({ length: channels }, (_, n) => n);
  const control = `${id}_CTRLA`;
  const channelOf = (n: number): Channel => ({
    id: `CC${n}`,
    name: `${id} CC${n}`,
    compare: { [`${id}_CC${n}`]: { of: 'compare' } },
    running: { [`${id}_CCB${n}`]: { of: 'compare' } },
    outputs: outputsOf(
      id,
      [0, 1, 2, 3, 4, 5, 6, 7].filter((line) => line % channels === n),
      ['pwm'],
      (line) => `${id}_DRVCTRL.INVEN${line}`,
    ),
    interrupt: event(own, `MC${n}`),
  });
  return {
    id,
    name: id,
    width,
    clock: 'timers',
    prescaler: prescaler(control),
    modes: [
      controlMode(own, 'single', 'single slope, top PER', 2),
      controlMode(own, 'dual', 'dual slope, top PER', 5),
    ],
    channels: numbers.map(channelOf),
    counter: `${id}_COUNT`,
    preset: true,
    interrupts: { overflow: event(own, 'OVF') },
    power: power(own),
    commands: commands(own),
    sequence: [
      { register: control, without: ['ENABLE'] },
      { register: `${id}_WAVE` },
      { register: `${id}_DRVCTRL` },
      { register: `${id}_PER` },
      ...numbers.map((n) => ({ register: `${id}_CC${n}` })),
      { register: `${id}_COUNT` },
      { register: control },
    ],
  };
}

/** A timer of 16 bits, or a pair of them as one of 32: top taken from channel 0, or fixed. */
function counterTimer(own: Group, width: 16 | 32): Timer {
  const { id } = own;
  const form = `${id}_MODE_${width}`;
  const control = `${id}_CTRLA`;
  const max = 2 ** width - 1;
  const run = (code: number): Writes => ({
    [`${control}.MODE`]: width === 16 ? 0 : 2,
    [`${control}.WAVEGEN`]: code,
    [`${control}.ENABLE`]: 1,
  });
  const top = {
    kind: 'channel',
    channel: 'CC0',
    writes: { [`${form}_CC0`]: { of: 'top' } },
    min: 1,
    max,
  } as const;
  const channelOf = (n: number): Channel => ({
    id: `CC${n}`,
    name: `${id} CC${n}`,
    compare: { [`${form}_CC${n}`]: { of: 'compare' } },
    outputs: outputsOf(id, [n], ['pwm', 'toggle'], (line) => `${id}_CTRLC.INVEN${line}`),
    interrupt: event(own, `MC${n}`),
  });
  const update = { top: 'immediate', compare: 'immediate' } as const;
  return {
    id: width === 16 ? id : `${id}_32`,
    name: width === 16 ? id : `${id} with its neighbour, 32 bits`,
    ...(width === 16 ? {} : { variantOf: id }),
    width,
    clock: 'timers',
    prescaler: prescaler(control),
    modes: [
      {
        id: 'match-pwm',
        name: 'match PWM, top CC0',
        count: 'up',
        base: 1,
        top,
        pwm: { channels: ['CC1'], high: 'compare' },
        tick: 'overflow',
        update,
        writes: run(3),
      },
      {
        id: 'normal-pwm',
        name: 'normal PWM, fixed top',
        count: 'up',
        base: 1,
        top: { kind: 'fixed', value: max },
        pwm: { channels: ['CC0', 'CC1'], high: 'compare' },
        tick: 'overflow',
        update,
        writes: run(2),
      },
      {
        id: 'match',
        name: 'match frequency, top CC0',
        count: 'up',
        base: 1,
        top,
        toggle: { channels: ['CC0'] },
        tick: 'overflow',
        update,
        writes: run(1),
      },
    ],
    channels: [channelOf(0), channelOf(1)],
    counter: `${form}_COUNT`,
    preset: true,
    interrupts: { overflow: event(own, 'OVF') },
    power: width === 16 ? power(own) : { ...power(own), 'PM_APBCMASK.TC5': 1 },
    commands: commands(own),
    sequence: [
      { register: control, without: ['ENABLE'] },
      { register: `${id}_CTRLC` },
      { register: `${form}_CC0` },
      { register: `${form}_CC1` },
      { register: `${form}_COUNT` },
      { register: control },
    ],
  };
}

/** The timers for control, with their period registers. */
export function controlTimers(): Timer[] {
  return GROUPS.slice(0, 3).map(controlTimer);
}

/** The plain timers of 16 bits, and the pair that can be joined. */
export function counterTimers(): Timer[] {
  const plain = GROUPS.slice(3);
  return [
    ...plain.map((own) => counterTimer(own, 16)),
    ...plain.filter(({ id }) => id === 'TC4').map((own) => counterTimer(own, 32)),
  ];
}

function controlRegisters({ id, base, channels }: Group): Register[] {
  const numbers = Array.from({ length: channels }, (_, n) => n);
  const events = { OVF: field(0), ...numbered('MC', numbers, 16) };
  // What the timer's own clock has to take over (datasheet section 31.8.3, SYNCBUSY).
  const taken = (one: Register, name: string): Register => ({ ...one, taken: `!${id}_SYNCBUSY.${name}` });
  return [
    taken(register(`${id}_CTRLA`, base, { ENABLE: field(1), PRESCALER: field(8, 3) }), 'ENABLE'),
    register(`${id}_SYNCBUSY`, base + 0x08, {
      ENABLE: field(1),
      COUNT: field(4),
      WAVE: field(6),
      PER: field(7),
      PERB: field(18),
      ...numbered('CC', numbers, 8),
      ...numbered('CCB', numbers, 19),
    }),
    register(`${id}_DRVCTRL`, base + 0x18, numbered('INVEN', [0, 1, 2, 3, 4, 5, 6, 7], 16)),
    strobe(`${id}_INTENCLR`, base + 0x24, events),
    strobe(`${id}_INTENSET`, base + 0x28, events),
    strobe(`${id}_INTFLAG`, base + 0x2c, events),
    taken(register(`${id}_COUNT`, base + 0x34), 'COUNT'),
    taken(
      register(`${id}_WAVE`, base + 0x3c, { WAVEGEN: field(0, 3), ...numbered('POL', numbers, 16) }),
      'WAVE',
    ),
    taken(register(`${id}_PER`, base + 0x40), 'PER'),
    ...numbers.map((n) => taken(register(`${id}_CC${n}`, base + 0x44 + 4 * n), `CC${n}`)),
    taken(register(`${id}_PERB`, base + 0x6c), 'PERB'),
    ...numbers.map((n) => taken(register(`${id}_CCB${n}`, base + 0x70 + 4 * n), `CCB${n}`)),
  ];
}

function counterRegisters({ id, base }: Group): Register[] {
  const events = { OVF: field(0), ...numbered('MC', [0, 1], 4) };
  const control = { ENABLE: field(1), MODE: field(2, 2), WAVEGEN: field(5, 2), PRESCALER: field(8, 3) };
  // What the timer's own clock has to take over (datasheet section 30.6.6, synchronization).
  const taken = (one: Register): Register => ({ ...one, taken: `!${id}_STATUS.SYNCBUSY` });
  return [
    taken(register(`${id}_CTRLA`, base, control, 16)),
    taken(register(`${id}_CTRLC`, base + 0x06, numbered('INVEN', [0, 1]), 8)),
    strobe(`${id}_INTENCLR`, base + 0x0c, events, 8),
    strobe(`${id}_INTENSET`, base + 0x0d, events, 8),
    strobe(`${id}_INTFLAG`, base + 0x0e, events, 8),
    register(`${id}_STATUS`, base + 0x0f, { SYNCBUSY: field(7) }, 8),
    taken(register(`${id}_MODE_16_COUNT`, base + 0x10, {}, 16)),
    taken(register(`${id}_MODE_16_CC0`, base + 0x18, {}, 16)),
    taken(register(`${id}_MODE_16_CC1`, base + 0x1a, {}, 16)),
    ...(id === 'TC4'
      ? [
          taken(register(`${id}_MODE_32_COUNT`, base + 0x10)),
          taken(register(`${id}_MODE_32_CC0`, base + 0x18)),
          taken(register(`${id}_MODE_32_CC1`, base + 0x1c)),
        ]
      : []),
  ];
}

/** The registers of all timers. */
export function timerRegisters(): Register[] {
  return GROUPS.flatMap((own) => (own.id.startsWith('TCC') ? controlRegisters(own) : counterRegisters(own)));
}
