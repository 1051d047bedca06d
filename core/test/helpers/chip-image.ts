import { channelOf, registerOf, timerOf } from '../../src/part/find.ts';
import type { Mode, Part, Writes } from '../../src/part/types.ts';
import { fieldWrites, fieldBits, type Numbers } from '../../src/timer/fields.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import type { Step } from './chip.ts';

/** What the registers hold after each call. */
export function imagesOf(steps: readonly Step[]): Map<string, number>[] {
  const image = new Map<string, number>();
  const images: Map<string, number>[] = [];
  for (const step of steps) {
    if (step.do === 'mark' && step.name.startsWith('call')) images.push(new Map(image));
    if (step.do === 'write') image.set(step.register, step.value);
  }
  return [...images.slice(1), image];
}

/** Whether registers hold what some writes make of numbers. */
export function holdsWrites(
  part: Part,
  writes: Writes,
  numbers: Numbers,
  image: Map<string, number>,
): boolean {
  return fieldWrites(writes, numbers).every(({ register, field, value }) => {
    const { shift, mask } = fieldBits(registerOf(part, register), field);
    return (((image.get(register) ?? 0) & mask) >>> 0) / 2 ** shift === value;
  });
}

/** Whether registers hold a compare value where the running timer takes it. */
export function holdsCompare(
  part: Part,
  setting: OutputSetting,
  image: Map<string, number>,
  compare: number,
): boolean {
  const channel = channelOf(timerOf(part, setting.timer), setting.channel);
  return holdsWrites(part, channel.running ?? channel.compare, { compare }, image);
}

/** Whether registers hold a top where the running timer takes it. */
export function holdsTop(part: Part, { top }: Mode, numbers: Numbers, image: Map<string, number>): boolean {
  if (top.kind !== 'register' && top.kind !== 'channel') return false;
  const writes = top.kind === 'register' ? (top.running ?? top.writes) : top.writes;
  return holdsWrites(part, writes, numbers, image);
}
