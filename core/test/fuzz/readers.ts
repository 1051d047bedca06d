import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { clockPath } from '../../src/clock/path.ts';
import { decodeText } from '../../src/decode/decode.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { stringWaysOf } from '../../src/evaluate/led-string.ts';
import { planWaveforms } from '../../src/evaluate/waveforms.ts';
import { fitRequirement } from '../../src/fit/fit.ts';
import { csvReader } from '../../src/io/csv-read.ts';
import { vcdReader } from '../../src/io/vcd-read.ts';
import { wavReader } from '../../src/io/wav-read.ts';
import { checkPlan, planFault, readPlan } from '../../src/plan/check-plan.ts';
import { readPinNames } from '../../src/plan/pin-names.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { EXAMPLES, parseQuantity } from '../../src/quantity/parse.ts';
import type { Dimension } from '../../src/quantity/quantity.ts';
import { CodeError } from '../../src/codegen/c-files.ts';
import { editToken } from '../../src/signal/edit.ts';
import { allKinds } from '../../src/signal/kinds/index.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import { sentenceText } from '../../src/signal/sentence.ts';
import { parsePhase, parseSequence, phaseText, sequenceText } from '../../src/signal/sequence-text.ts';
import type { Signal } from '../../src/signal/signal.ts';
import { parseFirstEdge, parseOpposite } from '../../src/signal/timing-text.ts';
import { readWishes } from '../../src/plan/wishes.ts';
import { readPart } from '../../src/timer/part-file.ts';
import { CaptureError } from '../../src/wave/capture.ts';
import { readWhole } from '../helpers/capture.ts';
import { PARTS, partById } from '../helpers/parts.ts';
import { LOCK_GATE } from '../helpers/plan.ts';
import { mutatedBytes, mutatedText, mutatedValue, pick } from './mutate.ts';

/**
 * A reader with what it reads: a case is made from a stream of random numbers as text, and tried. A case that throws has
 * failed; `try` gives whether the case was accepted.
 */
export type FuzzedReader = {
  name: string;
  make: (random: () => number) => string;
  try: (text: string) => boolean;
};

function example(name: string): string {
  return readFileSync(join(process.cwd(), 'examples', name), 'utf8');
}

function partNamed(id: string): Part {
  const part = partById(id);
  if (!part) throw new Error(`there is no part ${id}`);
  return part;
}

const avr = partNamed('atmega328p');
const path = clockPath(avr, avr.defaultClock);

/** Everything that is done with an accepted plan; nothing of it may throw, except that settings may be no program. */
function usePlan(plan: Plan, part = PARTS.find((one) => one.id === plan.part) ?? avr): void {
  const used = plan.ownPart?.id === plan.part ? plan.ownPart : part;
  evaluatePlan(plan, used);
  planWaveforms(plan, used);
  for (const signal of plan.signals) {
    sentenceText(signal);
    stringWaysOf(plan, used, signal.id);
  }
  try {
    planCode(plan, used);
  } catch (error) {
    if (!(error instanceof CodeError)) throw error;
  }
}

function caught(read: () => unknown): boolean {
  try {
    read();
    return true;
  } catch (error) {
    if (error instanceof CaptureError && error.message !== '') return false;
    throw error;
  }
}

function accepted(result: { ok: boolean; fault?: { sentence: string } }): boolean {
  if (!result.ok && !result.fault?.sentence) throw new Error('refused without a sentence');
  return result.ok;
}

/** A small plan whose signals have settings, so that most of its mutations are quick to evaluate. */
const PLAN: Plan = {
  ...LOCK_GATE,
  signals: [
    {
      ...{ id: 'horn', name: 'Horn', kind: 'tone', pin: 'PB1' },
      target: { frequencyHz: 500, toleranceCents: 20 },
      setting: {
        ...{ drive: 'pwm', timer: 'TIMER1', mode: 'fast-icr', channel: 'OC1A', pin: 'PB1', prescaler: 8 },
        ...{ top: 3999, compare: 1999 },
      },
      sequence: { steps: [{ periods: 5 }, { rest: true, forS: 2 }] },
      load: { type: 'sounder', supplyV: 5, resonanceHz: 700, coilOhm: 42, through: 'transistor' },
      readings: {
        of: 'frequency',
        unit: 'dB',
        points: [
          { set: 400, seen: 61 },
          { set: 600, seen: 70, note: 'loud' },
        ],
      },
      knob: {
        ...{ bits: 10, sets: 'frequency', from: 400, to: 600, curve: 'logarithmic', deadLow: 8, wide: 32 },
        ...{ noise: 2, average: 4, hysteresis: 1, display: { unit: 'rpm', from: 24_000, to: 36_000 } },
      },
    },
    {
      ...{ id: 'beat', name: 'Beat', kind: 'tick', target: { frequencyHz: 1000 } },
      setting: { drive: 'interrupt', timer: 'TIMER2', mode: 'ctc', prescaler: 64, top: 249, divider: 1 },
      handler: { cycles: { min: 20, max: 90 }, priority: 1 },
    },
  ],
  cpu: {
    mainLoop: {
      roundCycles: 4000,
      masked: [{ name: 'write', everyS: 0.01, cycles: 200 }],
      polls: [{ name: 'keys', everyS: 0.02, countS: 0.001, bits: 16, comparison: 'signed', from: 'now' }],
    },
    tasks: [
      { id: 'bus', name: 'Bus', arrives: { everyS: 0.001, firstS: 0.0002, jitterS: 0.0001 }, cycles: 60 },
      {
        ...{ id: 'rx', name: 'Receiver', arrives: { leastS: 0.0005, spreadS: 0.002 } },
        ...{ cycles: { min: 30, max: 50 }, priority: 0, vector: 18, clears: 'start', deadlineS: 0.0004 },
      },
      { id: 'edge', name: 'Edge', arrives: { timesS: [0.001, 0.0015, 0.2] }, cycles: 30 },
    ],
  },
};

const SIGNALS: readonly Signal[] = [
  ...allKinds().map((kind) => ({ id: 'a', name: 'A', kind: kind.id, target: kind.starter.target }) as Signal),
  { id: 'a', name: 'A', kind: 'strobe', target: { frequencyHz: 20, onS: 0.001 } },
  { id: 'a', name: 'A', kind: 'blink', target: { periodS: 2, onS: 0.1 } },
  { id: 'a', name: 'A', kind: 'tone', target: { note: 'A4', cents: 12 } },
];

const ENTRIES = [
  ...Object.values(EXAMPLES).flatMap((text) => text.split(/, | or /)),
  ...[
    '0.2 %',
    '200 %',
    '1300 c',
    '1e999 s',
    '0.33333333333333333333333333333333 Hz',
    '217 counts',
    '90°',
    '10 bit',
  ],
];

const WISHES = [
  ...[
    'buzzer beeps 2 kHz',
    'lamp on PB0 dims 1000 steps',
    'servo 0.9..2.1 ms',
    'tick every 10 ms',
    'servo 30 ms',
  ],
  ...[
    'strobe 2 kHz 1 ms',
    'shutter opens 2 s',
    '5 constructors',
    'string of 60 LEDs',
    'fan measures 0.5 to 70 Hz',
  ],
  ...[
    'half-bridge on PB1 100 kHz 45 % dead time 200 ns',
    'LED blinks SOS in Morse with 100 ms dots',
    'beeps 3 times for 100 ms every 10 s\nA5 +12 c on the speaker',
    'strobe 33 1/3 rpm with 180 images, lit a quarter of a second',
    '1.2 V of 3.3 V through 10k 100nF within 10 mV',
  ],
];

const TIMINGS = [
  ...[
    '2 periods; rest 6 s',
    '0 % to 100 % in 2 s; 3 s; once',
    '440 Hz to 880 Hz in 3 s',
    '1 ms to 2 ms over 1 s',
  ],
  ...[
    '90° after Lamp ±5°',
    '-12,5 deg behind b within 3',
    'within 10 ms',
    'PB13, 1 µs apart',
    '50 % for 1e999 s',
  ],
];

const CODE = [
  'TCCR1A = (1 << COM1A1) | (1 << WGM11);\nTCCR1B = _BV(WGM13) | _BV(WGM12) | (1 << CS11); ICR1 = 3999; OCR1A = 0x7CF;',
  'TCCR0A |= 2; OCR0A = F_CPU / 64 / 1000 - 1; /* 1 kHz */ TCCR0B = 3; TIMSK0 |= (1 << OCIE0A);\nsei();',
  'ICR1 -= 1; OCR1A >>= 1; TCNT1--; ++OCR1B; TCCR1B &= (uint8_t)~(7 << 0);',
];

const VCD = `$timescale 10 ns $end
$scope module m $end
$var wire 1 ! clk $end
$var reg 4 " bus [3:0] $end
$var real 64 r$ level $end
$scope module deep $end
$var wire 1 % inner $end
$upscope $end
$upscope $end
$enddefinitions $end
#0 $dumpvars 0! bx01 " r0 r$ 1% $end
#5
1!
b1 "
#7 0! r1.25 r$
#9 x! bx "
#20
`;

const CSVS = [
  'time (ms),lamp,horn\n0,0,1\n1,1,1\n2.5,0,x\n',
  'Zeit;Kanal 1\n0,0;0,1\n0,5;3,2\n1,0;0,2\n1,5;3,1\n2,0;9.91E+37\n',
  '0.0\t1\t0.2\n1e-3\t0\t3.3\n2e-3\t1\tNaN\n',
  '"time [us]","a ""b"" , c"\n0,0\n1,1\n',
];

/** A tenth of a second of a tone in one channel of 16 bits. */
function wavBytes(): Uint8Array {
  const bytes = new Uint8Array(44 + 200);
  const view = new DataView(bytes.buffer);
  const put = (at: number, text: string): void => bytes.set(Buffer.from(text), at);
  put(0, 'RIFF');
  put(8, 'WAVEfmt ');
  put(36, 'data');
  for (const [at, value] of [
    [4, 236],
    [16, 16],
    [24, 1000],
    [28, 2000],
    [40, 200],
  ] as const)
    view.setUint32(at, value, true);
  for (const [at, value] of [
    [20, 1],
    [22, 1],
    [32, 2],
    [34, 16],
  ] as const)
    view.setUint16(at, value, true);
  for (let at = 0; at < 100; at += 1) view.setInt16(44 + 2 * at, at % 20 < 10 ? 20000 : -20000, true);
  return bytes;
}

/** Bytes as text and back, so that each case is a text that can be kept as a file. */
const hexOf = (bytes: Uint8Array): string => Buffer.from(bytes).toString('hex');
const bytesOf = (hex: string): Uint8Array => Uint8Array.from(Buffer.from(hex, 'hex'));

const quill = JSON.parse(example('quill8.part.json')) as unknown;
const fixture = PLAN as unknown;
const dimensions = Object.keys(EXAMPLES) as Dimension[];

/** A mutated document as JSON; now and then the text itself is broken. */
function mutatedJson(value: unknown, random: () => number): string {
  const text = JSON.stringify(mutatedValue(value, random)) ?? 'null';
  return random() < 0.15 ? mutatedText(text, random) : text;
}

const TOKENS = SIGNALS.flatMap((signal) => {
  const kind = allKinds().find((one) => one.id === signal.kind);
  return Object.keys(kind?.tokens ?? {}).map((token) => ({ signal, token }));
});

/** Types a text into one of the tokens of all kinds; which of them the text decides. */
function edit(text: string): boolean {
  const sum = [...text].reduce((total, letter) => total + (letter.codePointAt(0) ?? 0), text.length);
  const { signal, token } = TOKENS[sum % TOKENS.length] ?? { signal: steady, token: 'frequency' };
  const made = editToken(signal, token, text, { countS: 1e-6, dutyCounts: 1000 });
  if (!accepted(made) || !made.ok) return false;
  sentenceText(made.value);
  const fault = planFault({ ...PLAN, signals: [made.value] }, [avr]);
  if (fault) throw new Error(`accepted, but the plan does not open again: ${fault.sentence}`);
  return true;
}

const steady: Signal = { id: 'a', name: 'A', kind: 'blink', target: { frequencyHz: 10, duty: 0.5 } };
const names = [
  { id: 'b', name: 'Lamp' },
  { id: 'c', name: '±5 after' },
];

function timings(text: string): boolean {
  const sequence = parseSequence(text);
  if (accepted(sequence) && sequence.ok && !parseSequence(sequenceText(sequence.value)).ok)
    throw new Error('a sequence is not read back');
  const phase = parsePhase(text, names);
  if (accepted(phase) && phase.ok) {
    const said = phaseText(phase.value, (id) => names.find((one) => one.id === id)?.name ?? id);
    if (!parsePhase(said, names).ok) throw new Error(`“${said}” is not read back`);
  }
  const taken = [accepted(parseFirstEdge(text)), accepted(parseOpposite(text, ['PB13', 'PA1']))];
  return taken.includes(true) || sequence.ok || phase.ok;
}

/** Every reader of what comes from outside. */
export const READERS: readonly FuzzedReader[] = [
  {
    name: 'plan',
    make: (random) => mutatedJson(fixture, random),
    try: (text) => {
      const read = readPlan(text, PARTS);
      if (accepted(read) && read.ok) usePlan(read.value.plan, read.value.part);
      return read.ok;
    },
  },
  {
    name: 'demo plan',
    make: (random) =>
      mutatedText(example(random() < 0.5 ? 'harbour-buoy.plan.json' : 'tower-clock.plan.json'), random),
    try: (text) => accepted(readPlan(text, PARTS)),
  },
  {
    name: 'part',
    make: (random) => mutatedJson(quill, random),
    try: (text) => {
      const read = readPart(text);
      if (!accepted(read) || !read.ok) return false;
      const part = read.value;
      const tone: Signal = {
        id: 'hum',
        name: 'Hum',
        kind: 'tone',
        target: { frequencyHz: 1000, toleranceCents: 20 },
      };
      const plan: Plan = { ...PLAN, part: part.id, ownPart: part, clock: part.defaultClock, signals: [tone] };
      const opened = checkPlan(JSON.parse(JSON.stringify(plan)), PARTS);
      if (!opened.ok) throw new Error(`a plan on an accepted part does not open: ${opened.fault.sentence}`);
      usePlan(opened.value.plan, opened.value.part);
      fitRequirement(part, clockPath(part, part.defaultClock), requirementOf(steady));
      return true;
    },
  },
  {
    name: 'VCD',
    make: (random) => mutatedText(VCD, random),
    try: (text) => caught(() => readWhole(vcdReader(), text, 37)),
  },
  {
    name: 'CSV',
    make: (random) => mutatedText(pick(random, CSVS), random),
    try: (text) => caught(() => readWhole(csvReader(), text, 41)),
  },
  {
    name: 'WAV',
    make: (random) => hexOf(mutatedBytes(wavBytes(), random)),
    try: (text) => caught(() => readWhole(wavReader(), bytesOf(text), 53)),
  },
  {
    name: 'quantity',
    make: (random) => mutatedText(pick(random, ENTRIES), random),
    try: (text) =>
      dimensions
        .map((dimension) => accepted(parseQuantity(text, dimension, { countS: 1e-6, dutyCounts: 1000 })))
        .includes(true),
  },
  { name: 'token', make: (random) => mutatedText(pick(random, ENTRIES), random), try: edit },
  {
    name: 'wish',
    make: (random) => mutatedText(pick(random, WISHES), random),
    try: (text) => {
      let some = false;
      for (const { readings, text: line } of readWishes(text, PLAN, avr)) {
        for (const { signal, text: marked } of readings) {
          some = true;
          if (marked.map((one) => one.text).join('') !== line) throw new Error('a part of the text is lost');
          const fault = planFault({ ...PLAN, signals: [signal] }, [avr]);
          if (fault) throw new Error(`accepted, but the plan does not open again: ${fault.sentence}`);
        }
      }
      return some;
    },
  },
  { name: 'timing', make: (random) => mutatedText(pick(random, TIMINGS), random), try: timings },
  {
    name: 'code',
    make: (random) => mutatedText(pick(random, CODE), random),
    try: (text) => accepted(decodeText(avr, path, text)),
  },
  {
    name: 'pin names',
    make: (random) => mutatedText('PB1 = D9\nPB2: 12\n# lamp\nA0 PC0\n', random),
    try: (text) => accepted(readPinNames(text, avr)),
  },
];
