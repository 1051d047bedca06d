import { LANE_COUNT } from './palette.ts';

/** The theme's colours for what is drawn: marks of an SVG, and canvases, which look them up when they paint. */
export const COLOUR = {
  ink: 'var(--hz-palette-text-primary)',
  soft: 'var(--hz-palette-text-secondary)',
  faint: 'var(--hz-palette-text-faint)',
  paper: 'var(--hz-palette-background-default)',
  wash: 'var(--hz-palette-background-wash)',
  line: 'var(--hz-palette-divider)',
  hair: 'var(--hz-palette-hairline)',
  pulse: 'var(--hz-palette-primary-main)',
  fail: 'var(--hz-palette-warning-main)',
  passBand: 'var(--hz-palette-band-success)',
  failBand: 'var(--hz-palette-band-warning)',
} as const;

/** The theme's fixed-width font, for a canvas. */
export const MONO = 'var(--hz-family-mono)';

/** The colour of a signal by its place in the plan. */
export function laneColour(index: number): string {
  return `var(--hz-palette-lane-${(index % LANE_COUNT) + 1})`;
}

/** A value of the theme as a canvas or a file needs it: custom properties are looked up where `element` stands. */
export function resolved(element: Element, value: string): string {
  const name = /^var\((--[\w-]+)\)$/.exec(value)?.[1];
  return (name && getComputedStyle(element).getPropertyValue(name).trim()) || value;
}
