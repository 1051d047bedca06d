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
  return Uint8Array.from(text, (character) => {
    const code = character.charCodeAt(0);
    return code < 256 ? code : 63;
  });
}
