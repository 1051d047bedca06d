import { driveById, type Drive } from '../../../src/timer/drives/index.ts';
import type { InterruptSetting } from '../../../src/timer/setting.ts';

const interrupt = driveById('interrupt') as unknown as Drive<InterruptSetting>;

/** The plain interrupt setting that does the same: its handler waits for twice as many interrupts. */
const plain = (setting: InterruptSetting): InterruptSetting => ({
  ...setting,
  drive: 'interrupt',
  divider: 2 * setting.divider,
});

/** A made-up drive: the handler toggles the pin at every second count of its divider. */
export const everySecond: Drive<InterruptSetting> = {
  ...interrupt,
  id: 'every-second',
  name: 'toggled at every second count',
  short: 'second',
  check: (own, setting) => interrupt.check(own, plain(setting)),
  outcome: (own, setting, clockHz, cpuHz) => interrupt.outcome(own, plain(setting), clockHz, cpuHz),
  clockNode: (own, setting) => interrupt.clockNode(own, plain(setting)),
  countTicks: (own, setting) => interrupt.countTicks(own, plain(setting)),
  numbers: (own, setting) => interrupt.numbers(own, plain(setting)),
  writes: (own, setting) => interrupt.writes(own, plain(setting)),
  pinWrites: (own, setting) => interrupt.pinWrites(own, plain(setting)),
  ladder: (own, path, setting) => interrupt.ladder(own, path, plain(setting)),
  handlers: (own, setting) => interrupt.handlers(own, plain(setting)),
  movable: (own, setting) => interrupt.movable(own, plain(setting)),
  means: () => 'every second',
  numbersText: (setting) => interrupt.numbersText(plain(setting)),
  method: (own, setting) => interrupt.method(own, plain(setting)),
  place: (own, setting) => `${interrupt.place(own, plain(setting))}, every second`,
  propose: (proposal) =>
    (interrupt.propose?.({ ...proposal, wantedHz: 2 * proposal.wantedHz }) ?? []).map(
      (setting) => ({ ...setting, drive: 'every-second' }) as unknown as InterruptSetting,
    ),
};
