/** A number and the unit after it, with a plain space between them. */
const BETWEEN =
  /(\d) (?=(?:[kMGmµnp]?(?:Hz|s|V|A|F|Ω|W)|kΩ|MΩ|MB|%|ppm|bits?|rpm|steps|counts|ticks|clocks|periods?|LEDs)(?![\w]))/g;

/** A sentence in which no number parts from its unit at the end of a line. */
export function unbroken(text: string): string {
  return text.replace(BETWEEN, '$1\u00a0');
}
