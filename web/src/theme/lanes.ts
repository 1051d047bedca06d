/** How many lane colours there are; a ninth signal starts again, told apart by its name. */
const LANES = 8;

/** The colour of a signal by its place in the plan, as a custom property of globals.css. */
export function laneColour(index: number): string {
  return `var(--lane-${(index % LANES) + 1})`;
}
