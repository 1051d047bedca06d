/**
 * Text of which each character stands for a byte, read as UTF-8; as it is where the bytes are not UTF-8, so that a file in
 * an older encoding keeps its characters.
 */
export function utf8Text(bytes: string): string {
  if (!/[\x80-\xff]/.test(bytes)) return bytes;
  const encoded = bytes.replace(
    /[^ -$&-~]/g,
    (byte) => `%${byte.charCodeAt(0).toString(16).padStart(2, '0')}`,
  );
  try {
    return decodeURIComponent(encoded);
  } catch (error) {
    if (error instanceof URIError) return bytes;
    throw error;
  }
}
