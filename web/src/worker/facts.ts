import {
  fetchTrust,
  type Trust,
  type ClockNode,
  type ClockSetting,
  type Part,
  capturePins,
  featuresOf,
  noStartUpCode,
  timerPins,
} from '@herzschlag/core';

/** A point of the clock path that a plan can set. */
export type ClockKnob = {
  id: string;
  name: string;
  sign: '÷' | '×' | '→';
  options?: (number | string)[];
  range?: { min: number; max: number };
  standard: number | string;
  note?: string;
};

/** What the interface shows of a part. */
export type PartFacts = {
  id: string;
  name: string;
  about: string;
  features: string[];
  leftOut: string[];
  source: string;
  pins: string[];
  timerPins: string[];
  /** Pins whose edges some timer can capture. */
  capturePins: string[];
  /** Pins the program can drive, whether or not a timer can. */
  softwarePins: string[];
  limits: { pinMilliamps: number; maxHz: number };
  timers: { id: string; name: string; clock: string; width: number; root: string; channels: string[] }[];
  defaultClock: ClockSetting;
  sources: { id: string; name: string; hz: number | [number, number]; tolerancePpm: number; note?: string }[];
  knobs: ClockKnob[];
  /** How many priorities its interrupts have, and in which order those that wait are served. */
  interrupts: { levels: number; rule: string };
  /** Whether its code can use the names of a device header. */
  deviceHeader: boolean;
  /** Whether there is code on demand that brings its clocks up. */
  startUpCode: boolean;
};

function knobOf(node: ClockNode): ClockKnob[] {
  const noted = 'note' in node && node.note ? { note: node.note } : {};
  if (node.kind === 'choice' && node.standard !== undefined) {
    return [
      { id: node.id, name: node.name, sign: '→', options: [...node.from], standard: node.standard, ...noted },
    ];
  }
  if (node.kind !== 'divider' && node.kind !== 'multiplier') return [];
  const sign = node.kind === 'divider' ? '÷' : '×';
  const base = { id: node.id, name: node.name, sign, standard: node.standard, ...noted } as const;
  if (node.by.kind === 'range') return [{ ...base, range: { min: node.by.min, max: node.by.max } }];
  return node.by.options.length < 2
    ? []
    : [{ ...base, options: node.by.options.map((option) => option.divide) }];
}

/** Whether a plan can name this oscillator as its source: one that a choice of the source takes, or the standard one. */
function isPlanSource(part: Part, id: string): boolean {
  const choices = part.clocks.filter((node) => node.kind === 'choice' && node.standard === undefined);
  const taken = choices.some((node) => node.kind === 'choice' && node.from.includes(id));
  return (
    taken ||
    id === part.defaultClock.source ||
    (choices.length === 0 &&
      !part.clocks.some((node) => node.id === id && node.kind === 'source' && node.always))
  );
}

const RULES: Record<Part['cpu']['priorities']['scheme'], string> = {
  levels: 'by priority: lower numbers interrupt higher ones',
  fixed: 'in the order of their vectors, none interrupts another',
  single: 'all through one handler, none interrupts another',
};

function interruptFacts({ cpu: { priorities } }: Part): PartFacts['interrupts'] {
  const { scheme, levels } = priorities;
  return { levels: scheme === 'levels' ? levels : 1, rule: RULES[scheme] };
}

/** A part's facts. */
export function factsOf(part: Part): PartFacts {
  return {
    id: part.id,
    name: part.name,
    about: part.about,
    features: featuresOf(part),
    leftOut: [...(part.leftOut ?? [])],
    source: part.source,
    pins: part.pins.map((pin) => pin.id),
    timerPins: timerPins(part),
    capturePins: capturePins(part),
    softwarePins: part.pins.filter((pin) => pin.software).map((pin) => pin.id),
    limits: part.limits,
    timers: part.timers.map(({ id, name, clock, width, variantOf = id, channels }) => ({
      id,
      name,
      clock,
      width,
      root: variantOf,
      channels: channels.map((one) => one.id),
    })),
    defaultClock: part.defaultClock,
    sources: part.clocks.flatMap((node) =>
      node.kind === 'source' && isPlanSource(part, node.id)
        ? [
            {
              id: node.id,
              name: node.name,
              hz: typeof node.hz === 'number' ? node.hz : ([node.hz[0], node.hz[1]] as [number, number]),
              tolerancePpm: node.tolerancePpm,
              ...(node.note ? { note: node.note } : {}),
            },
          ]
        : [],
    ),
    knobs: part.clocks.flatMap(knobOf),
    deviceHeader: part.code.device !== undefined,
    startUpCode: noStartUpCode(part) === undefined,
    interrupts: interruptFacts(part),
  };
}

/** How many addresses and fields the registers of a part have, and how many of them independent sources confirm. */
export type Confirmed = Pick<Trust, 'items' | 'confirmed'>;

/** How far a part's data is confirmed. What sources say is fetched for it alone, so that nothing else waits for it. */
export async function confirmedOf(part: Part): Promise<Confirmed> {
  const { items, confirmed } = await fetchTrust(part);
  return { items, confirmed };
}
