const SIGNS = new Map([
  ['&', '&amp;'],
  ['<', '&lt;'],
  ['>', '&gt;'],
  ['"', '&quot;'],
  ["'", '&apos;'],
]);

/** Characters that no XML 1.0 document may hold, not even escaped, and the control characters that it should not. */
const FORBIDDEN = /[\p{Cs}\p{Cc}\ufffe\uffff]/gu;

/**
 * Text for an element or an attribute of an XML document (a report, a picture), on one line; what no document may hold
 * becomes a replacement character.
 */
export function xmlText(text: string): string {
  return text
    .replace(/[\t\r\n]+/g, ' ')
    .replace(FORBIDDEN, '\ufffd')
    .replace(/[&<>"']/g, (sign) => SIGNS.get(sign) ?? sign);
}
