import { VIEWS } from './views.ts';

/** Keys and what they do, by where they work. */
export type ShortcutGroup = { where: string; keys: readonly (readonly [keys: string, does: string])[] };

/** Every key that the interface knows, for the list under “?”. */
export const SHORTCUTS: readonly ShortcutGroup[] = [
  {
    where: 'Everywhere in a plan',
    keys: [
      ...VIEWS.map(({ key, name }) => [key, `the ${name} view`] as const),
      ['Ctrl Z', 'undo'],
      ['Ctrl Shift Z', 'redo'],
      ['?', 'this list'],
    ],
  },
  {
    where: 'Typing what pins should do',
    keys: [
      ['Enter', 'add what is understood'],
      ['Shift Enter', 'another line'],
      ['↓ ↑', 'the next reading, where there are two'],
      ['Esc', 'clear'],
    ],
  },
  {
    where: 'Plan, on a signal',
    keys: [
      ['↑ ↓', 'the signal above or below'],
      ['Enter', 'open it in the Fit view'],
      ['Alt ↑ ↓', 'move it'],
      ['Ctrl D', 'copy it'],
      ['Delete', 'remove it'],
    ],
  },
  {
    where: 'Fit, in the sentence and the ladder',
    keys: [
      ['↑ ↓', 'the next value the hardware can make'],
      ['Shift ↑ ↓', 'ten of them'],
      ['Enter', 'accept the entry'],
      ['Esc', 'discard it'],
    ],
  },
  {
    where: 'Fit, in the landscape',
    keys: [
      ['← → ↑ ↓', 'from setting to setting'],
      ['Enter', 'use it'],
    ],
  },
  {
    where: 'Trace, on the lanes',
    keys: [
      ['← →', 'to the edge before or after the cursor'],
      ['Shift ← →', 'by a pixel'],
      ['↑ ↓', 'the lane above or below'],
      ['c', 'the other cursor'],
      ['+ −', 'zoom'],
      ['PageUp PageDown', 'a screen earlier or later'],
      ['Home', 'everything'],
      ['m', 'the next failure'],
      ['g', 'the next glitch'],
    ],
  },
  {
    where: 'Interrupts, on the timeline',
    keys: [
      ['↑ ↓', 'the interrupt above or below'],
      ['← →', 'earlier or later'],
      ['PageUp PageDown', 'a screen earlier or later'],
      ['+ −', 'zoom'],
      ['Home', 'everything'],
      ['w', 'the worst wait'],
      ['l', 'the next loss'],
    ],
  },
];
