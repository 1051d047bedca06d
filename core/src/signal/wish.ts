import { parseQuantity, type Dimension } from '../quantity/parse.ts';
import { readNote } from '../quantity/note.ts';
import type { Aim, Kind } from './signal.ts';

/** A signal as somebody says it: its name, what it does, and its pin if one was named; or what is missing. */
export type ParsedWish = { ok: true; name: string; aim: Aim; pin?: string } | { ok: false; error: string };

/** Words that tell a kind, the most telling first. */
const WORDS: readonly (readonly [Kind, RegExp])[] = [
  ['measure', /\b(measures?|measured|reads?|anemometer|input|counts)\b/i],
  ['tick', /\b(ticks?|every|scheduler|timebase)\b/i],
  ['strobe', /\b(strobes?|stroboscope)\b/i],
  ['pulse', /\b(servos?|pulses?|shutter|arm|vane)\b/i],
  ['tone', /\b(beeps?|sounds?|buzz(es|er)?|tones?|hums?|rings?|horn|chimes?|alarm|whistles?|sings?)\b/i],
  ['dim', /\b(dims?|dimmed|fades?|brightness|steps)\b/i],
  ['blink', /\b(blinks?|flash(es)?|lamp|led|light|beacon|lantern)\b/i],
];

/** Verbs and small words that end a name. */
const ENDS =
  /\b(on|at|is|blinks?|flash(es)?|beeps?|sounds?|rings?|hums?|sings?|buzzes|dims?|dimmed|fades?|pulses?|moves?|strobes?|ticks?|measures?|measured|reads?|every|from|with|within|to|in)\b|\d/i;

const EXAMPLES = '“buzzer beeps 2 kHz”, “lamp dims 1000 steps” or “servo 0.9..2.1 ms”';

const NUMBER = String.raw`\d+(?:[.,]\d+)?`;

function amount(text: string | undefined, dimension: Dimension): number | undefined {
  if (text === undefined) return undefined;
  const read = parseQuantity(text, dimension);
  return read.ok ? read.value.valueOf() : undefined;
}

/** The first of all quantities with one of some units: "2 kHz", "1.5 ms". */
function firstOf(text: string, units: string, dimension: Dimension): number | undefined {
  const match = new RegExp(String.raw`(${NUMBER}\s*(?:${units}))(?![\w%])`, 'i').exec(text);
  return amount(match?.[1], dimension);
}

/** Two ends of a span: "0.9..2.1 ms", "0.5 to 70 Hz". */
function spanOf(text: string, units: string, dimension: Dimension): [number, number] | undefined {
  const ends = new RegExp(
    String.raw`(${NUMBER})\s*(${units})?\s*(?:\.\.+|…|–|-|to|and)\s*(${NUMBER})\s*(${units})(?![\w%])`,
    'i',
  ).exec(text);
  if (!ends) return undefined;
  const low = amount(`${ends[1]} ${ends[2] ?? ends[4]}`, dimension);
  const high = amount(`${ends[3]} ${ends[4]}`, dimension);
  if (low === undefined || high === undefined || low === high) return undefined;
  return low < high ? [low, high] : [high, low];
}

const HZ = '[kM]?Hz|rpm';
const TIME = 'ms|µs|us|s|min';

function rateOf(text: string): number | undefined {
  return firstOf(text, HZ, 'frequency') ?? firstOf(text, TIME, 'frequency');
}

/** A share said in percent; a tolerance follows "within" and is left alone. */
function dutyOf(text: string): number | undefined {
  return firstOf(text.replace(/within\s+\S+\s*%/i, ''), '%', 'duty');
}

function noteOf(text: string): string | undefined {
  const match = /\b([A-G][#b]?\d)\b/.exec(text)?.[1];
  return match !== undefined && readNote(match) ? match : undefined;
}

const MAKE: Record<Kind, (text: string) => Aim | undefined> = {
  tone: (text) => {
    const note = noteOf(text);
    const frequencyHz = firstOf(text, HZ, 'frequency');
    if (frequencyHz !== undefined) return { kind: 'tone', target: { frequencyHz, toleranceCents: 5 } };
    return note === undefined ? undefined : { kind: 'tone', target: { note, toleranceCents: 5 } };
  },
  blink: (text) => {
    const duty = dutyOf(text);
    return { kind: 'blink', target: { frequencyHz: rateOf(text) ?? 1, duty: duty ?? 0.5 } };
  },
  dim: (text) => {
    const minSteps = firstOf(text, 'steps?|bits?', 'steps') ?? 250;
    const duty = dutyOf(text) ?? 0.5;
    return { kind: 'dim', target: { minHz: firstOf(text, HZ, 'frequency') ?? 200, minSteps, duty } };
  },
  pulse: (text) => {
    const frameHz = firstOf(text, HZ, 'frequency') ?? 50;
    const span = spanOf(text, TIME, 'time');
    if (span) {
      const widthS = Number(((span[0] + span[1]) / 2).toPrecision(12));
      return { kind: 'pulse', target: { frameHz, widthS, minS: span[0], maxS: span[1] } };
    }
    const widthS = firstOf(text, TIME, 'time');
    return { kind: 'pulse', target: { frameHz, widthS: widthS ?? 0.0015 } };
  },
  strobe: (text) => {
    const span = spanOf(text, 'Hz', 'frequency');
    const onS = firstOf(text, 'ms|µs|us', 'time') ?? 0.0005;
    if (span) return { kind: 'strobe', target: { minHz: span[0], maxHz: span[1], onS } };
    const frequencyHz = firstOf(text, HZ, 'frequency');
    return frequencyHz === undefined ? undefined : { kind: 'strobe', target: { frequencyHz, onS } };
  },
  tick: (text) => ({ kind: 'tick', target: { frequencyHz: rateOf(text) ?? 1000 } }),
  measure: (text) => {
    const [minHz, maxHz] = spanOf(text, 'Hz', 'frequency') ?? [1, firstOf(text, HZ, 'frequency') ?? 200];
    return { kind: 'measure', target: { minHz: Math.min(minHz, maxHz / 2), maxHz, resolution: 0.005 } };
  },
  level: () => undefined,
  string: () => undefined,
};

/** What the kind is where only quantities tell: steps dim, a rate in Hz from audible on sounds, anything else blinks. */
function kindOf(text: string): Kind | undefined {
  const said = WORDS.find(([, word]) => word.test(text))?.[0];
  const hz = firstOf(text, HZ, 'frequency');
  if (said === 'blink' && hz !== undefined && hz > 100) return 'dim';
  if (said !== undefined) return said;
  if (noteOf(text) !== undefined || (hz ?? 0) > 60) return 'tone';
  return rateOf(text) === undefined ? undefined : 'blink';
}

/**
 * Reads what a new signal should do: "buzzer beeps 2 kHz", "lamp on PB0 dims 1000 steps", "servo 0.9..2.1 ms",
 * "tick every 10 ms". What is not said gets a usual value. Never throws.
 */
export function parseWish(text: string, pins: readonly string[]): ParsedWish {
  const plain = text.trim().slice(0, 200);
  const pin = pins.find((id) =>
    new RegExp(String.raw`\bon\s+${id.replace(/[^\w]/g, '.')}\b`, 'i').test(plain),
  );
  const rest = pin === undefined ? plain : plain.replace(new RegExp(String.raw`\bon\s+\S+`, 'i'), '');
  const kind = kindOf(rest);
  const aim = kind && MAKE[kind](rest);
  if (!kind || !aim) return { ok: false, error: `Say what a pin should do, for example ${EXAMPLES}.` };
  const words = plain
    .split(ENDS)[0]
    ?.replace(/[^\p{L}\p{N} _-]/gu, ' ')
    .trim();
  const usual = {
    tone: 'Buzzer',
    blink: 'Lamp',
    dim: 'Light',
    pulse: 'Servo',
    strobe: 'Strobe',
    tick: 'Tick',
    measure: 'Input',
    level: 'Level',
    string: 'String',
  };
  const name = words ? words.charAt(0).toUpperCase() + words.slice(1, 60) : usual[kind];
  return { ok: true, name, aim, ...(pin === undefined || kind === 'tick' ? {} : { pin }) };
}
