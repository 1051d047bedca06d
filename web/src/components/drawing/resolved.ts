/** A colour of the theme as a canvas needs it: custom properties are looked up. */
export function resolved(element: Element, colour: string): string {
  const name = /^var\((--[\w-]+)\)$/.exec(colour)?.[1];
  return name ? getComputedStyle(element).getPropertyValue(name).trim() : colour;
}
