import { channelOf, complementOf, pinOf, registerOf, timerOf } from '../part/find.ts';
import type { Interrupt, Part, Writes } from '../part/types.ts';
import { isInput, isOutput, resolveSetting } from '../timer/drives/index.ts';
import { fieldWrites, plainWrites, type FieldWrite } from '../timer/fields.ts';
import { channelsOfSetting, pinsOfSetting, type Setting } from '../timer/setting.ts';
import { interruptsInCode } from './handlers.ts';
import type { ProgramSignal } from './signal.ts';
import type { Step } from './step.ts';

/** Fields of some writes put back to zero; whole registers, and those that take ones only, are left alone. */
function cleared(part: Part, writes: Writes): FieldWrite[] {
  return fieldWrites(writes)
    .filter(({ register, field }) => field !== null && !registerOf(part, register).strobe)
    .map((write) => ({ ...write, value: 0 }));
}

/** What disables an interrupt. */
function disabled(part: Part, { enable, disable }: Interrupt): FieldWrite[] {
  return disable ? fieldWrites(disable) : cleared(part, enable);
}

/** The fields that connect a timer's output, and its opposite, to their pins. */
function connections(part: Part, setting: Setting): Writes[] {
  if (!isOutput(setting)) return [];
  const { channel, output, opposite } = resolveSetting(part, setting);
  const beside = opposite && complementOf(channel, setting.pin, opposite.pin);
  return [output.writes, (opposite?.second ? opposite.writes : beside?.writes) ?? {}];
}

/**
 * Signals whose interrupts stop cannot disable, since they are enabled by registers that only take ones: their handlers
 * still come, and still change their pins.
 */
export function stillInterrupted(part: Part, signals: readonly ProgramSignal[]): string[] {
  return signals
    .filter((signal) => interruptsInCode(part, signal).some((one) => disabled(part, one).length === 0))
    .map(({ name }) => name);
}

/**
 * Steps that stop the signals: their interrupts disabled, their outputs disconnected from the timers, their pins low
 * as the program's own. Starting begins anew.
 */
export function stopSteps(part: Part, signals: readonly ProgramSignal[]): Step[] {
  const settings = signals.map(({ setting }) => setting);
  const interrupts = signals.flatMap((signal) =>
    interruptsInCode(part, signal).flatMap((one) => disabled(part, one)),
  );
  const outputs = settings.flatMap((setting) =>
    connections(part, setting).flatMap((writes) => cleared(part, writes)),
  );
  const pins = settings.filter((setting) => !isInput(setting)).flatMap(pinsOfSetting);
  const own = [...new Set(pins)].flatMap((id) => pinOf(part, id).software ?? []);
  const low = plainWrites(own.map((software) => software.low));
  const output = plainWrites(own.map((software) => software.output));
  const rests = restOrders(part, settings);
  const held = heldLow(part, settings);
  const placed = new Set(output.map(({ register, field }) => `${register}.${field}`));
  const disconnected = outputs.filter(({ register, field }) => !placed.has(`${register}.${field}`));
  return [
    ...(interrupts.length > 0
      ? [{ do: 'say', text: 'No more interrupts.' } as const, { do: 'change', writes: interrupts } as const]
      : []),
    ...(own.length > 0
      ? [
          { do: 'say', text: 'The pins are low, whatever their timers do.' } as const,
          { do: 'change', writes: low } as const,
        ]
      : []),
    ...(rests.length > 0
      ? [
          { do: 'say', text: 'The timers stand, and their outputs are low at the next start.' } as const,
          ...rests.map((order): Step => ({ do: 'order', order })),
        ]
      : []),
    ...(held.length > 0
      ? [
          {
            do: 'say',
            text: 'Toggled outputs would go on from their last level at the next start: low.',
          } as const,
          { do: 'change', writes: held } as const,
        ]
      : []),
    // The pins leave their timers first: an output that loses its polarity before would be high beside its opposite.
    { do: 'change', writes: [...output, ...disconnected] },
  ];
}

/** Orders that stop the timers of outputs and bring the outputs low, where their levels would stay from a stop to the next start. */
function restOrders(part: Part, settings: readonly Setting[]): Writes[] {
  const outputs = settings.filter(isOutput);
  const timers = [...new Set(outputs.map(({ timer }) => timerOf(part, timer)))];
  return timers.flatMap((timer): Writes[] => {
    const own = timer.channels.filter(({ id }) =>
      outputs.some((one) => one.timer === timer.id && channelsOfSetting(one).includes(id)),
    );
    const most = Math.max(0, ...own.map(({ rest }) => rest?.length ?? 0));
    const rests = Array.from({ length: most }, (_, at): Writes =>
      Object.fromEntries(own.flatMap(({ rest }) => Object.entries(rest?.[at] ?? {}))),
    );
    return [...(timer.halt ?? []), ...rests];
  });
}

/** Signals on toggled outputs whose level nothing can bring low while their timer stands: a start goes on from the last one. */
export function levelKept(part: Part, signals: readonly ProgramSignal[]): string[] {
  return signals
    .filter(({ setting }) => {
      if (!isOutput(setting) || setting.drive !== 'toggle') return false;
      const { outputs, rest } = channelOf(timerOf(part, setting.timer), setting.channel);
      return (
        !rest && !outputs.some(({ pin, drive, low }) => pin === setting.pin && drive === 'toggle' && low)
      );
    })
    .map(({ name }) => name);
}

/** What brings toggled outputs low whose level would stay from a stop to the next start, where no order to the timer does so. */
function heldLow(part: Part, settings: readonly Setting[]): FieldWrite[] {
  return settings.filter(isOutput).flatMap((setting) => {
    const { outputs, rest } = channelOf(timerOf(part, setting.timer), setting.channel);
    const own = outputs.find(({ pin, drive }) => pin === setting.pin && drive === setting.drive);
    return rest || setting.drive !== 'toggle' ? [] : fieldWrites(own?.low ?? {});
  });
}
