/** So many bytes are turned into characters at once. */
const PIECE = 8192;

/** Bytes as characters of the same numbers, for formats that are plain ASCII. */
export function latin1(bytes: Uint8Array): string {
  if (bytes.length <= PIECE) return String.fromCharCode(...bytes);
  let text = '';
  for (let at = 0; at < bytes.length; at += PIECE) {
    text += String.fromCharCode(...bytes.subarray(at, at + PIECE));
  }
  return text;
}

/** Characters as bytes of the same numbers; those beyond 255 become question marks. */
export function latin1Bytes(text: string): Uint8Array {
  const bytes = new Uint8Array(text.length);
  let length = 0;
  for (let at = 0; at < text.length; at += 1) {
    const code = text.codePointAt(at) ?? 0;
    bytes[length] = code < 256 ? code : 63;
    length += 1;
    // A character of two units is one.
    if (code > 0xffff) at += 1;
  }
  return bytes.subarray(0, length);
}
