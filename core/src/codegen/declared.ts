/** Lines of the header, and functions of the source that they declare. */
export type Declared = { header: string[]; source: string[] };

/** How a function begins whose body belongs into the source. */
const BEGIN = /^static inline (.*\))$/;

/** How a function begins that only the source has. */
const INNER = /^static (?!inline\b)\w+ \w+\(.*\)$/;

/** Turns functions with their bodies into declarations, and keeps the bodies for the source. What comes before a function stays in the header. */
export function declared(lines: readonly string[]): Declared {
  const header: string[] = [];
  const source: string[] = [];
  let inside = false;
  for (const line of lines) {
    const head = BEGIN.exec(line)?.[1];
    if (head !== undefined || (!inside && INNER.test(line))) {
      if (head !== undefined) header.push(`${head};`);
      source.push(head ?? line);
      inside = true;
    } else if (inside) {
      source.push(line);
      if (line !== '}') continue;
      source.push('');
      inside = false;
    } else header.push(line);
  }
  return { header, source };
}
