import { complementOf, deadBandsOf, pinOf } from '../part/find.ts';
import type { Channel, Complement, DeadBand, Mode, Output, Part, Timer, Writes } from '../part/types.ts';
import type { OutputSetting } from '../timer/setting.ts';
import { deciding, fixedWrites, refusal } from './deciding.ts';
import { decoded, fieldValue, mismatches, type Mismatch } from './fields.ts';

type Split = { own: Writes; lead: Writes };

const known = new WeakMap<Timer, WeakMap<Output | Complement, Split>>();

/** An output's fields, those of the timer apart from those that lead it to the pin. Remembered: a part may have thousands. */
function split(timer: Timer, output: Output | Complement): Split {
  const own = known.get(timer) ?? new WeakMap<Output | Complement, Split>();
  known.set(timer, own);
  const before = own.get(output);
  if (before) return before;
  const made = fieldsOf(timer, output);
  own.set(output, made);
  return made;
}

function fieldsOf(timer: Timer, output: Output | Complement): Split {
  const registers = new Set(timer.sequence.map((step) => step.register));
  const entries = Object.entries(fixedWrites(output.writes));
  const ofTimer = ([key]: [string, unknown]): boolean => registers.has(key.split('.')[0] ?? '');
  return {
    own: Object.fromEntries(entries.filter(ofTimer)),
    lead: Object.fromEntries(entries.filter((entry) => !ofTimer(entry))),
  };
}

type Found = {
  output: Output;
  /** The opposite that the output has at the same time, where one field decides of both. */
  with?: Complement;
  off: Mismatch[];
  neutral: Mismatch[];
  lead: Mismatch[];
  other: boolean;
};

/**
 * Whether a channel is meant to do something: some field that has to be set for it is set, or there is none, because the
 * output is always on and only has to be routed to a pin.
 */
function touched(part: Part, values: ReadonlyMap<string, number>, own: Writes): boolean {
  const switches = Object.entries(own).filter(([, wanted]) => wanted !== 0);
  return switches.length === 0 || switches.some(([key]) => fieldValue(part, values, key) !== 0);
}

/** The opposites that an output has by the same fields, set in another way, rather than by fields of their own. */
function pairedWith(channel: Channel, output: Output): readonly Complement[] {
  if (output.drive !== 'pwm' || output.polarity === 'inverted') return [];
  return (channel.complement ?? []).filter(
    (one) =>
      complementOf(channel, output.pin, one.pin) === one &&
      Object.keys(one.writes).some((key) => key in output.writes),
  );
}

/** The output whose fields come nearest, if any of them is set; among several pins one that is led there. */
export function outputIn(
  part: Part,
  timer: Timer,
  mode: Mode,
  channel: Channel,
  values: ReadonlyMap<string, number>,
): Found | undefined {
  const able = channel.outputs.filter(({ drive }) => mode[drive]?.channels.includes(channel.id));
  const alone = able.flatMap((output): Found[] => {
    const { own, lead } = split(timer, output);
    if (!touched(part, values, own)) return [];
    const same = output.same ?? [];
    return [
      {
        output,
        ...deciding(part, timer, values, { writes: own, same }, mode.neutral),
        lead: mismatches(part, values, { ...lead, ...fixedWrites(pinOf(part, output.pin).enable) }),
      },
    ];
  });
  const paired = able.flatMap((output): Found[] =>
    pairedWith(channel, output).map((opposite) => {
      const { own, lead } = split(timer, { ...output, writes: { ...output.writes, ...opposite.writes } });
      const [first, second] = [output, opposite].map(({ pin }) => fixedWrites(pinOf(part, pin).enable));
      return {
        output,
        with: opposite,
        ...deciding(part, timer, values, { writes: own }, mode.neutral),
        lead: mismatches(part, values, { ...lead, ...first, ...second }),
      };
    }),
  );
  const rated = [...paired, ...alone];
  const [best] = rated.sort(
    (one, other) =>
      one.off.length - other.off.length ||
      one.neutral.length - other.neutral.length ||
      one.lead.length - other.lead.length,
  );
  const turned = mode.pwm?.turned?.[channel.id];
  return best && turned && mismatches(part, values, turned).length === 0 ? turnedOver(channel, best) : best;
}

/** An output whose mode has it the other way round: what the channel has on that pin at the other polarity. */
function turnedOver(channel: Channel, found: Found): Found | undefined {
  const { pin, drive, polarity } = found.output;
  const output = channel.outputs.find(
    (one) => one.pin === pin && one.drive === drive && one.polarity !== polarity,
  );
  return output && { ...found, output, other: true };
}

/** The opposite of an output: its pin and dead time; a fault where it is on in a way that the data does not know. */
export function oppositeIn(
  part: Part,
  timer: Timer,
  channel: Channel,
  { output, with: paired, other }: Found,
  values: ReadonlyMap<string, number>,
): { complement?: OutputSetting['complement']; fault?: string } {
  if (paired) return withDeadTime(part, timer, channel, values, paired.pin);
  const pairs = pairedWith(channel, output);
  const rated = (channel.complement ?? []).flatMap((one) => {
    if (one.beside || pairs.includes(one)) return [];
    const { own, lead } = split(timer, one);
    return [{ pin: one.pin, own, off: mismatches(part, values, own), lead: mismatches(part, values, lead) }];
  });
  // An output that is itself the opposite, alone, is switched on by the same fields.
  const switches = split(timer, output).own;
  const on = rated.filter(
    ({ own }) =>
      !Object.entries(own).some(([key, wanted]) => wanted !== 0 && switches[key] === wanted) &&
      touched(part, values, own),
  );
  const [best] = on.sort((one, two) => one.lead.length - two.lead.length);
  if (!best || output.drive !== 'pwm') return {};
  const [fault] = best.off;
  if (fault) return { fault: refusal(fault, 'an output with its opposite') };
  if (output.polarity === 'inverted' || other) {
    const [key] = Object.entries(best.own).find(([, wanted]) => wanted !== 0) ?? ['the opposite'];
    return { fault: `${key} is on, and the part’s data knows no opposite of this mode and polarity.` };
  }
  return withDeadTime(part, timer, channel, values, best.pin);
}

function withDeadTime(
  part: Part,
  timer: Timer,
  channel: Channel,
  values: ReadonlyMap<string, number>,
  pin: string,
): { complement?: OutputSetting['complement']; fault?: string } {
  const ticks = deadTicksIn(part, deadBandsOf(timer, channel), values);
  return ticks === undefined
    ? { fault: `The dead time of ${timer.name} holds a value that the part’s data does not know.` }
    : { complement: { pin, deadTicks: ticks } };
}

function deadTicksIn(
  part: Part,
  bands: readonly DeadBand[] | undefined,
  values: ReadonlyMap<string, number>,
): number | undefined {
  for (const { min, max, step, writes } of bands ?? []) {
    const ticks = decoded(part, values, writes, 'dead');
    const fits = ticks !== undefined && ticks >= min && ticks <= max && ticks % step === 0;
    if (fits && mismatches(part, values, writes).length === 0) return ticks;
  }
  return bands ? undefined : 0;
}
