/** The longest entry that a field takes, in characters; what is longer is refused before anything reads it. */
export const LONGEST_ENTRY = 2000;

/** What is said of a longer entry. */
export const TOO_LONG = `An entry has up to ${LONGEST_ENTRY} characters.`;

/** A text without spaces at its ends and with one space wherever it had several, so that patterns need none of them. */
export function singleSpaced(text: string): string {
  return text.split(/\s+/).filter(Boolean).join(' ');
}

/** A text as the beginning of a sentence quotes it: up to 40 characters. */
export function quoted(text: string): string {
  const plain = singleSpaced(text);
  return `“${plain.length > 40 ? `${plain.slice(0, 39)}…` : plain}”`;
}

/** A name with the characters that an id, a file name or an identifier may have; the others become one separator each. */
export function plainName(name: string, separator: '-' | '_'): string {
  return name
    .normalize('NFKD')
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter(Boolean)
    .join(separator);
}
