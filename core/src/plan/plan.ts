import type { ClockSetting } from '../clock/path.ts';
import { plainName } from '../quantity/words.ts';
import type { CpuLoad, HandlerFacts } from './cpu-load.ts';
import type { PLAN_VERSION } from './versions.ts';
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
  version: typeof PLAN_VERSION;
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
  /** What was chosen of the code that is handed over; what is absent is as the code has it by itself. */
  code?: CodeChoices;
};

/** Choices of the code: names of the device's header, functions for the start-up, a start that lets interrupts happen. */
export type CodeChoices = { registers?: 'own' | 'device'; startUp?: boolean; allowInterrupts?: boolean };

/** Names that a file system takes for a device, whatever follows the dot. */
const DEVICES = /^(?:con|prn|aux|nul|(?:com|lpt)\d)$/;

/** The file name a plan is saved under: "Greenhouse bench" is greenhouse-bench.plan.json. */
export function planFileName(plan: Plan): string {
  const stem = plainName(plan.name, '-') || 'plan';
  return `${DEVICES.test(stem) ? `plan-${stem}` : stem}.plan.json`;
}
