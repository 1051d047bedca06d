/** A stream of numbers from 0 to below 1 that a seed decides (a linear congruential one of 48 bits, high bits taken). */
export function randomOf(seed: number): () => number {
  let state = BigInt(Math.abs(Math.trunc(seed)) + 1) * 0x5deece66dn;
  return () => {
    state = (state * 0x5deece66dn + 0xbn) & 0xffffffffffffn;
    return Number(state >> 16n) / 2 ** 32;
  };
}

type Random = () => number;

export function pick<T>(random: Random, list: readonly T[]): T {
  return list[Math.floor(random() * list.length)] as T;
}

/** Pieces of text that break readers. */
export const NASTY: readonly string[] = [
  ...[
    '0',
    '-1',
    '1e999',
    '-1e999',
    '1e-999',
    '9.91E+37',
    'NaN',
    'Infinity',
    '1e308',
    '4294967296',
    '9007199254740993',
  ],
  ...[
    '1/0',
    '1/3',
    '00',
    '0x',
    '0b',
    '007',
    '1e',
    '.',
    ',',
    '-',
    '+',
    '%',
    '°',
    '±',
    'µ',
    '÷',
    '×',
    '−',
    'Ω',
  ],
  ...[
    '__proto__',
    'constructor',
    'toString',
    'hasOwnProperty',
    'prototype',
    'null',
    'true',
    '{}',
    '[]',
    '""',
  ],
  ...[
    '*/',
    '/*',
    '//',
    '\\',
    '"',
    "'",
    '`',
    '$end',
    '$',
    '#',
    '<',
    '>',
    '&',
    ';',
    '{',
    '}',
    '(',
    ')',
    '[',
    ']',
  ],
  ...[
    '\u0000',
    '\u001b',
    '\u202e',
    '\u2028',
    '\ufeff',
    '\ud800',
    '\uffff',
    '\u00a0',
    '\t',
    '\r',
    '\n',
    '\r\n',
    ' ',
  ],
  ...[
    '=',
    '==',
    '->',
    '<<',
    '>>',
    '<<=',
    '|=',
    '++',
    '--',
    '<< 9999999999',
    'ä',
    '😀',
    ' to ',
    ' for ',
    ' within ',
    ' in ',
  ],
];

const NUMBERS: readonly number[] = [
  ...[
    0,
    -0,
    1,
    -1,
    0.1,
    0.5,
    1e-9,
    1e-15,
    1e-300,
    1e9,
    1e12,
    1e15,
    1e300,
    255,
    256,
    65535,
    65536,
    2 ** 31,
    2 ** 32,
    2 ** 53,
  ],
];

/** A text with a few random changes. */
export function mutatedText(text: string, random: Random): string {
  let out = text;
  const count = 1 + Math.floor(random() * 4);
  for (let n = 0; n < count; n += 1) {
    const at = Math.floor(random() * (out.length + 1));
    const length = Math.floor(random() * random() * 40);
    const kind = random();
    if (kind < 0.2) out = out.slice(0, at) + out.slice(at + length);
    else if (kind < 0.35) out = out.slice(0, at) + out.slice(at, at + length) + out.slice(at);
    else if (kind < 0.7)
      out = out.slice(0, at) + pick(random, NASTY) + out.slice(at + (random() < 0.5 ? 0 : length));
    else if (kind < 0.8)
      out = out.slice(0, at) + String.fromCharCode(Math.floor(random() * 256)) + out.slice(at + 1);
    else if (kind < 0.9)
      out = out.replace(/\d+/g, (digits) => (random() < 0.1 ? String(pick(random, NUMBERS)) : digits));
    else if (kind < 0.97) out = out.slice(at, at + length) + out.slice(0, at) + out.slice(at + length);
    else out = out.slice(0, at) + pick(random, NASTY).repeat(Math.floor(random() * 3000)) + out.slice(at);
    if (out.length > 200_000) out = out.slice(0, 200_000);
  }
  return out;
}

/** Bytes with a few random changes. */
export function mutatedBytes(bytes: Uint8Array, random: Random): Uint8Array {
  let out = [...bytes];
  const count = 1 + Math.floor(random() * 6);
  for (let n = 0; n < count; n += 1) {
    const at = Math.floor(random() * out.length);
    const kind = random();
    if (kind < 0.5) out[at] = Math.floor(random() * 256);
    else if (kind < 0.65) out = out.slice(0, at);
    else if (kind < 0.8) out.splice(at, Math.floor(random() * 8));
    else if (kind < 0.9) out.splice(at, 0, ...out.slice(at, at + Math.floor(random() * 16)));
    else for (let byte = 0; byte < 4; byte += 1) out[at + byte] = pick(random, [0, 255, 127, 128]);
  }
  return Uint8Array.from(out);
}

type Place = { holder: Record<string, unknown> | unknown[]; key: string | number };

function placesOf(value: unknown): Place[] {
  if (Array.isArray(value))
    return value.flatMap((item, key) => [{ holder: value as unknown[], key }, ...placesOf(item)]);
  if (typeof value !== 'object' || value === null) return [];
  const holder = value as Record<string, unknown>;
  return Object.keys(holder).flatMap((key) => [{ holder, key }, ...placesOf(holder[key])]);
}

function otherValue(before: unknown, random: Random, others: readonly unknown[]): unknown {
  if (random() < 0.35) return structuredClone(pick(random, others));
  if (typeof before === 'number') {
    const changed = [
      before * 2,
      before / 3,
      before + 1,
      -before,
      before * 1e6,
      before / 1e6,
      Math.round(before),
    ];
    return random() < 0.5 ? pick(random, changed) : pick(random, NUMBERS);
  }
  if (typeof before === 'string') return random() < 0.5 ? mutatedText(before, random) : pick(random, NASTY);
  return pick(random, [null, true, false, 0, '', [], {}, before]);
}

/** A value as JSON has it with one or two random changes: values, keys, entries. Others are taken from the same document. */
export function mutatedValue(value: unknown, random: Random): unknown {
  const root = { root: structuredClone(value) };
  const count = random() < 0.7 ? 1 : 2;
  for (let n = 0; n < count; n += 1) {
    const places = placesOf(root).slice(1);
    if (places.length === 0) break;
    const { holder, key } = pick(random, places);
    const other = pick(random, places);
    const others = [(other.holder as Record<string | number, unknown>)[other.key]];
    const kind = random();
    if (Array.isArray(holder)) {
      const at = Number(key);
      if (kind < 0.2) holder.splice(at, 1);
      else if (kind < 0.35) holder.splice(at, 0, structuredClone(holder[at]));
      else holder[at] = otherValue(holder[at], random, others);
    } else if (kind < 0.12) delete holder[key];
    else if (kind < 0.18) holder[pick(random, NASTY)] = holder[key];
    else holder[key] = otherValue(holder[key], random, others);
  }
  return root.root;
}
