/** The lane colours of signals by their place in the plan: day and night. */
const LANES = {
  light: ['#1F6BB0', '#C2183A', '#857000', '#6B3FA0', '#0F766E', '#B4530A', '#A3357A', '#4A5568'],
  dark: ['#6FB1EE', '#FF6B85', '#D6BD3F', '#B796EA', '#58C7BA', '#F2A25C', '#E88AC4', '#A6B1C4'],
} as const;

/** How many lane colours there are; a ninth signal starts again, told apart by its name. */
export const LANE_COUNT = LANES.light.length;

const numbered = (colours: readonly string[]): Record<string, string> =>
  Object.fromEntries(colours.map((colour, at) => [String(at + 1), colour]));

/** Ink on warm paper. */
export const DAY = {
  primary: { main: '#C2183A' },
  success: { main: '#0F766E' },
  warning: { main: '#B4530A' },
  text: { primary: '#1D2433', secondary: '#5F6572', faint: '#716E67' },
  background: { default: '#FAF7F2', paper: '#FFFDF9', wash: '#F1ECE2' },
  divider: '#DDD6C8',
  hairline: '#EBE5D9',
  band: { primary: '#F6E3E3', success: '#D7E7E2', warning: '#F6E0CD' },
  shade: 'rgb(40 30 10 / 14%)',
  lane: numbered(LANES.light),
};

/** The same at night. */
export const NIGHT: typeof DAY = {
  primary: { main: '#FF6B85' },
  success: { main: '#58C7BA' },
  warning: { main: '#F2A25C' },
  text: { primary: '#EDE7DC', secondary: '#A9A79F', faint: '#96958F' },
  background: { default: '#151821', paper: '#1D212C', wash: '#1F2430' },
  divider: '#363B48',
  hairline: '#262B36',
  band: { primary: '#3A2430', success: '#21413F', warning: '#46311F' },
  shade: 'rgb(0 0 0 / 45%)',
  lane: numbered(LANES.dark),
};
