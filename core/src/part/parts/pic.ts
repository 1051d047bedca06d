import type { ClockNode, Pin, Timer } from '../schema.ts';

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
        { divide: 16, writes: { 'T2CON.T2CKPS1': 1, 'T2CON.T2CKPS0': 0 } },
      ],
    },
    modes: [
      {
        id: 'pwm',
        name: 'PWM, top PR2, duty of 10 bits',
        count: 'up',
        base: 1,
        top: { kind: 'register', writes: { PR2: { of: 'top' } }, least: 1, most: 255 },
        compare: { channels: ids, high: 'compare', grain: 4, bits: 10 },
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
      outputs: [{ pin, drive: 'compare', polarity: 'normal', writes: pwmMode(control, id) }],
    })),
    counter: 'TMR2',
    interrupts: {
      overflow: {
        vector: 'TMR2',
        number: 0,
        enable: 'PIE1.TMR2IE',
        flag: 'PIR1.TMR2IF',
        postscaler: { field: postscaler, most: 16 },
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
export function picPin(id: string, output: string, packages: Record<string, number>): Pin {
  const port = id.charAt(1);
  const bit = Number(id.slice(2));
  return {
    id,
    port: `PORT${port}`,
    bit,
    package: packages,
    idle: { [`${output}${port}.${output === 'LAT' ? 'LAT' : 'R'}${port}${bit}`]: 0 },
    enable: { [`TRIS${port}.TRIS${port}${bit}`]: 0 },
  };
}
