/**
 * The core's stages in the order the data runs. A stage imports only from stages above it in this list; the first two
 * are open to all. docs/architecture.md lists the same stages, which a test checks.
 */
export const STAGES = [
  'result',
  'quantity',
  'part',
  'clock',
  'load',
  'readings',
  'knob',
  'signal',
  'timer',
  'plan',
  'program',
  'wave',
  'machine',
  'check',
  'fit',
  'assign',
  'slips',
  'codegen',
  'evaluate',
  'resolve',
  'capture',
  'decode',
  'report',
  'io',
];

/** The features of the interface, each in a directory of web/src/features. */
export const FEATURES = ['start', 'plan', 'fit', 'trace', 'interrupts', 'handoff', 'guide'];
