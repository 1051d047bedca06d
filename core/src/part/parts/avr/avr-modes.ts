import type { Mode, Writes } from '../../types.ts';

/** The waveform generation bits: 3 on the 8-bit timers, 4 on the 16-bit one; the lower two live in register A. */
function waveform(n: number, code: number, wide = false): Writes {
  const upper: Writes = { [`TCCR${n}B.WGM${n}2`]: (code >> 2) & 1 };
  if (wide) upper[`TCCR${n}B.WGM${n}3`] = code >> 3;
  return { [`TCCR${n}A.WGM${n}1`]: (code >> 1) & 1, [`TCCR${n}A.WGM${n}0`]: code & 1, ...upper };
}

const BUFFERED_BOTTOM = { top: 'bottom', compare: 'bottom' } as const;
const BUFFERED_TOP = { top: 'top', compare: 'top' } as const;
const FIXED_UP = { top: 'immediate', compare: 'bottom' } as const;
const IMMEDIATE = { top: 'immediate', compare: 'immediate' } as const;
const ICR_UP = { top: 'immediate', compare: 'bottom' } as const;
const ICR_UPDOWN = { top: 'immediate', compare: 'top' } as const;

/** Modes of the 8-bit timers; the waveform code of the datasheet's table stands in each name. */
export function narrowModes(n: number): Mode[] {
  const [a, b] = [`OC${n}A`, `OC${n}B`];
  const topA = { kind: 'channel', channel: a, writes: { [`OCR${n}A`]: { of: 'top' } }, max: 255 } as const;
  return [
    {
      id: 'fast',
      name: 'fast PWM, top 0xFF (WGM 3)',
      count: 'up',
      base: 1,
      lag: 1,
      top: { kind: 'fixed', value: 255 },
      pwm: { channels: [a, b], high: 'compare+1', changes: 'match' },
      tick: 'overflow',
      update: FIXED_UP,
      writes: waveform(n, 3),
    },
    {
      id: 'fast-ocra',
      name: `fast PWM, top OCR${n}A (WGM 7)`,
      count: 'up',
      base: 1,
      lag: 1,
      top: { ...topA, min: 1 },
      pwm: { channels: [b], high: 'compare+1', changes: 'match' },
      toggle: { channels: [a] },
      tick: 'overflow',
      update: BUFFERED_BOTTOM,
      writes: waveform(n, 7),
    },
    {
      id: 'phase',
      name: 'phase-correct PWM, top 0xFF (WGM 1)',
      count: 'updown',
      base: 0,
      lag: 1,
      top: { kind: 'fixed', value: 255 },
      pwm: { channels: [a, b], high: 'compare', changes: 'match' },
      tick: 'overflow',
      update: BUFFERED_TOP,
      writes: waveform(n, 1),
    },
    {
      id: 'phase-ocra',
      name: `phase-correct PWM, top OCR${n}A (WGM 5)`,
      count: 'updown',
      base: 0,
      lag: 1,
      top: { ...topA, min: 1 },
      pwm: { channels: [b], high: 'compare', changes: 'match' },
      toggle: { channels: [a] },
      tick: 'overflow',
      update: BUFFERED_TOP,
      writes: waveform(n, 5),
    },
    {
      id: 'ctc',
      name: `clear on compare, top OCR${n}A (WGM 2)`,
      count: 'up',
      base: 1,
      lag: 1,
      top: { ...topA, min: 0 },
      toggle: { channels: [a, b] },
      tick: a,
      update: IMMEDIATE,
      writes: waveform(n, 2),
    },
    {
      id: 'normal',
      name: 'free running, top 0xFF (WGM 0)',
      count: 'up',
      base: 1,
      lag: 1,
      top: { kind: 'fixed', value: 255 },
      toggle: { channels: [a, b] },
      tick: 'overflow',
      update: IMMEDIATE,
      writes: waveform(n, 0),
    },
  ];
}

/** The three fixed-top PWM modes of one kind: 8, 9 and 10 bits. */
function fixedModes(n: number, channels: readonly string[], kind: 'fast' | 'phase', first: number): Mode[] {
  return [8, 9, 10].map((width, at) => ({
    id: `${kind}-${width}`,
    name: `${kind === 'fast' ? 'fast' : 'phase-correct'} PWM, ${width} bit (WGM ${first + at})`,
    count: kind === 'fast' ? 'up' : 'updown',
    base: kind === 'fast' ? 1 : 0,
    lag: 1,
    top: { kind: 'fixed', value: 2 ** width - 1 },
    pwm: { channels: channels, high: kind === 'fast' ? 'compare+1' : 'compare', changes: 'match' },
    tick: 'overflow',
    update: kind === 'fast' ? FIXED_UP : BUFFERED_TOP,
    writes: waveform(n, first + at, true),
  }));
}

/** Modes of the 16-bit timers; PWM modes need a top of 3 at least. */
export function wideModes(n: number, letters: string): Mode[] {
  const all = [...letters].map((letter) => `OC${n}${letter}`);
  const a = `OC${n}A`;
  const rest = all.filter((id) => id !== a);
  const topIcr = { kind: 'register', writes: { [`ICR${n}`]: { of: 'top' } }, min: 3, max: 65535 } as const;
  const topOcr = {
    kind: 'channel',
    channel: a,
    writes: { [`OCR${n}A`]: { of: 'top' } },
    min: 3,
    max: 65535,
  } as const;
  return [
    {
      id: 'fast-icr',
      name: `fast PWM, top ICR${n} (WGM 14)`,
      count: 'up',
      base: 1,
      lag: 1,
      top: topIcr,
      pwm: { channels: all, high: 'compare+1', changes: 'match' },
      toggle: { channels: [a] },
      tick: 'overflow',
      update: ICR_UP,
      writes: waveform(n, 14, true),
    },
    {
      id: 'fast-ocra',
      name: `fast PWM, top OCR${n}A (WGM 15)`,
      count: 'up',
      base: 1,
      lag: 1,
      top: topOcr,
      pwm: { channels: rest, high: 'compare+1', changes: 'match' },
      toggle: { channels: [a] },
      tick: 'overflow',
      update: BUFFERED_BOTTOM,
      writes: waveform(n, 15, true),
    },
    ...fixedModes(n, all, 'fast', 5),
    {
      id: 'phase-freq-icr',
      name: `phase and frequency correct PWM, top ICR${n} (WGM 8)`,
      count: 'updown',
      base: 0,
      lag: 1,
      top: topIcr,
      pwm: { channels: all, high: 'compare', changes: 'match' },
      tick: 'overflow',
      update: { top: 'immediate', compare: 'bottom' },
      writes: waveform(n, 8, true),
    },
    {
      id: 'phase-icr',
      name: `phase-correct PWM, top ICR${n} (WGM 10)`,
      count: 'updown',
      base: 0,
      lag: 1,
      top: topIcr,
      pwm: { channels: all, high: 'compare', changes: 'match' },
      tick: 'overflow',
      update: ICR_UPDOWN,
      writes: waveform(n, 10, true),
    },
    {
      id: 'phase-freq-ocra',
      name: `phase and frequency correct PWM, top OCR${n}A (WGM 9)`,
      count: 'updown',
      base: 0,
      lag: 1,
      top: topOcr,
      pwm: { channels: rest, high: 'compare', changes: 'match' },
      toggle: { channels: [a] },
      tick: 'overflow',
      update: BUFFERED_BOTTOM,
      writes: waveform(n, 9, true),
    },
    {
      id: 'phase-ocra',
      name: `phase-correct PWM, top OCR${n}A (WGM 11)`,
      count: 'updown',
      base: 0,
      lag: 1,
      top: topOcr,
      pwm: { channels: rest, high: 'compare', changes: 'match' },
      toggle: { channels: [a] },
      tick: 'overflow',
      update: BUFFERED_TOP,
      writes: waveform(n, 11, true),
    },
    ...fixedModes(n, all, 'phase', 1),
    {
      id: 'ctc-icr',
      name: `clear on compare, top ICR${n} (WGM 12)`,
      count: 'up',
      base: 1,
      lag: 1,
      top: { ...topIcr, min: 0 },
      toggle: { channels: all },
      tick: 'capture',
      update: IMMEDIATE,
      writes: waveform(n, 12, true),
    },
    {
      id: 'ctc',
      name: `clear on compare, top OCR${n}A (WGM 4)`,
      count: 'up',
      base: 1,
      lag: 1,
      top: { ...topOcr, min: 0 },
      toggle: { channels: all },
      tick: a,
      update: IMMEDIATE,
      writes: waveform(n, 4, true),
    },
    {
      id: 'normal',
      name: 'free running, top 0xFFFF (WGM 0)',
      count: 'up',
      base: 1,
      lag: 1,
      top: { kind: 'fixed', value: 65535 },
      toggle: { channels: all },
      tick: 'overflow',
      update: IMMEDIATE,
      writes: waveform(n, 0, true),
    },
  ];
}
