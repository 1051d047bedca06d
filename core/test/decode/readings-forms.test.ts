import fc from 'fast-check';
import { clockOf, clockPath } from '../../src/clock/path.ts';
import { decodeText } from '../../src/decode/decode.ts';
import { timerOf } from '../../src/part/find.ts';
import { shipped } from '../helpers/parts.ts';
import { agree, assigned, told, type Reading } from '../helpers/readings.ts';

const SEED = 90_417;

/** The clock of a timer of a part, as a new plan has it, in Hz. */
function clockHz(id: string, timer: string): number {
  const part = shipped(id);
  return clockOf(clockPath(part, part.defaultClock), timerOf(part, timer).clock).valueOf();
}

/** The share of a run that is high, turned over or not. */
const share = (high: number, run: number, turned: boolean): number => (turned ? run - high : high) / run;

/**
 * Channel 1 of TIM3 of an STM32F401 (reference manual, general-purpose timers: counter modes by CMS and DIR, PWM modes 6 and 7, toggling 3,
 * CC1P). Undefined for what is left to others: one pulse, inputs, forced levels, toggling both ways.
 */
function generalTimer(
  hz: number,
  { cr1, ccmr1, ccer }: { cr1: number; ccmr1: number; ccer: number },
  { psc, arr, ccr }: { psc: number; arr: number; ccr: number },
): Reading | undefined {
  const [mode, selected] = [(ccmr1 >> 4) & 7, ccmr1 & 3];
  if ((ccer & 1) === 0 || selected !== 0 || (cr1 & 0x0a) !== 0) return undefined;
  const [centered, down, turned] = [(cr1 & 0x60) !== 0, (cr1 & 0x10) !== 0, (ccer & 2) !== 0];
  const counts = hz / (psc + 1);
  const run = centered ? 2 * arr : arr + 1;
  if (mode === 3) {
    if (centered) return undefined;
    return { hz: counts / 2 / run, ...(ccr <= arr ? { duty: 0.5 } : {}) };
  }
  if (mode !== 6 && mode !== 7) return undefined;
  const active = centered ? 2 * Math.min(ccr, arr) : Math.min(ccr + (down ? 1 : 0), run);
  return { hz: counts / run, duty: share(active, run, turned !== (mode === 7)) };
}

/** Output 1 of TCC0 of an SAMD21G18 by WAVEGEN, POL1 and INVEN1 (datasheet, table of set and clear conditions). */
function controlOutput(
  hz: number,
  { ctrla, wave, drvctrl }: { ctrla: number; wave: number; drvctrl: number },
  { per, compare }: { per: number; compare: number },
): Reading | undefined {
  const wavegen = wave & 7;
  const dual = wavegen > 4;
  if (wavegen !== 2 && !dual) return undefined;
  const divide = [1, 2, 4, 8, 16, 64, 256, 1024][(ctrla >> 8) & 7] ?? 1;
  const run = dual ? 2 * per : per + 1;
  const high = Math.min(run, dual ? 2 * compare : compare);
  const pol = ((wave >> 17) & 1) === 1;
  const inverted = ((drvctrl >> 17) & 1) === 1;
  // One slope with the bit, or two without it: set by the match where it else is cleared.
  return { hz: hz / divide / run, duty: share(high, run, (pol !== dual) !== inverted) };
}

describe('random images of registers in other forms are read as the manuals read them, or refused', () => {
  it('TIM3 of an STM32F401', () => {
    const hz = clockHz('stm32f401', 'TIM3');
    let agreed = 0;
    fc.assert(
      fc.property(
        fc.nat(0x3ff),
        fc.nat(0xff),
        fc.nat(0xf),
        fc.nat(999),
        fc.integer({ min: 3, max: 65_534 }),
        fc.nat(65_535),
        (control, mode, output, psc, arr, ccr) => {
          const plain = arr % 2 === 0;
          const cr1 = plain ? (control & 0xe0) | 1 : control;
          const ccmr1 = plain ? 0x68 | (mode & 0x10) : mode;
          const ccer = plain ? (output & 2) | 1 : output;
          const registers = { TIM3_CR1: cr1, TIM3_CCMR1: ccmr1, TIM3_CCER: ccer };
          const lead = { GPIOA_AFRL: 0x0200_0000, GPIOA_MODER: 0x2000 };
          const text = assigned({ ...lead, TIM3_PSC: psc, TIM3_ARR: arr, TIM3_CCR1: ccr, ...registers });
          const own = generalTimer(hz, { cr1, ccmr1, ccer }, { psc, arr, ccr });
          if (agree(text, told('stm32f401', 'PA6', text), own, plain)) agreed += 1;
        },
      ),
      { numRuns: 1000, seed: SEED },
    );
    expect(agreed).toBeGreaterThan(300);
  });

  it('TCC0 of an SAMD21G18, with one slope or two, at every polarity', () => {
    const hz = clockHz('samd21g18', 'TCC0');
    let agreed = 0;
    fc.assert(
      fc.property(
        fc.nat(7),
        fc.constantFrom(0, 1, 2, 2, 4, 5, 6, 7),
        fc.nat(15),
        fc.nat(255),
        fc.integer({ min: 3, max: 100_000 }),
        fc.nat(100_000),
        (divide, wavegen, polarity, inverted, per, compare) => {
          const ctrla = divide * 256 + 2;
          const wave = wavegen + polarity * 0x1_0000;
          const drvctrl = inverted * 0x1_0000;
          const registers = { TCC0_CTRLA: ctrla, TCC0_WAVE: wave, TCC0_DRVCTRL: drvctrl };
          // Function E of PA05.
          const lead = { PORT_A_PMUX2: 0x40, PORT_A_PINCFG5: 1 };
          const text = assigned({ ...lead, ...registers, TCC0_PER: per, TCC0_CC1: compare });
          const own = controlOutput(hz, { ctrla, wave, drvctrl }, { per, compare });
          if (agree(text, told('samd21g18', 'PA05', text), own, true)) agreed += 1;
        },
      ),
      { numRuns: 1000, seed: SEED },
    );
    expect(agreed).toBeGreaterThan(400);
  });

  it('CCP1 of a PIC16F18875, its width aligned to the right or to the left', () => {
    const hz = clockHz('pic16f18875', 'TMR2');
    let agreed = 0;
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 255 }),
        fc.nat(7),
        fc.nat(255),
        fc.nat(255),
        fc.nat(0xff),
        (period, divide, upper, lower, control) => {
          const plain = period % 2 === 0;
          const con = plain ? (control & 0x10) | 0x8f : control;
          const text = assigned({
            ...{ T2CLKCON: 1, T2PR: period, T2CON: 0x80 | (divide << 4), CCPTMRS0: 0x01 },
            ...{ CCPR1H: upper, CCPR1L: lower, CCP1CON: con, RC2PPS: 0x09 },
          });
          const width = con & 0x10 ? 4 * upper + (lower >> 6) : 256 * (upper & 3) + lower;
          const run = 4 * (period + 1);
          const able = (con & 0x80) !== 0 && (con & 0x0f) >= 0x0c;
          const own: Reading | undefined = able
            ? { hz: hz / 2 ** divide / (period + 1), duty: Math.min(run, width) / run }
            : undefined;
          const aligned = (con & 0x10) !== 0 || upper < 4;
          if (agree(text, told('pic16f18875', 'TMR2 CCP1', text), own, plain && aligned)) agreed += 1;
        },
      ),
      { numRuns: 1000, seed: SEED },
    );
    expect(agreed).toBeGreaterThan(200);
  });

  it('says that a postscaler beside PWM divides the interrupt alone', () => {
    const part = shipped('pic16f684');
    const text = 'PR2 = 99; T2CON = 0x3C; CCPR1L = 25; CCP1CON = 0x0C; TRISC = 0;';
    const found = decodeText(part, clockPath(part, part.defaultClock), text);
    const notes = found.ok ? found.value.timers.flatMap((timer) => timer.notes) : [];
    expect(notes).toContainEqual(expect.stringMatching(/^The postscaler of .* by 8, not the output of /));
  });
});
