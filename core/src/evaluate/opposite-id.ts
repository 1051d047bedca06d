/** Under which id the lane of a signal's opposite is known; no signal can have it. */
export function oppositeId(signal: string): string {
  return `${signal} opposite`;
}
