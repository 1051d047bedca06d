import fc from 'fast-check';
import { clockOf, clockPath } from '../../src/clock/path.ts';
import { timerOf } from '../../src/part/find.ts';
import { shipped } from '../helpers/parts.ts';
import { agree, assigned, told, type Reading } from '../helpers/readings.ts';

const SEED = 61_127;

const PRESCALERS = [0, 1, 8, 64, 256, 1024];

/** Modes of the 16-bit timer by WGM13..10: how it counts, and where its top is (datasheet, table 16-4). */
const WIDE: readonly (readonly ['normal' | 'ctc' | 'fast' | 'phase', 'icr' | 'ocr' | number] | undefined)[] =
  [
    ['normal', 0xffff],
    ['phase', 0xff],
    ['phase', 0x1ff],
    ['phase', 0x3ff],
    ['ctc', 'ocr'],
    ['fast', 0xff],
    ['fast', 0x1ff],
    ['fast', 0x3ff],
    ['phase', 'icr'],
    ['phase', 'ocr'],
    ['phase', 'icr'],
    ['phase', 'ocr'],
    ['ctc', 'icr'],
    undefined,
    ['fast', 'icr'],
    ['fast', 'ocr'],
  ];

/** OC1A of an ATmega, by tables 16-1 to 16-5 and the formulas of section 16.9. */
function timer1(clockHz: number, a: number, b: number, icr: number, ocr: number): Reading | undefined {
  const com = a >> 6;
  const wgm = (a & 3) | (((b >> 3) & 3) << 2);
  const mode = WIDE[wgm];
  const divide = PRESCALERS[b & 7];
  if (!mode || !divide || com === 0 || (a & 0x0c) !== 0 || (b & 0x20) !== 0) return undefined;
  const [counts, where] = mode;
  const top = where === 'icr' ? icr : where === 'ocr' ? ocr : where;
  const hz = clockHz / divide;
  if (counts === 'normal' || counts === 'ctc')
    return com === 1 ? { hz: hz / 2 / (top + 1), ...(ocr <= top ? { duty: 0.5 } : {}) } : undefined;
  const run = counts === 'fast' ? top + 1 : 2 * top;
  if (com === 1) {
    const toggles = counts === 'fast' ? wgm >= 14 : wgm === 9 || wgm === 11;
    // Counting up and down, only the top is passed once; what lies above it is never reached.
    const once = counts === 'fast' ? ocr <= top : ocr === top;
    return toggles ? { hz: hz / 2 / run, ...(once ? { duty: 0.5 } : {}) } : undefined;
  }
  // Up and down, a value above the top matches never, so that the pin stays as it is.
  if (counts === 'phase' && ocr > top) return { hz: hz / run };
  const high = counts === 'fast' ? Math.min(ocr, top) + 1 : 2 * ocr;
  return { hz: hz / run, duty: (com === 2 ? high : run - high) / run };
}

/** OC0A of an ATmega or ATtiny, by tables 15-2 to 15-9. */
function timer0(clockHz: number, a: number, b: number, ocr: number): Reading | undefined {
  const com = a >> 6;
  const wgm = (a & 3) | (((b >> 3) & 1) << 2);
  const divide = PRESCALERS[b & 7];
  if (!divide || com === 0 || (a & 0x0c) !== 0 || (b & 0x30) !== 0) return undefined;
  const hz = clockHz / divide;
  const top = wgm === 2 || wgm === 5 || wgm === 7 ? ocr : 0xff;
  if (wgm === 4 || wgm === 6) return undefined;
  if (wgm === 0 || wgm === 2) return com === 1 ? { hz: hz / 2 / (top + 1), duty: 0.5 } : undefined;
  const fast = wgm === 3 || wgm === 7;
  const run = fast ? top + 1 : 2 * top;
  if (com === 1) return wgm === 5 || wgm === 7 ? { hz: hz / 2 / run, duty: 0.5 } : undefined;
  const high = fast ? Math.min(ocr, top) + 1 : 2 * Math.min(ocr, top);
  return { hz: hz / run, duty: (com === 2 ? high : run - high) / run };
}

/** Output A of slice 0 of an RP2040 at 125 MHz: DIV is 8.4 from 1 up, phase-correct takes twice the time (section 4.5.2). */
function slice0(csr: number, div: number, top: number, compare: number): Reading | undefined {
  const free = ((csr >> 4) & 3) === 0;
  // Whether it runs yet is told apart from what it will make.
  if (!free || (csr & 0xc0) !== 0) return undefined;
  const whole = (div >> 4) & 0xff;
  if (whole === 0) return undefined;
  const divide = whole + (div & 15) / 16;
  const high = Math.min(compare, top + 1);
  const share = high / (top + 1);
  return {
    hz: 125e6 / divide / (top + 1) / (csr & 2 ? 2 : 1),
    duty: csr & 4 ? 1 - share : share,
  };
}

/**
 * Channel 0 of FTM0 of an MK20DX256 on a bus of so many Hz, its counter from 0 (reference manual, FTM: channel modes by CPWMS, MSnB:MSnA,
 * ELSnB:ELSnA).
 */
function flexible(busHz: number, sc: number, csc: number, mod: number, value: number): Reading | undefined {
  // Whether its clock is on yet is told apart; 2 and 3 are other clocks.
  if (((sc >> 3) & 3) > 1 || (csc & 0x03) !== 0) return undefined;
  const [up, channel, edge] = [(sc & 0x20) === 0, (csc >> 4) & 3, (csc >> 2) & 3];
  const hz = busHz / 2 ** (sc & 7);
  if (up && channel === 1) {
    if (edge !== 1) return undefined;
    return { hz: hz / 2 / (mod + 1), ...(value <= mod ? { duty: 0.5 } : {}) };
  }
  if ((up && channel < 2) || edge === 0) return undefined;
  const run = up ? mod + 1 : 2 * mod;
  const high = Math.min(run, up ? value : 2 * value);
  // 10 is high-true, X1 low-true.
  return { hz: hz / run, duty: (edge === 2 ? high : run - high) / run };
}

/** Output 1 of TC3 of an SAMD21G18 in 16 bits, in the two modes that are PWM: normal, and with CC0 as the top (datasheet, section 30.6). */
function controlTimer(
  clockHz: number,
  ctrla: number,
  ctrlc: number,
  top: number,
  compare: number,
): Reading | undefined {
  const wavegen = (ctrla >> 5) & 3;
  if (((ctrla >> 2) & 3) !== 0 || wavegen < 2) return undefined;
  const divide = [1, 2, 4, 8, 16, 64, 256, 1024][(ctrla >> 8) & 7] ?? 1;
  const run = (wavegen === 3 ? top : 0xffff) + 1;
  const high = Math.min(run, compare);
  return { hz: clockHz / divide / run, duty: (ctrlc & 2 ? run - high : high) / run };
}

/** CCP1 of a PIC with its output alone: timer 2 counts instruction cycles, the duty has two bits more (datasheet, PWM mode). */
function capturePwm(
  clockHz: number,
  t2con: number,
  pr2: number,
  ccp1con: number,
  width: number,
): Reading | undefined {
  const divide = [1, 4, 16, 16][t2con & 3] ?? 1;
  if ((ccp1con & 0x0c) !== 0x0c || ccp1con >> 6 !== 0) return undefined;
  const run = 4 * (pr2 + 1);
  const high = Math.min(run, 4 * width + ((ccp1con >> 4) & 3));
  const low = (ccp1con & 2) !== 0;
  return { hz: clockHz / 4 / divide / (pr2 + 1), duty: (low ? run - high : high) / run };
}

const byte = fc.nat(255);
/** Control registers that lead the output to the pin, beside any. */
const able = fc.oneof(byte, fc.constantFrom(0x40, 0x43, 0x80, 0x81, 0x82, 0x83, 0xc0, 0xc1, 0xc2, 0xc3));
const clocked = fc.oneof(byte, fc.nat(0x1f));
const count = fc.oneof(fc.integer({ min: 3, max: 300 }), fc.integer({ min: 3, max: 65_535 }));

describe('random images of registers are read as the datasheet reads them, or refused', () => {
  it.each([
    ['atmega328p', 'PB1', 16e6, 0xff],
    // Bits 2 and 3 are those of a third channel.
    ['atmega2560', 'PB5', 16e6, 0xf3],
  ])('timer 1 of %s', (id, pin, clockHz, ownBits) => {
    let agreed = 0;
    fc.assert(
      fc.property(able, clocked, count, count, (a, b, icr, ocr) => {
        // Half of the images leave reserved bits alone.
        const [control, mode] = icr % 2 === 0 ? [a & 0xf3, b & 0xdf] : [a, b];
        const text = assigned({ TCCR1A: control, TCCR1B: mode, ICR1: icr, OCR1A: ocr, DDRB: 0xff });
        const own = timer1(clockHz, control & ownBits, mode, icr, ocr);
        const known = (control & 0x30) === 0 && (mode & 0xc0) === 0 && control >> 6 !== 1;
        if (agree(text, told(id, pin, text), own, known)) agreed += 1;
      }),
      { numRuns: 1000, seed: SEED },
    );
    expect(agreed).toBeGreaterThan(100);
  });

  it.each([
    ['atmega328p', 'PD6', 16e6],
    ['atmega2560', 'PB7', 16e6],
    ['attiny85', 'PB0', 8e6],
  ])('timer 0 of %s', (id, pin, clockHz) => {
    let agreed = 0;
    fc.assert(
      fc.property(able, clocked, fc.integer({ min: 3, max: 255 }), (a, b, ocr) => {
        const [control, mode] = ocr % 2 === 0 ? [a & 0xf3, b & 0x0f] : [a, b & 0x3f];
        const text = assigned({
          TCCR0A: control,
          TCCR0B: mode,
          OCR0A: ocr,
          [pin.startsWith('PD') ? 'DDRD' : 'DDRB']: 0xff,
        });
        const known = (control & 0x30) === 0 && control >> 6 !== 1;
        if (agree(text, told(id, pin, text), timer0(clockHz, control, mode, ocr), known)) agreed += 1;
      }),
      { numRuns: 1000, seed: SEED },
    );
    expect(agreed).toBeGreaterThan(100);
  });

  it('slice 0 of an RP2040', () => {
    let agreed = 0;
    fc.assert(
      fc.property(fc.nat(255), fc.nat(4095), count, fc.nat(65_535), (csr, div, top, compare) => {
        const control = top % 4 === 0 ? csr : csr & 0x0f;
        const text = assigned({
          CH0_CSR: control,
          CH0_DIV: div,
          CH0_TOP: top,
          CH0_CC: compare,
        });
        if (agree(text, told('rp2040', 'GPIO0', text), slice0(control, div, top, compare), true)) agreed += 1;
      }),
      { numRuns: 1000, seed: SEED },
    );
    expect(agreed).toBeGreaterThan(150);
  });

  it('channel 0 of FTM0 of an MK20DX256', () => {
    const part = shipped('mk20dx256');
    const busHz = clockOf(clockPath(part, part.defaultClock), 'bus').valueOf();
    let agreed = 0;
    fc.assert(
      fc.property(fc.nat(0x3f), fc.nat(0xff), count, fc.nat(65_535), (sc, csc, mod, value) => {
        const status = sc % 3 === 0 ? (sc & 0x27) | 8 : sc;
        const channel = mod % 3 === 0 ? csc & 0xff : csc & 0x3c;
        const top = (status & 0x20) === 0 ? Math.min(mod, 0xfffe) : mod % 0x7fff || 5;
        const text = assigned({
          FTM0_SC: status,
          FTM0_CNT: 0,
          FTM0_MOD: top,
          FTM0_C0SC: channel,
          FTM0_C0V: value % (2 * top),
          PORTC_PCR1: 0x400,
        });
        const own = flexible(busHz, status, channel, top, value % (2 * top));
        const known = (channel & 0xc3) === 0 && ((channel >> 2) & 3) !== 3;
        if (agree(text, told('mk20dx256', 'PTC1', text), own, known && ((channel >> 4) & 3) === 2))
          agreed += 1;
      }),
      { numRuns: 2000, seed: SEED },
    );
    expect(agreed).toBeGreaterThan(100);
  });

  it.each([
    ['pic16f684', 'RC5', 20e6],
    ['pic18f4620', 'RC2', 40e6],
  ])('the PWM of %s', (id, pin, clockHz) => {
    let agreed = 0;
    fc.assert(
      fc.property(byte, fc.integer({ min: 1, max: 255 }), byte, byte, (t2con, pr2, control, width) => {
        const ccp1con = pr2 % 2 === 0 ? (control & 0x30) | 0x0c : control;
        const t2 = t2con | 4;
        const text = assigned({ PR2: pr2, T2CON: t2, CCPR1L: width, CCP1CON: ccp1con, TRISC: 0 });
        const own = capturePwm(clockHz, t2, pr2, ccp1con, width);
        if (agree(text, told(id, pin, text), own, (ccp1con & 0xcf) === 0x0c && (t2 & 0x83) < 3)) agreed += 1;
      }),
      { numRuns: 1000, seed: SEED },
    );
    expect(agreed).toBeGreaterThan(200);
  });

  it('TC3 of an SAMD21G18', () => {
    const part = shipped('samd21g18');
    const timer = timerOf(part, 'TC3');
    const clockHz = clockOf(clockPath(part, part.defaultClock), timer.clock).valueOf();
    let agreed = 0;
    fc.assert(
      fc.property(fc.nat(0xffff), fc.nat(7), count, fc.nat(65_535), (control, ctrlc, top, compare) => {
        const ctrla = top % 2 === 0 ? (control & 0x0760) | 2 : control & 0x3fee;
        // Without PWM an output toggles or stays, which other tests look at.
        if (((ctrla >> 5) & 3) < 2) return;
        const text = assigned({
          TC3_CTRLA: ctrla,
          TC3_CTRLC: ctrlc,
          TC3_MODE_16_CC0: top,
          TC3_MODE_16_CC1: compare,
        });
        const own = controlTimer(clockHz, ctrla, ctrlc, top, compare);
        const known = (ctrla & ~0x0762) === 0 && ctrlc < 4;
        if (agree(text, told('samd21g18', 'TC3 CC1', text), own, known)) agreed += 1;
      }),
      { numRuns: 1000, seed: SEED },
    );
    expect(agreed).toBeGreaterThan(100);
  });
});
