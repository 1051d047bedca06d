/** Control characters, line ends and the separators that some programs take for line ends. */
const CONTROL = /[\p{Cc}\p{Cf}\p{Zl}\p{Zp}\p{Cs}]/gu;

/** A name on one line, without control characters. */
export function plainLine(name: string): string {
  return name.replace(CONTROL, ' ').split(/\s+/).filter(Boolean).join(' ');
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

/**
 * Text of which each character stands for a byte, read as UTF-8; as it is where the bytes are not UTF-8, so that a file in
 * an older encoding keeps its characters.
 */
export function utf8Text(bytes: string): string {
  if (!/[\x80-\xff]/.test(bytes)) return bytes;
  const encoded = bytes.replace(/[^ -$&-~]/g, (byte) => `%${byte.charCodeAt(0).toString(16).padStart(2, '0')}`);
  try {
    return decodeURIComponent(encoded);
  } catch (error) {
    if (error instanceof URIError) return bytes;
    throw error;
  }
}
