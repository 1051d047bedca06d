/** A check as a test case of a JUnit report. */
export type Case = { signal: string; property: string; verdict: string; text: string };

const SIGNS = new Map([
  ['&', '&amp;'],
  ['<', '&lt;'],
  ['>', '&gt;'],
  ['"', '&quot;'],
  ["'", '&apos;'],
]);

/** Characters that no XML 1.0 document may hold, not even escaped, and the control characters that it should not. */
const FORBIDDEN = /[\p{Cs}\p{Cc}\ufffe\uffff]/gu;

/** Text for an attribute of an XML document, on one line; what no document may hold becomes a replacement character. */
function escaped(text: string): string {
  return text
    .replace(/[\t\r\n]+/g, ' ')
    .replace(FORBIDDEN, '\ufffd')
    .replace(/[&<>"']/g, (sign) => SIGNS.get(sign) ?? sign);
}

/** Checks as a JUnit report: an unknown verdict is reported as skipped. */
export function junitText(name: string, cases: readonly Case[]): string {
  const count = (verdict: string): number => cases.filter((one) => one.verdict === verdict).length;
  const lines = cases.map(({ signal, property, verdict, text }) => {
    const head = `  <testcase classname="${escaped(signal)}" name="${escaped(property)}"`;
    if (verdict === 'pass') return `${head}/>`;
    const tag = verdict === 'fail' ? 'failure' : 'skipped';
    return `${head}>\n    <${tag} message="${escaped(text)}"/>\n  </testcase>`;
  });
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<testsuite name="${escaped(name)}" tests="${cases.length}" failures="${count('fail')}" skipped="${count('unknown')}">`,
    ...lines,
    '</testsuite>',
    '',
  ].join('\n');
}
