import type { CaptureUnit, Complement, DeadBand, Interrupt, Output, Writes } from '../../types.ts';
import { ADVANCED, PINS } from './stm32f401-tables.ts';

/** Port letter and bit of a pin. */
export function portBit(pin: string): { port: string; bit: number } {
  return { port: pin.charAt(1), bit: Number(pin.slice(2)) };
}

/** Selects an alternate function of a pin. */
function alternate(pin: string, code: number): Writes {
  const { port, bit } = portBit(pin);
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
export function captureOf(id: string, channel: number, interrupt: Interrupt): CaptureUnit {
  const select: Writes = {
    [`${id}_CCMR${channel < 3 ? 1 : 2}.CC${channel}S`]: 1,
    [`${id}_CCER.CC${channel}E`]: 1,
    [`${id}_CCER.CC${channel}P`]: 0,
  };
  const inputs = PINS.flatMap(([pin, , ...functions]) =>
    functions
      .filter(([, name]) => name === `${id}_CH${channel}`)
      .map(([code]) => {
        const { port, bit } = portBit(pin);
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
const PWM_MODE_2 = 7;
const TOGGLE = 3;
/** The output is low, whatever the counter does. */
const FORCED_LOW = 4;

/** The pins that have a function of a timer, with what leads it there. */
function pinsWith(wanted: string): { pin: string; lead: Writes }[] {
  return PINS.flatMap(([pin, , ...functions]) =>
    functions.flatMap(([code, name]) => (name === wanted ? [{ pin, lead: alternate(pin, code) }] : [])),
  );
}

/**
 * The pins with the opposite of a channel. With both outputs on, CHxN is the opposite of CHx; so for a signal on CHxN the compare mode is turned
 * over, and CHx is the opposite. Its polarity (CCxP) must stay: turned over, both pins would go the same way (reference manual, complementary
 * outputs and dead-time insertion).
 */
export function complementsOf(id: string, channel: number): Complement[] {
  const [plain, negated] = [pinsWith(`${id}_CH${channel}`), pinsWith(`${id}_CH${channel}N`)];
  const enable = (name: string): Writes => ({
    [`${id}_CCER.CC${channel}${name}E`]: 1,
    [`${id}_CCER.CC${channel}${name}P`]: 0,
  });
  const turned = { ...compareMode(id, channel, PWM_MODE_2, 1), ...enable('') };
  return [
    ...negated.map(({ pin, lead }) => ({ pin, writes: { ...lead, ...enable('N') } })),
    ...plain.map(({ pin, lead }) => ({
      ...{ pin, beside: negated.map((one) => one.pin) },
      writes: { ...lead, ...turned },
    })),
  ];
}

/**
 * Dead times in clocks of the timer. The generator runs at the timer's clock divided by 1, 2 or 4 (CKD); it counts up to
 * 127 one by one, then in steps of 2, 8 and 16, the upper bits of the field saying which: 10, 110 and 111 with what is
 * left of the count (reference manual, TIM1_CR1.CKD and TIM1_BDTR.DTG).
 */
export function deadTimesOf(id: string): DeadBand[] {
  const steps = [
    { min: 0, max: 127, shift: 0, bias: 0 },
    { min: 128, max: 254, shift: 1, bias: 128 },
    { min: 256, max: 504, shift: 3, bias: 1280 },
    { min: 512, max: 1008, shift: 4, bias: 3072 },
  ];
  return [0, 1, 2].flatMap((ckd) =>
    steps.map(({ min, max, shift, bias }) => ({
      min: min * 2 ** ckd,
      max: max * 2 ** ckd,
      step: 2 ** (shift + ckd),
      writes: {
        [`${id}_CR1.CKD`]: ckd,
        [`${id}_BDTR.DTG`]: { of: 'dead' as const, bias: bias * 2 ** ckd, shift: shift + ckd },
      },
    })),
  );
}

/** Fields that leave a steady waveform as it is: preload, flags of updates, the clock of filters, unused by an output. */
export function neutralOf(id: string, channels: readonly number[]): string[] {
  return [
    `${id}_CR1.ARPE`,
    `${id}_CR1.URS`,
    `${id}_CR1.CKD`,
    ...channels.flatMap((n) => {
      const control = `${id}_CCMR${n < 3 ? 1 : 2}`;
      return [`${control}.OC${n}PE`, `${control}.OC${n}FE`];
    }),
    ...(id === ADVANCED ? ['LOCK', 'OSSI', 'OSSR', 'BKP', 'AOE'].map((name) => `${id}_BDTR.${name}`) : []),
  ];
}

/** The outputs of a channel on every pin that has it; mode 2 is mode 1 turned over, so it does the same at the other polarity. */
export function outputsOf(id: string, channel: number): Output[] {
  const switched: Writes = id === ADVANCED ? { [`${id}_BDTR.MOE`]: 1 } : {};
  const levels = (name: string, inverted: number): Writes => ({
    [`${id}_CCER.CC${channel}${name}E`]: 1,
    [`${id}_CCER.CC${channel}${name}P`]: inverted,
    // With both on, the pin with the N carries the opposite.
    ...(name === 'N' ? { [`${id}_CCER.CC${channel}E`]: 0 } : {}),
    ...switched,
  });
  const pwm = (select: Writes, name: string): Output[] =>
    ([0, 1] as const).map((inverted) => ({
      pin: '',
      drive: 'pwm',
      polarity: inverted ? 'inverted' : 'normal',
      writes: { ...select, ...compareMode(id, channel, PWM_MODE_1, 1), ...levels(name, inverted) },
      same: [{ ...compareMode(id, channel, PWM_MODE_2, 1), ...levels(name, 1 - inverted) }],
    }));
  return PINS.flatMap(([pin, , ...functions]) =>
    functions.flatMap(([code, name]): Output[] => {
      const select = alternate(pin, code);
      if (name === `${id}_CH${channel}N`) return pwm(select, 'N').map((one) => ({ ...one, pin }));
      if (name !== `${id}_CH${channel}`) return [];
      const toggled = ([0, 1] as const).map((inverted): Output => ({
        pin,
        drive: 'toggle',
        polarity: inverted ? 'inverted' : 'normal',
        writes: { ...select, ...compareMode(id, channel, TOGGLE, 0), ...levels('', inverted) },
        ...(inverted ? {} : { low: compareMode(id, channel, FORCED_LOW, 0) }),
      }));
      return [...pwm(select, '').map((one) => ({ ...one, pin })), ...toggled];
    }),
  );
}
