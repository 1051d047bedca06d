import fc from 'fast-check';
import { clockOf, clockPath } from '../../src/clock/path.ts';
import { decodeText } from '../../src/decode/decode.ts';
import { timerOf } from '../../src/part/find.ts';
import { runGeneralTimer } from '../helpers/counter.ts';
import { shipped } from '../helpers/parts.ts';
import { agree, assigned, told, type Reading } from '../helpers/readings.ts';

const SEED = 61_128;

/** The clock of a timer of a part, as a new plan has it, in Hz. */
function clockHz(id: string, timer: string): number {
  const part = shipped(id);
  return clockOf(clockPath(part, part.defaultClock), timerOf(part, timer).clock).valueOf();
}

/**
 * Output A of an ePWM unit of an AM3358, count by count: what its actions make of the level in eight runs (technical reference manual,
 * section 15.2.2). Compare values at an end of a run, where actions meet, are left to other tests.
 */
function actions(
  tbctl: number,
  aqctla: number,
  top: number,
  compare: number,
): { counts: number; high: number } | undefined {
  const mode = tbctl & 3;
  if (mode === 1 || mode === 3) return undefined;
  const run = mode === 0 ? top + 1 : 2 * top;
  const act = (level: number, shift: number): number => {
    const action = (aqctla >> shift) & 3;
    return action === 1 ? 0 : action === 2 ? 1 : action === 3 ? 1 - level : level;
  };
  const levels: number[] = [];
  let level = 0;
  for (let at = 0; at < 12 * run; at += 1) {
    const step = at % run;
    const count = step <= top ? step : run - step;
    const rising = mode === 0 || step < top;
    if (count === 0) level = act(level, 0);
    if (count === top) level = act(level, 2);
    if (count === compare && rising) level = act(level, 4);
    if (count === compare && !rising) level = act(level, 6);
    levels.push(level);
  }
  // Settled after some runs; a level that is toggled takes two for a period.
  const steady = levels.slice(4 * run);
  for (const counts of [run, 2 * run]) {
    const repeats = steady.every((one, at) => at + counts >= steady.length || one === steady[at + counts]);
    if (repeats) return { counts, high: steady.slice(0, counts).reduce((sum, one) => sum + one, 0) };
  }
  return undefined;
}

describe('random images of registers are read as the manuals read them, or refused', () => {
  it('ePWM unit 0 of an AM3358, by counting', () => {
    const hz = clockHz('am3358', 'EPWM0');
    let agreed = 0;
    fc.assert(
      fc.property(
        fc.nat(0x1fff),
        fc.nat(0xff),
        fc.integer({ min: 3, max: 60 }),
        fc.nat(1000),
        (control, own, top, at) => {
          const tbctl = top % 3 === 0 ? control : control & 0x1f83;
          const aqctla = at % 2 === 0 ? ([0x92, 0x61, 0x92, 0x61, 0x92, 0x61, 0x0c][at % 7] ?? 0) : own;
          const compare = 1 + (at % (top - 1));
          const text = assigned({
            EPWM0_TBCTL: tbctl,
            EPWM0_TBPRD: top,
            EPWM0_CMPA: compare,
            EPWM0_AQCTLA: aqctla,
          });
          const made = actions(tbctl, aqctla, top, compare);
          const divide = Math.max(1, 2 * ((tbctl >> 7) & 7)) * 2 ** ((tbctl >> 10) & 7);
          const reading: Reading | undefined = made && {
            hz: hz / divide / made.counts,
            duty: made.high / made.counts,
          };
          // A level that never changes has no frequency to compare.
          const first = told('am3358', 'EPWM0 A', text);
          if (made && (made.high === 0 || made.high === made.counts)) return;
          if (agree(text, first, reading, false)) agreed += 1;
        },
      ),
      { numRuns: 1000, seed: SEED },
    );
    expect(agreed).toBeGreaterThan(60);
  });

  it('general timer 4 of an AM3358, by counting', () => {
    const hz = clockHz('am3358', 'DMTIMER4');
    let agreed = 0;
    fc.assert(
      fc.property(
        fc.nat(0x7fff),
        fc.integer({ min: 3, max: 60 }),
        fc.nat(1000),
        fc.nat(0xff),
        (control, top, at, low) => {
          // Of three, one is any image, one a PWM with any prescaler and level at rest, one a pin that overflows toggle.
          const tclr = [control, (low & 0xbc) | 0x1843, (low & 0x3c) | 0x1403][at % 3] ?? 0;
          const load = 2 ** 32 - 1 - top;
          const match = load + (at % (top - 1));
          const text = assigned({ DMTIMER4_TLDR: load, DMTIMER4_TMAR: match, DMTIMER4_TCLR: tclr });
          const bits = (shift: number, mask: number): number => (tclr >> shift) & mask;
          const rest = bits(7, 1) as 0 | 1;
          const [trigger, compares] = [bits(10, 3), bits(6, 1)];
          const drives = bits(12, 1) === 1 && bits(14, 1) === 0 && bits(0, 3) === 3;
          const divide = bits(5, 1) === 1 ? 2 ** (bits(2, 7) + 1) : 1;
          const levels = runGeneralTimer(
            load,
            trigger === 2 && compares ? match : -1,
            load,
            rest,
            8 * (top + 1),
          );
          const steady = levels.slice(2 * (top + 1), 4 * (top + 1));
          const own: Reading | undefined =
            drives && (trigger === 1 || trigger === 2)
              ? {
                  hz: hz / divide / (trigger === 2 && compares ? top + 1 : 2 * (top + 1)),
                  duty: steady.filter((level) => level === 1).length / steady.length,
                }
              : undefined;
          if (agree(text, told('am3358', 'DMTIMER4 OUT', text), own, false)) agreed += 1;
        },
      ),
      { numRuns: 1000, seed: SEED },
    );
    expect(agreed).toBeGreaterThan(400);
  });

  it('PWM channel 1 of a BCM2835 in mark-space mode', () => {
    const hz = clockHz('bcm2835', 'PWM1');
    let agreed = 0;
    fc.assert(
      fc.property(
        fc.nat(0xff),
        fc.integer({ min: 0, max: 3 }),
        fc.integer({ min: 2, max: 4095 }),
        fc.nat(4095),
        fc.integer({ min: 2, max: 5000 }),
        fc.nat(6000),
        (control, mash, whole, part, range, data) => {
          const ctl = range % 3 === 0 ? control : (control & 0x10) | 0x81;
          if ((ctl & 0x80) === 0) return;
          const filter = range % 2 === 0 ? 1 : mash;
          const text = assigned({
            CM_PWMCTL: 0x5a000011 + filter * 2 ** 9,
            CM_PWMDIV: 0x5a000000 + whole * 4096 + part,
            PWM_CTL: ctl,
            PWM_RNG1: range,
            PWM_DAT1: data,
          });
          // Bit 1 makes it a serialiser, bit 5 takes the FIFO, bits 2, 3 and 6 are not for PWM; without a filter the fraction is dropped.
          const able = (ctl & 0x6e) === 0 && filter < 2;
          const high = Math.min(range, data);
          const own: Reading | undefined = able
            ? {
                hz: hz / (whole + (filter === 1 ? part / 4096 : 0)) / range,
                duty: (ctl & 0x10 ? range - high : high) / range,
              }
            : undefined;
          const made = told('bcm2835', 'PWM1 CH1', text);
          if (agree(text, made, own, filter === 1 && (ctl & 1) === 1)) agreed += 1;
        },
      ),
      { numRuns: 1000, seed: SEED },
    );
    expect(agreed).toBeGreaterThan(200);
  });

  it('names a clock of the PWM of a BCM2835 that is not the plan’s: 6 is a PLL, 1 the oscillator', () => {
    const part = shipped('bcm2835');
    const image = (source: number): string =>
      assigned({
        CM_PWMCTL: 0x5a000210 + source,
        CM_PWMDIV: 0x5a002000,
        PWM_CTL: 0x81,
        PWM_RNG1: 100,
        PWM_DAT1: 30,
      });
    expect(told('bcm2835', 'PWM1 CH1', image(1))).toEqual([
      { hz: clockHz('bcm2835', 'PWM1') / 200, duty: 0.3 },
    ]);
    const found = decodeText(part, clockPath(part, part.defaultClock), image(6));
    const notes = found.ok ? found.value.timers.flatMap((one) => one.notes) : [];
    expect(told('bcm2835', 'PWM1 CH1', image(6))).toEqual([]);
    expect(notes.join(' ')).toContain(
      'CM_PWMCTL.SRC is 6; for the source of the PWM clock that the plan has it is 1',
    );
  });

  it('high-speed channel 0 of an ESP32', () => {
    const hz = clockHz('esp32', 'HSTIMER0');
    let agreed = 0;
    fc.assert(
      fc.property(
        fc.nat(0x1f),
        fc.integer({ min: 256, max: 262_143 }),
        fc.nat(7),
        fc.nat(0xf),
        fc.nat(2 ** 21),
        (bits, divide, flags, conf0, duty) => {
          const [pause, reset, apb] = [flags & 1, (flags >> 1) & 1, (flags >> 2) & 1];
          const plain = duty % 2 === 0;
          const conf =
            bits +
            divide * 32 +
            (plain ? 0 : pause) * 2 ** 23 +
            (plain ? 0 : reset) * 2 ** 24 +
            2 ** 25 * (plain ? 1 : apb);
          const channel = plain ? 4 : conf0;
          const high = duty % 2 ** Math.min(21, bits + 1);
          const text = assigned({
            LEDC_HSTIMER0_CONF: conf,
            LEDC_HSCH0_HPOINT: 0,
            LEDC_HSCH0_DUTY: high * 16,
            LEDC_HSCH0_CONF0: channel,
            LEDC_HSCH0_CONF1: 2 ** 31,
            GPIO_FUNC4_OUT_SEL_CFG: 71,
          });
          const runs = plain || (pause === 0 && reset === 0);
          // Bit 3 is the level of a channel that is off; of 1 MHz the reference clock is told by another test.
          if (!plain && apb === 0) return;
          const able = runs && bits >= 1 && bits <= 20 && (channel & 7) === 4;
          const own: Reading | undefined = able
            ? { hz: hz / (divide / 256) / 2 ** bits, duty: Math.min(1, high / 2 ** bits) }
            : undefined;
          const made = told('esp32', 'GPIO4', text);
          if (agree(text, made, own, channel === 4)) agreed += 1;
        },
      ),
      { numRuns: 1000, seed: SEED },
    );
    expect(agreed).toBeGreaterThan(150);
  });

  it('PWM6 of a PIC16F18875 on timer 2', () => {
    const hz = clockHz('pic16f18875', 'TMR2');
    let agreed = 0;
    fc.assert(
      fc.property(
        fc.nat(0xff),
        fc.integer({ min: 1, max: 255 }),
        fc.nat(0xff),
        fc.nat(0xff),
        fc.nat(3),
        fc.nat(0xf),
        (t2con, period, width, control, low, select) => {
          const plain = period % 2 === 0;
          const con = plain ? (t2con & 0x70) | 0x80 : t2con;
          const pwm = plain ? (control & 0x10) | 0x80 : control;
          const clock = plain ? 1 : select;
          const text = assigned({
            T2CLKCON: clock,
            T2PR: period,
            T2CON: con,
            PWM6DCH: width,
            PWM6DCL: low * 64,
            PWM6CON: pwm,
            CCPTMRS1: 0x04,
          });
          const run = 4 * (period + 1);
          const high = Math.min(run, 4 * width + low);
          // Clock 1 is a quarter of the oscillator; bit 7 turns the module on, bit 4 its output over.
          const able = clock === 1 && (pwm & 0x80) !== 0;
          const own: Reading | undefined = able
            ? {
                hz: hz / 2 ** ((con >> 4) & 7) / (period + 1),
                duty: (pwm & 0x10 ? run - high : high) / run,
              }
            : undefined;
          const made = told('pic16f18875', 'TMR2 PWM6', text);
          if (agree(text, made, own, (pwm & 0x6f) === 0 && (con & 0x80) !== 0)) agreed += 1;
        },
      ),
      { numRuns: 1000, seed: SEED },
    );
    expect(agreed).toBeGreaterThan(100);
  });
});
