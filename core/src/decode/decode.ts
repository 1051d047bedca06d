import { failed, succeeded, type Result } from '../result/result.ts';
import type { ClockPath } from '../clock/path.ts';
import { pinOf, timerOf, NotOnPart } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import type { Requirement } from '../signal/requirement.ts';
import { zeroSlip } from '../slips/code-rates.ts';
import { explainEffect } from '../slips/code-slips.ts';
import { decodeTimers, type DecodedTimer } from './timers.ts';
import { ownClock } from './own-clock.ts';
import { CodeFault } from './expression.ts';
import { fieldValue, mismatches } from './fields.ts';
import { readStores, type Registers, type Skipped } from './statements.ts';
import { hint, warning, type Slip } from '../slips/catalogue.ts';
import { isSoftware } from '../timer/drives/index.ts';
import type { Effect } from '../timer/outcome.ts';

/** What somebody's code really does, and the slips that explain why it is not what was wanted. */
export type Decoded = {
  timers: DecodedTimer[];
  /** The effect that was compared with the wanted signal. */
  effect?: Effect;
  slips: Slip[];
  /** How many lines were read, how many of them write registers and were understood, and what was left out. */
  reading: { lines: number; understood: number; skipped: readonly Skipped[] };
};

/** What was wanted: a requirement, and the pin it was meant for. */
export type Wanted = { requirement: Requirement; pin?: string };

/** Code that is read, or a sentence with the line that is not understood. */
export type DecodeResult = Result<Decoded>;

/**
 * A value that the next store takes away: a compare value written, and directly after it the clock stopped or the output
 * disconnected, so that the pin never shows it.
 */
function overwritten(part: Part, { stores, values }: Registers): Slip | undefined {
  const last = stores[stores.length - 1];
  const before = stores[stores.length - 2];
  if (!last || !before) return undefined;
  for (const timer of part.timers) {
    const compares = timer.channels.flatMap((channel) =>
      Object.keys(channel.compare).map((key) => key.split('.')[0]),
    );
    if (!compares.includes(before.register)) continue;
    const { prescaler } = timer;
    const control = new Set(
      (prescaler.kind === 'list' ? prescaler.options.flatMap(({ writes }) => Object.keys(writes)) : [])
        .concat(
          timer.modes.flatMap((mode) => Object.keys(mode.writes)),
          timer.channels.flatMap((channel) =>
            channel.outputs.flatMap((output) => Object.keys(output.writes)),
          ),
        )
        .map((key) => key.split('.')[0] ?? ''),
    );
    const ran = stores.slice(0, -2).some(({ register, value }) => register === last.register && value !== 0);
    if (!control.has(last.register) || !ran || last.value !== 0) continue;
    return warning(
      'overwritten',
      `${before.register} = ${before.value} in line ${before.line} is followed at once by ${last.register} = ${values.get(last.register)}, before a period has shown it.`,
    );
  }
  return undefined;
}

/** A pin on which none of the channels that are on can come out. */
function wrongPin(part: Part, wanted: Wanted, effects: readonly Effect[]): Slip | undefined {
  const { pin } = wanted;
  if (pin === undefined || effects.length === 0) return undefined;
  if (effects.some(({ setting }) => setting.pin === pin || isSoftware(setting))) return undefined;
  const [effect] = effects;
  if (!effect || !('channel' in effect.setting)) return undefined;
  const { timer, channel } = effect.setting;
  const own = timerOf(part, timer).channels.find((one) => one.id === channel);
  const able = [...new Set(own?.outputs.map((output) => output.pin) ?? [])];
  if (able.includes(pin)) return undefined;
  return warning('wrong-pin', `${own?.name} comes out on ${able.join(', ')}, not on ${pin}.`);
}

/** Two timers' signals on one prescaler or top cannot differ: told where the wanted pin's channel has no compare of its own. */
function pinNotOutput(
  part: Part,
  { pin }: Wanted,
  registers: Registers,
  effect: Effect | undefined,
): string[] {
  if (pin === undefined || effect?.setting.pin !== pin) return [];
  try {
    const { enable } = pinOf(part, pin);
    return mismatches(part, registers.values, enable).map(
      ({ key, wanted }) =>
        `${pin} is not an output yet: ${key} is ${fieldValue(part, registers.values, key)}, not ${wanted}.`,
    );
  } catch (error) {
    if (error instanceof NotOnPart) return [error.message];
    throw error;
  }
}

/** The effect that is meant: on the wanted pin, else an output for a pin and a tick for none, else the first. */
function meantEffect(effects: readonly Effect[], { requirement, pin }: Wanted): Effect | undefined {
  const outputs = effects.filter(({ setting }) => !isSoftware(setting));
  const ticks = effects.filter(({ setting }) => isSoftware(setting));
  const [firstKind, secondKind] = requirement.pin ? [outputs, ticks] : [ticks, outputs];
  const on = pin === undefined ? undefined : firstKind.find(({ setting }) => setting.pin === pin);
  return on ?? firstKind[0] ?? secondKind[0];
}

/**
 * An interrupt that is to make a signal on a pin: where it comes at twice the wanted rate it is right, once for each
 * toggle; at the wanted rate itself the interval was taken for the period.
 */
function asToggle(effect: Effect, { requirement, pin }: Wanted): Effect {
  const { setting, outcome } = effect;
  if (!isSoftware(setting) || !requirement.pin) return effect;
  return {
    setting: { ...setting, ...(pin === undefined ? {} : { pin }) },
    outcome: { ...outcome, frequency: outcome.frequency.div(2) },
  };
}

/**
 * Reads register writes and says what they produce on the planned clock, with the dividers that they set themselves; with a wanted signal also which slip explains the difference.
 * Never throws for bad input.
 */
export function decodeText(part: Part, planned: ClockPath, text: string, wanted?: Wanted): DecodeResult {
  let registers: Registers;
  try {
    registers = readStores(part, text);
  } catch (error) {
    if (error instanceof CodeFault) return failed(error.message);
    throw error;
  }
  const [open] = registers.later;
  if (registers.stores.length === 0 && open) {
    return failed(`Line ${open.line}: ${open.register} gets a value that only the running program knows.`);
  }
  const [strange] = registers.skipped;
  if (registers.stores.length === 0 && strange) return failed(`Line ${strange.line}: ${strange.why}`);
  if (registers.stores.length === 0) {
    return failed(`No register of ${part.name} is written here; say for example ${exampleOf(part)}.`);
  }
  const { path, set } = ownClock(part, planned, registers);
  const timers = decodeTimers(part, path, registers);
  const known = [
    ...set.map((text) => hint('own-clock', text)),
    ...knownLater(registers),
    ...leftOut(registers),
    ...takenOnce(registers),
  ];
  const { lines, stores } = registers;
  const understood = new Set(stores.map(({ line }) => line)).size;
  const reading = { lines, understood, skipped: registers.skipped };
  if (!wanted) return succeeded({ timers, slips: known, reading });
  const effects = timers.flatMap((one) => one.effects);
  const meant = meantEffect(effects, wanted);
  const effect = meant && asToggle(meant, wanted);
  const own = timers.find((one) => one.effects.includes(meant as Effect));
  own?.notes.push(
    ...pinNotOutput(part, wanted, registers, effect).filter((note) => !own.notes.includes(note)),
  );
  const structural = [overwritten(part, registers), wrongPin(part, wanted, effects)].filter(
    (one) => one !== undefined,
  );
  const slips =
    structural.length > 0
      ? structural
      : effect
        ? explainEffect(part, path, wanted.requirement, effect)
        : zeros(part, timers);
  return succeeded({ timers, slips: [...slips, ...known], reading, ...(effect ? { effect } : {}) });
}

/** What the text stores that only the running program knows. */
function knownLater({ later }: Registers): Slip[] {
  const [first] = later;
  if (!first) return [];
  const names = [...new Set(later.map(({ register }) => register))];
  const rest = names.length > 1 ? ` and ${names.length - 1} more` : '';
  const text = `From line ${first.line} on ${first.register}${rest} gets values that only the running program knows; the values before it are reported here.`;
  return [hint('set-later', text)];
}

/** So many statements that are left out are named; of more only how many. */
const NAMED = 3;

/** What may write a register and is not understood, with its places. */
function leftOut({ skipped, stores, lines }: Registers): Slip[] {
  if (skipped.length === 0) return [];
  const named = skipped.slice(0, NAMED).map(({ line, why }) => `Line ${line}: ${why}`);
  const more = skipped.length > NAMED ? [`And ${skipped.length - NAMED} more.`] : [];
  const read = new Set(stores.map(({ line }) => line)).size;
  const text = `${lines} lines were read and ${read} understood; ${skipped.length} that may write a register were not. ${[...named, ...more].join(' ')}`;
  return [hint('left-out', text)];
}

/** Stores in loops and under conditions that the text does not decide. */
function takenOnce({ once }: Registers): Slip[] {
  const [first] = once;
  if (!first) return [];
  const where = first.where === 'loop' ? 'in a loop' : 'under a condition';
  const others = new Set(once.map(({ line }) => line)).size - 1;
  const more = others > 0 ? `, and ${others} other ${others === 1 ? 'line' : 'lines'} like it` : '';
  return [hint('taken-once', `Line ${first.line} stands ${where}${more}: it is taken once.`)];
}

/** Timers that do nothing because their top is zero. */
function zeros(part: Part, timers: readonly DecodedTimer[]): Slip[] {
  const still = timers.find((one) => one.top === 0);
  return still ? [zeroSlip(timerOf(part, still.timer))] : [];
}

function exampleOf(part: Part): string {
  const [timer] = part.timers;
  const register = timer?.sequence[0]?.register ?? part.registers[0]?.name ?? 'REGISTER';
  return `${register} = 0x2A;`;
}
