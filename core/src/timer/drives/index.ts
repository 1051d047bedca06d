import type { Mode, Part } from '../../part/types.ts';
import { stepsOf } from '../count.ts';
import type { ClockPath } from '../../clock/path.ts';
import type { Rung } from '../rungs.ts';
import type { CaptureSetting, OutputSetting, Setting } from '../setting.ts';
import { bitLoop } from './bit-loop.ts';
import { capture } from './capture.ts';
import { delayLoop } from './delay-loop.ts';
import { driveById, driveOf, registerDrive, type AdjustedField } from './drive.ts';
import { interrupt } from './interrupt.ts';
import { interruptPair } from './interrupt-pair.ts';
import { pwm } from './pwm.ts';
import { softwarePwm } from './software-pwm.ts';
import { toggle } from './toggle.ts';

registerDrive(pwm);
registerDrive(toggle);
registerDrive(interrupt);
registerDrive(softwarePwm);
registerDrive(interruptPair);
registerDrive(delayLoop);
registerDrive(bitLoop);
registerDrive(capture);

export * from './actions.ts';
export { allDrives, driveById, driveOf, fieldsOf, registerDrive } from './drive.ts';
export type { AdjustedField, Cause, Drive, TimerPlace } from './drive.ts';
export type { SettingField } from './setting-fields.ts';
export { canShareTick } from './interrupt.ts';
export { clockNode, computeOutcome, outcomeUnder } from './outcome-under.ts';
export { oppositeCycle } from './pwm.ts';
export { canPair, secondChannelStep } from './second-channel.ts';
export { beginTicks, goesSameWay, pinsTakenBy, resolveSetting, type Resolved } from './output-setting.ts';

/** Whether the timer drives the pin by itself. */
export function isOutput(setting: Setting): setting is OutputSetting {
  return driveOf(setting).cause === 'output';
}

/** Whether an input is measured. */
export function isInput(setting: Setting): setting is CaptureSetting {
  return driveOf(setting).cause === 'input';
}

/** Whether the program makes the signal rather than the hardware. */
export function isSoftware(setting: Setting): boolean {
  const { cause } = driveOf(setting);
  return cause === 'interrupts' || cause === 'loop';
}

/** Whether one compare value of the timer decides the duty, without the program. */
export function hasFreeDuty(setting: Setting): setting is OutputSetting {
  const { cause, duty } = driveOf(setting);
  return cause === 'output' && duty === 'match';
}

/** Whether an output changes at its match, once a run, so that it is always high for half of the time. */
export function isToggled(drive: string): boolean {
  const { cause, duty } = driveById(drive);
  return cause === 'output' && duty === 'half';
}

/** Runs of the counter in a period of a pin: 2 where the output changes once a run, else 1. */
export function runsOf(drive: string): 1 | 2 {
  return driveById(drive).runsPerPeriod(true);
}

/** Duty values that an output of a mode can tell apart: two halves, or those of its compare value. */
export function stepsIn(drive: string, mode: Mode, top: number): number {
  return driveById(drive).duty === 'half' ? 2 : stepsOf(mode, top);
}

/** Checks that a part can do a setting of any drive. @throws SettingError with the field at fault. */
export function checkSetting(part: Part, setting: Setting): void {
  driveOf(setting).check(part, setting);
}

/** The way from the oscillator to the pin, rung by rung, with every number put in. @throws SettingError */
export function ladderOf(part: Part, path: ClockPath, setting: Setting): Rung[] {
  return driveOf(setting).ladder(part, path, setting);
}

/** How a setting gets the signal out, in a word or two: "OC1A", "interrupt", "tick". */
export function meansOf(setting: Setting): string {
  return driveOf(setting).means(setting);
}

/** The numbers of a setting in one line: "fast-icr ÷ 64, top 15 624". */
export function numbersText(setting: Setting): string {
  return driveOf(setting).numbersText(setting);
}

/** Where a setting is, in words: "TIM3 CH3 on PB0". */
export function placeText(part: Part, setting: Setting): string {
  return driveOf(setting).place(part, setting);
}

/** A setting with one number changed by hand; the wanted duty `share` is kept as well as it can be. */
export function adjust(
  part: Part,
  setting: Setting,
  share: number,
  field: AdjustedField,
  value: number,
): Setting {
  return driveOf(setting).adjust(part, setting, share, field, value);
}
