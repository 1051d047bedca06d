import type { Capture, Complement, DeadBand, Interrupt, Output, Writes } from '../../types.ts';
import { PINS } from './stm32f401-tables.ts';

/** Port letter and bit of a pin. */
export function placeOf(pin: string): { port: string; bit: number } {
  return { port: pin.charAt(1), bit: Number(pin.slice(2)) };
}

/** Selects an alternate function of a pin. */
function alternate(pin: string, code: number): Writes {
  const { port, bit } = placeOf(pin);
  return { [`GPIO${port}_AFR${bit < 8 ? 'L' : 'H'}.AFR${bit}`]: code };
}

/** Compare mode fields of a channel: three single bits, so that each can be checked against a source. */
function compareMode(id: string, channel: number, code: number, preload: number): Writes {
  const control = `${id}_CCMR${channel < 3 ? 1 : 2}`;
  return {
    [`${control}.OC${channel}M2`]: (code >> 2) & 1,
    [`${control}.OC${channel}M1`]: (code >> 1) & 1,
    [`${control}.OC${channel}M0`]: code & 1,
    [`${control}.OC${channel}PE`]: preload,
    [`${control}.CC${channel}S`]: 0,
  };
}

/** A channel as an input: its capture follows the rising edges of its own pin. */
export function captureOf(id: string, channel: number, interrupt: Interrupt): Capture {
  const select: Writes = {
    [`${id}_CCMR${channel < 3 ? 1 : 2}.CC${channel}S`]: 1,
    [`${id}_CCER.CC${channel}E`]: 1,
    [`${id}_CCER.CC${channel}P`]: 0,
  };
  const inputs = PINS.flatMap(([pin, , ...functions]) =>
    functions
      .filter(([, name]) => name === `${id}_CH${channel}`)
      .map(([code]) => {
        const { port, bit } = placeOf(pin);
        const led = { ...alternate(pin, code), [`GPIO${port}_MODER.MODER${bit}`]: 2 };
        return { pin, writes: { ...led, ...select } };
      }),
  );
  return {
    id: `CH${channel}`,
    name: `${id} CH${channel}`,
    mode: 'up',
    value: [`${id}_CCR${channel}`],
    interrupt,
    inputs,
  };
}

const PWM_MODE_1 = 6;
const TOGGLE = 3;

/** The pins with the opposite of a channel. */
export function complementsOf(id: string, channel: number): Complement[] {
  const writes: Writes = { [`${id}_CCER.CC${channel}NE`]: 1, [`${id}_CCER.CC${channel}NP`]: 0 };
  return PINS.flatMap(([pin, , ...functions]) =>
    functions.flatMap(([code, name]) =>
      name === `${id}_CH${channel}N` ? [{ pin, writes: { ...alternate(pin, code), ...writes } }] : [],
    ),
  );
}

/**
 * Dead times in clocks of the timer: up to 127 one by one, then in steps of 2, 8 and 16, the upper bits of the field
 * saying which: 10, 110 and 111 with what is left of the count.
 */
export function deadTimesOf(id: string): DeadBand[] {
  const dtg = `${id}_BDTR.DTG`;
  return [
    { min: 0, max: 127, step: 1, writes: { [dtg]: { of: 'dead' } } },
    { min: 128, max: 254, step: 2, writes: { [dtg]: { of: 'dead', bias: 128, shift: 1 } } },
    { min: 256, max: 504, step: 8, writes: { [dtg]: { of: 'dead', bias: 1280, shift: 3 } } },
    { min: 512, max: 1008, step: 16, writes: { [dtg]: { of: 'dead', bias: 3072, shift: 4 } } },
  ];
}

/** The outputs of a channel on every pin that has it. */
export function outputsOf(id: string, channel: number): Output[] {
  const enable = (inverted: number): Writes => ({
    [`${id}_CCER.CC${channel}E`]: 1,
    [`${id}_CCER.CC${channel}P`]: inverted,
  });
  const complement: Writes = { [`${id}_CCER.CC${channel}NE`]: 1, [`${id}_CCER.CC${channel}NP`]: 0 };
  return PINS.flatMap(([pin, , ...functions]) =>
    functions.flatMap(([code, name]): Output[] => {
      const select = alternate(pin, code);
      const pwm = compareMode(id, channel, PWM_MODE_1, 1);
      if (name === `${id}_CH${channel}N`) {
        return [{ pin, drive: 'pwm', polarity: 'normal', writes: { ...select, ...pwm, ...complement } }];
      }
      if (name !== `${id}_CH${channel}`) return [];
      return [
        { pin, drive: 'pwm', polarity: 'normal', writes: { ...select, ...pwm, ...enable(0) } },
        { pin, drive: 'pwm', polarity: 'inverted', writes: { ...select, ...pwm, ...enable(1) } },
        {
          pin,
          drive: 'toggle',
          polarity: 'normal',
          writes: { ...select, ...compareMode(id, channel, TOGGLE, 0), ...enable(0) },
        },
      ];
    }),
  );
}
