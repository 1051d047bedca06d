/** What holds where a target gives no tolerance or value of its own. */
export const DEFAULTS = {
  blinkPpm: 10000,
  tickPpm: 1000,
  strobePpm: 1000,
  framePpm: 10000,
  toneCents: 5,
  duty: 0.01,
  blinkDuty: '0.5',
  toneDuty: '0.5',
  dimDuty: '0.5',
  strobeDuty: '0.05',
  /** Of the supply. */
  level: 0.005,
  levelHz: 1000,
  /** Of a servo pulse's width. */
  widthS: 0.000005,
  /** The turn that a window of widths stands for. */
  degrees: 180,
  stringS: 0.00000015,
  /** Of a period that is measured. */
  resolution: 0.01,
};
