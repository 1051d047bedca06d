import Joi from 'joi';
import { type Capture, faultOf } from '@herzschlag/core';
import { ask } from '../worker/engine.ts';
import type { CaptureRow, PlanRow, StepRow } from './db.ts';
import { saveText } from './file.ts';
import { withDatabase } from './storage.ts';
import { announce } from './tabs.ts';

const FORMAT = 'herzschlag-backup';
const VERSION = 1;

/** A backup has up to so many bytes. */
const MOST_BYTES = 400_000_000;

type Bytes = { bytes: string };
type StoredWire = {
  name: string;
  times: Bytes;
  levels: Bytes;
  analog?: { times: Bytes; values: Bytes; rise: number; fall: number };
};
type StoredCapture = {
  name: string;
  wires: Record<string, string>;
  capture: Omit<Capture, 'wires'> & { wires: StoredWire[] };
};
type StoredPlan = Omit<PlanRow, 'revision'> & {
  steps: { at: number; state: unknown }[];
  capture?: StoredCapture;
};
type Backup = { format: typeof FORMAT; version: number; saved: string; plans: StoredPlan[] };

const bytes = Joi.object({ bytes: Joi.string().base64({ paddingRequired: true }).allow('').required() });
const number = Joi.number().unsafe();
const capture = Joi.object({
  name: Joi.string().required(),
  wires: Joi.object().pattern(Joi.string(), Joi.string()).required(),
  capture: Joi.object({
    tickHz: number.greater(0).required(),
    from: number.required(),
    to: number.required(),
    notes: Joi.array().items(Joi.string()),
    wires: Joi.array()
      .items(
        Joi.object({
          name: Joi.string().allow('').required(),
          times: bytes.required(),
          levels: bytes.required(),
          analog: Joi.object({
            times: bytes.required(),
            values: bytes.required(),
            rise: number.required(),
            fall: number.required(),
          }),
        }),
      )
      .required(),
  }).required(),
});
const schema = Joi.object({
  format: Joi.valid(FORMAT).required(),
  version: Joi.valid(VERSION).required(),
  saved: Joi.string().required(),
  plans: Joi.array()
    .items(
      Joi.object({
        id: Joi.string().max(80).required(),
        name: Joi.string().allow('').required(),
        plan: Joi.object().required(),
        at: Joi.number().integer().min(0).required(),
        last: Joi.number().integer().min(0),
        changed: number.required(),
        steps: Joi.array()
          .items(Joi.object({ at: Joi.number().integer().min(0).required(), state: Joi.object().required() }))
          .required(),
        capture,
      }),
    )
    .required(),
});

function packed(array: Float64Array | Float32Array | Uint8Array): Bytes {
  const view = new Uint8Array(array.buffer, array.byteOffset, array.byteLength);
  let text = '';
  for (let at = 0; at < view.length; at += 0x8000) {
    text += String.fromCharCode(...view.subarray(at, at + 0x8000));
  }
  return { bytes: btoa(text) };
}

function unpacked({ bytes: text }: Bytes): ArrayBuffer {
  const raw = atob(text);
  const view = new Uint8Array(raw.length);
  for (let at = 0; at < raw.length; at += 1) view[at] = raw.charCodeAt(at);
  return view.buffer;
}

/** A capture as a backup holds it. */
export function storedCapture({ name, wires, capture: own }: CaptureRow): StoredCapture {
  return {
    name,
    wires,
    capture: {
      ...own,
      wires: own.wires.map(({ name: wire, times, levels, analog }) => ({
        name: wire,
        times: packed(times),
        levels: packed(levels),
        ...(analog
          ? { analog: { ...analog, times: packed(analog.times), values: packed(analog.values) } }
          : {}),
      })),
    },
  };
}

/** A capture out of a backup. @throws RangeError where its lists are not as long as each other. */
export function captureOf({ name, wires, capture: own }: StoredCapture): Omit<CaptureRow, 'plan'> {
  const opened = own.wires.map(({ name: wire, times, levels, analog }) => {
    const made = {
      name: wire,
      times: new Float64Array(unpacked(times)),
      levels: new Uint8Array(unpacked(levels)),
    };
    if (made.times.length !== made.levels.length) throw new RangeError(`the wire ${wire} is incomplete`);
    if (!analog) return made;
    const samples = {
      times: new Float64Array(unpacked(analog.times)),
      values: new Float32Array(unpacked(analog.values)),
      rise: analog.rise,
      fall: analog.fall,
    };
    return { ...made, analog: samples };
  });
  return { name, wires, capture: { ...own, wires: opened } };
}

/** What this browser stores of all plans, or of one. */
async function stored(only?: string): Promise<StoredPlan[]> {
  const { plans, steps, captures } = await withDatabase(async (db) => ({
    plans: await db.plans.toArray(),
    steps: await db.steps.toArray(),
    captures: await db.captures.toArray(),
  }));
  return plans
    .filter(({ id }) => only === undefined || id === only)
    .map(({ id, name, plan, at, last, changed }) => {
      const own = captures.find((one) => one.plan === id);
      return {
        ...{ id, name, plan, at, changed },
        ...(last === undefined ? {} : { last }),
        steps: steps.filter((step) => step.plan === id).map((step) => ({ at: step.at, state: step.state })),
        ...(own ? { capture: storedCapture(own) } : {}),
      };
    });
}

function backupText(plans: StoredPlan[], saved: string): string {
  const backup: Backup = { format: FORMAT, version: VERSION, saved, plans };
  return JSON.stringify(backup);
}

/** Saves everything that this browser stores, plans with their histories and captures, as one file. Gives how many plans. */
export async function saveBackup(): Promise<number> {
  const plans = await stored();
  const saved = new Date().toISOString();
  saveText(`herzschlag-${saved.slice(0, 10)}.backup.json`, backupText(plans, saved), 'application/json');
  return plans.length;
}

/** What this browser stores of one plan, its history and its capture, as the text of a backup. */
export async function planBackup(id: string): Promise<string> {
  const plans = await stored(id);
  const changed = plans[0]?.changed ?? 0;
  return backupText(plans, new Date(changed).toISOString());
}

async function read(file: File): Promise<Backup> {
  if (file.size > MOST_BYTES) throw new Error(`${file.name}: The file is far too large.`);
  let value: unknown;
  try {
    value = JSON.parse(await file.text());
  } catch {
    throw new Error(`${file.name}: This is not a backup: it is not JSON.`);
  }
  const checked = schema.validate(value, { convert: false });
  const [item] = checked.error?.details ?? [];
  if (item) throw new Error(`${file.name}: This is not a backup: ${faultOf(item).sentence}`);
  return checked.value as Backup;
}

/** Stores a plan of a backup, its history and its capture, under its own id, or a new one where that is taken. */
async function restore({ steps, capture: own, ...row }: StoredPlan, id: string): Promise<void> {
  const made = own && captureOf(own);
  await withDatabase(async (db) => {
    await db.transaction('rw', db.plans, db.steps, db.captures, async () => {
      await db.plans.put({ ...row, id, revision: 0 });
      await db.steps.bulkPut(steps.map((step): StepRow => ({ plan: id, ...step })));
      if (made) await db.captures.put({ ...made, plan: id });
    });
  });
  announce(id);
}

/** What restoring a backup did; `ids` are the plans that are here now. */
export type Restored = { restored: number; same: number; problems: string[]; ids: string[] };

/**
 * Brings back what a backup holds. A plan that is here already stays as it is; one that has changed since is restored
 * beside it. A plan that does not open is left out, with the reason. @throws Error where the file is not a backup.
 */
export async function restoreBackup(file: File): Promise<Restored> {
  const { plans } = await read(file);
  const done: Restored = { restored: 0, same: 0, problems: [], ids: [] };
  for (const stored of plans) {
    const here = await withDatabase((db) => db.plans.get(stored.id));
    if (here && JSON.stringify(here.plan) === JSON.stringify(stored.plan)) {
      done.same += 1;
      done.ids.push(stored.id);
      continue;
    }
    const opened = await ask((engine) => engine.readPlan({ kind: 'stored plan', value: stored.plan }));
    if (!opened.ok) {
      done.problems.push(`“${stored.name}”: ${opened.fault.sentence}`);
      continue;
    }
    try {
      const id = here ? crypto.randomUUID() : stored.id;
      await restore(stored, id);
      done.restored += 1;
      done.ids.push(id);
    } catch (error) {
      done.problems.push(`“${stored.name}”: ${error instanceof Error ? error.message : String(error)}`);
    }
  }
  return done;
}
