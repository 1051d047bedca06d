import type { ClockSetting } from '../clock/path.ts';
import { plainName } from '../quantity/words.ts';
import type { CpuLoad, HandlerFacts } from './cpu-load.ts';
import type { Knob } from '../knob/knob.ts';
import type { Load } from '../load/index.ts';
import type { Part } from '../part/types.ts';
import type { Readings } from '../readings/readings.ts';
import type { Signal } from '../signal/signal.ts';
import type { Setting } from '../timer/setting.ts';

/** A signal as a plan keeps it: with its setting once one is chosen. */
export type PlanSignal = Signal & {
  setting?: Setting;
  /** The setting stays as it is, whatever is assigned. */
  locked?: boolean;
  /** Length and priority of the handler of its interrupts, where they are not to be estimated. */
  handler?: HandlerFacts;
  /** What hangs on the pin. */
  load?: Load;
  /** What was measured or seen on the bench for values that were set. */
  readings?: Readings;
  /** The input that moves the signal, and how the firmware computes with it. */
  knob?: Knob;
};

/** The user's document. */
export type Plan = {
  format: 'herzschlag-plan';
  version: 2;
  name: string;
  part: string;
  /** A part of the user's own, kept with the plan; in force when `part` names it. */
  ownPart?: Part;
  clock: ClockSetting;
  signals: PlanSignal[];
  /** What the processor does besides. */
  cpu?: CpuLoad;
  /** Timers that belong to something else (a scheduler, a library) and are left alone, by their ids. */
  reserved?: string[];
  /** Moments of the trace worth coming back to, in s from the start. */
  bookmarks?: { atS: number; name: string }[];
  /** How the user's board calls the pins, by the part's name of each. */
  pinNames?: Record<string, string>;
};

/** Keys of a plan in the order they are written; keys not named here follow by the alphabet. */
const ORDER = [
  'format',
  'version',
  'name',
  'part',
  'clock',
  'signals',
  'cpu',
  'reserved',
  'pinNames',
  'bookmarks',
  'atS',
  'source',
  'sourceHz',
  'tolerancePpm',
  'settings',
  'id',
  'kind',
  'pin',
  'target',
  'sequence',
  'phase',
  'firstEdgeS',
  'complement',
  'setting',
  'locked',
  'handler',
  'load',
  'readings',
  'knob',
  'type',
  'of',
  'unit',
  'by',
  'outside',
  'points',
  'set',
  'seen',
  'bits',
  'sets',
  'from',
  'to',
  'curve',
  'mainLoop',
  'tasks',
  'arrives',
  'cycles',
  'priority',
  'vector',
  'clears',
  'deadlineS',
  'roundCycles',
  'masked',
  'polls',
  'everyS',
  'firstS',
  'leastS',
  'spreadS',
  'timesS',
  'steps',
  'once',
  'rest',
  'periods',
  'forS',
  'frequencyHz',
  'periodS',
  'rpm',
  'images',
  'note',
  'cents',
  'minHz',
  'maxHz',
  'volts',
  'supplyV',
  'frameHz',
  'widthS',
  'minS',
  'maxS',
  'stepS',
  'degrees',
  'bitS',
  'zeroS',
  'oneS',
  'leds',
  'resolution',
  'minSteps',
  'duty',
  'onS',
  'frequencyTolerancePpm',
  'toleranceCents',
  'dutyTolerance',
  'drive',
  'timer',
  'mode',
  'channel',
  'polarity',
  'prescaler',
  'top',
  'compare',
  'postscale',
  'divider',
  'jitterS',
];

const SIGNAL_ORDER = [
  'id',
  'name',
  'kind',
  'pin',
  'target',
  'sequence',
  'phase',
  'firstEdgeS',
  'complement',
  'setting',
  'locked',
  'handler',
  'load',
  'readings',
  'knob',
];
const SETTING_ORDER = [
  'drive',
  'timer',
  'mode',
  'channel',
  'pin',
  'polarity',
  'prescaler',
  'top',
  'compare',
  'postscale',
  'divider',
  'complement',
];

function ordered(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(ordered);
  if (typeof value !== 'object' || value === null) return value;
  const order = 'kind' in value ? SIGNAL_ORDER : 'drive' in value ? SETTING_ORDER : ORDER;
  const rank = (key: string): number => (order.includes(key) ? order.indexOf(key) : order.length);
  const entries = Object.entries(value).filter(([, item]) => item !== undefined);
  entries.sort(([one], [other]) => rank(one) - rank(other) || (one < other ? -1 : 1));
  return Object.fromEntries(entries.map(([key, item]) => [key, ordered(item)]));
}

/**
 * The plan as the text of its file: the same plan gives the same bytes, whatever order its keys were set in. A part of
 * the user's own stands last, in the order of its own file.
 */
export function writePlan(plan: Plan): string {
  const { ownPart, ...rest } = plan;
  const document = ordered(rest) as object;
  return `${JSON.stringify(ownPart ? { ...document, ownPart } : document, null, 2)}\n`;
}

/** Names that a file system takes for a device, whatever follows the dot. */
const DEVICES = /^(?:con|prn|aux|nul|(?:com|lpt)\d)$/;

/** The file name a plan is saved under: "Greenhouse bench" is greenhouse-bench.plan.json. */
export function planFileName(plan: Plan): string {
  const stem = plainName(plan.name, '-') || 'plan';
  return `${DEVICES.test(stem) ? `plan-${stem}` : stem}.plan.json`;
}
