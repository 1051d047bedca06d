import { amountOf, exact, type Exact } from '../quantity/exact.ts';
import type { Scale } from '../quantity/scaled.ts';
import { printHz, printNumber, printPercent, printSeconds, printUnit } from '../quantity/print.ts';
import type { Dimension } from '../quantity/parse.ts';
import { requirementOf } from './requirement.ts';
import type { Piece } from './sentence.ts';
import type { Aim, Amount, Signal } from './signal.ts';
import { DEFAULTS } from './defaults.ts';

/** Tokens that stand for one field of a target. */
export type PlainToken =
  | 'rate'
  | 'fromHz'
  | 'toHz'
  | 'rateTolerance'
  | 'lit'
  | 'volts'
  | 'supply'
  | 'levelTolerance'
  | 'levelMinHz'
  | 'ripple'
  | 'ohms'
  | 'farads'
  | 'frame'
  | 'frameTolerance'
  | 'width'
  | 'fromS'
  | 'toS'
  | 'widthTolerance'
  | 'bit'
  | 'zero'
  | 'one'
  | 'bitTolerance'
  | 'leds'
  | 'resolution';

type Plain = { field: string; dimension: Dimension; label: string; number?: boolean };

/** Which field of the target a token stands for, and what may be typed there. `number` fields take no fractions. */
const PLAIN: Record<PlainToken, Plain> = {
  rate: { field: 'frequencyHz', dimension: 'frequency', label: 'frequency' },
  fromHz: { field: 'minHz', dimension: 'frequency', label: 'slowest' },
  toHz: { field: 'maxHz', dimension: 'frequency', label: 'fastest' },
  rateTolerance: {
    field: 'frequencyTolerancePpm',
    dimension: 'tolerance',
    label: 'frequency tolerance',
    number: true,
  },
  lit: { field: 'onS', dimension: 'time', label: 'time lit' },
  volts: { field: 'volts', dimension: 'volts', label: 'level' },
  supply: { field: 'supplyV', dimension: 'volts', label: 'supply' },
  levelTolerance: { field: 'toleranceV', dimension: 'volts', label: 'level tolerance', number: true },
  levelMinHz: { field: 'minHz', dimension: 'frequency', label: 'least frequency' },
  ripple: { field: 'rippleV', dimension: 'volts', label: 'ripple', number: true },
  ohms: { field: 'ohms', dimension: 'ohms', label: 'resistor', number: true },
  farads: { field: 'farads', dimension: 'farads', label: 'capacitor', number: true },
  frame: { field: 'frameHz', dimension: 'frequency', label: 'frame rate' },
  frameTolerance: {
    field: 'frameTolerancePpm',
    dimension: 'tolerance',
    label: 'frame tolerance',
    number: true,
  },
  width: { field: 'widthS', dimension: 'time', label: 'width' },
  fromS: { field: 'minS', dimension: 'time', label: 'least width' },
  toS: { field: 'maxS', dimension: 'time', label: 'greatest width' },
  widthTolerance: { field: 'widthToleranceS', dimension: 'time', label: 'width tolerance', number: true },
  bit: { field: 'bitS', dimension: 'time', label: 'time of a bit' },
  zero: { field: 'zeroS', dimension: 'time', label: 'width of a zero' },
  one: { field: 'oneS', dimension: 'time', label: 'width of a one' },
  bitTolerance: { field: 'toleranceS', dimension: 'time', label: 'width tolerance', number: true },
  resolution: { field: 'resolution', dimension: 'duty', label: 'resolution', number: true },
  leds: { field: 'leds', dimension: 'count', label: 'number of LEDs', number: true },
};

/** Whether a token stands for one field of a target. */
export function isPlainToken(token: string): token is PlainToken {
  return Object.hasOwn(PLAIN, token);
}

/** What may be typed into a token. */
export function plainDimension(token: PlainToken): Dimension {
  return PLAIN[token].dimension;
}

/** Fields that say the same thing in another way and go when one of them is said. */
const INSTEAD: Partial<Record<PlainToken, readonly string[]>> = {
  rate: ['periodS', 'rpm', 'images'],
  lit: ['duty'],
};

/** The signal with the field of one token set. */
export function withPlain(signal: Signal, token: PlainToken, value: Exact): Signal {
  const { field, number } = PLAIN[token];
  const target: Record<string, unknown> = { ...signal.target };
  for (const other of INSTEAD[token] ?? []) delete target[other];
  target[field] = number ? value.valueOf() : amountOf(value);
  return { ...signal, target } as Signal;
}

function piece(token: PlainToken, text: string, also: string): Piece {
  const { dimension, label } = PLAIN[token];
  return { token, text, also, dimension, label };
}

function seconds(token: PlainToken, value: Amount | number, periodS?: number): Piece {
  const time = exact(value).valueOf();
  const share =
    periodS === undefined ? '' : ` = ${printPercent(time / periodS, 4)} of ${printSeconds(periodS)}`;
  return piece(token, printSeconds(time), `${printSeconds(time)}${share}`);
}

function tolerance(token: PlainToken, ppm: number): Piece {
  const text = ppm >= 1000 ? `${printNumber(ppm / 1e4)} %` : `${printNumber(ppm)} ppm`;
  return piece(token, text, `±${text} = ±${printNumber(ppm)} ppm`);
}

type Also = (hz: number) => string;

function rate(token: PlainToken, hz: Amount, also: Also): Piece {
  const value = exact(hz).valueOf();
  return piece(token, printHz(value), also(value));
}

function strobePieces({ target }: Extract<Aim, { kind: 'strobe' }>, also: Also): Piece[] {
  const requirement = requirementOf({ kind: 'strobe', target });
  const hz = requirement.frequency.kind === 'near' ? requirement.frequency.ideal : exact(1);
  const period = hz.inverse().valueOf();
  const rates: Piece[] =
    target.minHz !== undefined && target.maxHz !== undefined
      ? [
          { text: ' strobes from ' },
          rate('fromHz', target.minHz, also),
          { text: ' to ' },
          rate('toHz', target.maxHz, also),
        ]
      : [{ text: ' strobes at ' }, rate('rate', amountOf(hz), also)];
  const lit = requirement.width?.ideal ?? requirement.duty.ideal.div(hz);
  return [
    ...rates,
    { text: ' within ' },
    tolerance('rateTolerance', target.frequencyTolerancePpm ?? DEFAULTS.strobePpm),
    { text: ', lit for ' },
    seconds('lit', amountOf(lit), period),
    { text: '.' },
  ];
}

function volts(token: PlainToken, value: Amount | number, share?: string): Piece {
  const text = printUnit(exact(value).valueOf(), 'V');
  return piece(token, text, share === undefined ? text : `${text} = ${share}`);
}

function levelPieces({ target }: Extract<Aim, { kind: 'level' }>, also: Also): Piece[] {
  const requirement = requirementOf({ kind: 'level', target });
  const share = requirement.duty.ideal;
  const off = target.toleranceV ?? exact(target.supplyV).valueOf() * DEFAULTS.level;
  const filtered = target.rippleV !== undefined && target.ohms !== undefined && target.farads !== undefined;
  const speed: Piece[] = filtered
    ? [
        { text: ', with ripple below ' },
        volts('ripple', target.rippleV ?? 0, `${printHz(requirement.frequency.low.valueOf())} or more`),
        { text: ' behind ' },
        piece('ohms', printUnit(target.ohms ?? 0, 'Ω'), 'the resistor of the filter'),
        { text: ' and ' },
        piece('farads', printUnit(target.farads ?? 0, 'F'), 'the capacitor of the filter'),
      ]
    : [{ text: ', at ' }, rate('levelMinHz', target.minHz ?? DEFAULTS.levelHz, also), { text: ' or more' }];
  return [
    { text: ' holds ' },
    volts('volts', target.volts, `${printPercent(share.valueOf(), 4)} = ${share.toFraction()} of the supply`),
    { text: ' of ' },
    volts('supply', target.supplyV),
    { text: ' within ' },
    volts('levelTolerance', off, `±${printPercent(off / exact(target.supplyV).valueOf(), 3)} of the supply`),
    ...speed,
    { text: '.' },
  ];
}

/** The window of a pulse's width and the turn it stands for; undefined where it has none. */
export function windowOf(aim: Aim): Scale['window'] {
  if (aim.kind !== 'pulse') return undefined;
  const { minS, maxS, degrees = DEFAULTS.degrees } = aim.target;
  if (minS === undefined || maxS === undefined) return undefined;
  return { low: exact(minS), high: exact(maxS), degrees };
}

/** A width as a turn within its window: "75° of 180°". */
function turnText(width: Exact, { low, high, degrees }: NonNullable<Scale['window']>): string {
  const share = width.sub(low).div(high.sub(low)).valueOf();
  return `${printNumber(share * degrees, 4)}° of ${printNumber(degrees)}°`;
}

function widthPieces(aim: Extract<Aim, { kind: 'pulse' }>, period: number): Piece[] {
  const { widthS, minS, maxS } = aim.target;
  const window = windowOf(aim);
  if (!window) return [{ text: ', high for ' }, seconds('width', widthS ?? 0, period)];
  const ends: Piece[] = [
    seconds('fromS', minS ?? 0, period),
    { text: widthS === undefined ? ' to ' : ' and ' },
    seconds('toS', maxS ?? 0, period),
  ];
  if (widthS === undefined) return [{ text: ', high from ' }, ...ends];
  const width = seconds('width', widthS, period);
  const turn = turnText(exact(widthS), window);
  const said = 'also' in width ? { ...width, also: `${width.also} = ${turn}` } : width;
  return [{ text: ', high for ' }, said, { text: ' between ' }, ...ends];
}

function pulsePieces(aim: Extract<Aim, { kind: 'pulse' }>, also: Also): Piece[] {
  const { target } = aim;
  const period = exact(target.frameHz).inverse().valueOf();
  const { stepS } = target;
  const off = target.widthToleranceS ?? (stepS === undefined ? DEFAULTS.widthS : stepS / 2);
  return [
    { text: ' pulses at ' },
    rate('frame', target.frameHz, also),
    { text: ' within ' },
    tolerance('frameTolerance', target.frameTolerancePpm ?? DEFAULTS.framePpm),
    ...widthPieces(aim, period),
    { text: ' within ' },
    seconds('widthTolerance', off),
    { text: '.' },
  ];
}

function stringPieces({ target }: Extract<Aim, { kind: 'string' }>): Piece[] {
  const bit = exact(target.bitS).valueOf();
  const all = target.leds * 24 * bit;
  return [
    { text: ' sends bits of ' },
    { ...seconds('bit', target.bitS), also: `${printSeconds(bit)} = ${printHz(1 / bit)}` } as Piece,
    { text: ', high for ' },
    seconds('zero', target.zeroS, bit),
    { text: ' or ' },
    seconds('one', target.oneS, bit),
    { text: ' within ' },
    seconds('bitTolerance', target.toleranceS ?? DEFAULTS.stringS),
    { text: ', to ' },
    piece('leds', printNumber(target.leds), `${target.leds} x 24 bits = ${printSeconds(all)} for all`),
    { text: ' LEDs.' },
  ];
}

function measurePieces({ target }: Extract<Aim, { kind: 'measure' }>, also: Also): Piece[] {
  const share = target.resolution ?? DEFAULTS.resolution;
  return [
    { text: ' measures from ' },
    rate('fromHz', target.minHz, also),
    { text: ' to ' },
    rate('toHz', target.maxHz, also),
    { text: ' to ' },
    piece(
      'resolution',
      printPercent(share, 4),
      `${printPercent(share, 4)} = ${printNumber(1 / share, 5)} counts or more in the shortest period`,
    ),
    { text: ' of the period.' },
  ];
}

/** The words and tokens of the kinds whose tokens stand for one field each. `also` says a frequency in other units. */
export function plainPieces(aim: Aim, also: Also): Piece[] {
  switch (aim.kind) {
    case 'strobe':
      return strobePieces(aim, also);
    case 'level':
      return levelPieces(aim, also);
    case 'pulse':
      return pulsePieces(aim, also);
    case 'string':
      return stringPieces(aim);
    case 'measure':
      return measurePieces(aim, also);
    default:
      return [];
  }
}
