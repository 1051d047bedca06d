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
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter(Boolean)
    .join(separator);
}

/** Control characters, line ends and the separators that some programs take for line ends. */
const CONTROL = /[\p{Cc}\p{Cf}\p{Zl}\p{Zp}\p{Cs}]/gu;

/** A text on one line, without control characters; its spaces stay as they are. */
export function oneLine(text: string): string {
  return text.replace(CONTROL, ' ');
}

/** A name on one line, without control characters and with single spaces. */
export function plainLine(name: string): string {
  return singleSpaced(oneLine(name));
}

/** Names that differ from each other: those that a name before them already is get a number. */
export function uniqueNames(names: readonly string[], separator: string): string[] {
  const taken = new Set(names);
  const used = new Set<string>();
  return names.map((name) => {
    let own = name;
    for (let n = 2; used.has(own); n += 1) {
      const next = `${name}${separator}${n}`;
      if (!taken.has(next)) own = next;
    }
    used.add(own);
    return own;
  });
}
