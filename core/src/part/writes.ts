/** What a field write takes its value from when the setting, not the part, decides it. */
export type Encoded = {
  /** `match` is the compare value less the top: where a match lies before the overflow. */
  of: 'top' | 'compare' | 'match' | 'divide' | 'bits' | 'reload' | 'postscale' | 'dead' | 'begin';
  /** The value is multiplied by this first: 16 for a divider that counts sixteenths. */
  scale?: number;
  /** Then added: -1 where the register holds one less than the count. */
  bias?: number;
  /** Then shifted right by this many bits: a value split over two fields. */
  shift?: number;
  /** Then cut to this many bits. */
  keep?: number;
};

/**
 * A condition that the program waits for is the place of a field, "RESETS_RESET_DONE.PWM": until it is not zero; with an
 * exclamation mark before it, "!TC3_STATUS.SYNCBUSY": until it is zero; with a value after it, "RCC_CFGR.SWS=2": until it has that.
 */

/** Field or register to value. "TCCR1B.CS10": 1 writes one field, "ICR1": {of: 'top'} a whole register. */
export type Writes = Record<string, number | Encoded>;

/**
 * How a timer divides its clock: by one of a list, or by n / scale for any whole n in a range. A scale above 1 is a
 * divider with a fraction: it reaches the mean exactly and pays with a jitter of one clock.
 */
export type Prescaler =
  | { kind: 'list'; options: readonly { divide: number; writes: Writes; same?: readonly Writes[] }[] }
  | {
      kind: 'range';
      min: number;
      max: number;
      scale: number;
      writes: Writes;
      /** Other values of its fixed fields, under which the fraction of the divider is dropped. */
      whole?: Writes;
    };
