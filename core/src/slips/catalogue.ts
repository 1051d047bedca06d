/** A common mistake or trap, recognised from numbers. `warns` when it spoils the target. */
export type Slip = { id: SlipId; title: string; text: string; warns: boolean };

/**
 * The one catalogue of slips: what each is called wherever it is recognised, in a setting, in code that is read, or in a
 * capture. The text that proves it with numbers is made where it is recognised.
 */
const TITLES = {
  'above-top': 'Compare above top.',
  audible: 'It can be heard.',
  clock: 'Another clock assumed.',
  coarse: 'Too coarse.',
  'compare-one': 'One count of the pulse.',
  cpu: 'The CPU is busy.',
  'waits-for-frame': 'Interrupts wait.',
  double: 'Double the frequency.',
  flicker: 'It flickers.',
  'fraction-percent': 'Fraction used as percent.',
  'given-away': 'The prescaler serves another timer.',
  half: 'Half the frequency.',
  'halved-twice': 'Halved twice.',
  'hold-off': 'The reload holds the counter.',
  'interval-period': 'Interval used as period.',
  inverted: 'Inverted.',
  'minus-one': 'Minus one.',
  'minus-one-twice': 'Minus one subtracted twice.',
  'left-out': 'Left out in reading.',
  'never-full': 'Never fully on.',
  'never-off': 'Never fully off.',
  oscillator: 'The oscillator decides.',
  'own-clock': 'The program sets its clock.',
  overwritten: 'The last value is never output.',
  prescaler: 'Another prescaler.',
  'prescaler-table': 'A prescaler from another timer’s table.',
  'taken-once': 'Taken once.',
  'set-later': 'Set as the program runs.',
  'shared-prescaler': 'A shared prescaler.',
  spread: 'Spread counts.',
  'toggle-half': 'Toggling halves.',
  top: 'Another top.',
  'two-toggles': 'Two toggles make a period.',
  'unit-1000': 'Microseconds for milliseconds.',
  'up-down-half': 'Up and down.',
  wraps: 'The count wraps.',
  'wrong-pin': 'That channel is on another pin.',
  zero: 'A count of zero.',
} as const;

/** The id of a slip. */
export type SlipId = keyof typeof TITLES;

/** A slip that spoils the target, with the sentence that proves it. */
export function warning(id: SlipId, text: string): Slip {
  return { id, title: TITLES[id], text, warns: true };
}

/** A slip that is easily made here, with the sentence that shows what it would do; it warns only where `warns` says so. */
export function hint(id: SlipId, text: string, warns = false): Slip {
  return { id, title: TITLES[id], text, warns };
}

/** Every slip with its title, for lists and documents. */
export function allSlips(): { id: SlipId; title: string }[] {
  return (Object.keys(TITLES) as SlipId[]).map((id) => ({ id, title: TITLES[id] }));
}
