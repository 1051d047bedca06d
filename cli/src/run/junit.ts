import { xmlText } from '@herzschlag/core';

/** A check as a test case of a JUnit report. */
export type Case = { signal: string; property: string; verdict: string; text: string };

/** Checks as a JUnit report: an unknown verdict is reported as skipped. */
export function junitText(name: string, cases: readonly Case[]): string {
  const count = (verdict: string): number => cases.filter((one) => one.verdict === verdict).length;
  const lines = cases.map(({ signal, property, verdict, text }) => {
    const head = `  <testcase classname="${xmlText(signal)}" name="${xmlText(property)}"`;
    if (verdict === 'pass') return `${head}/>`;
    const tag = verdict === 'fail' ? 'failure' : 'skipped';
    return `${head}>\n    <${tag} message="${xmlText(text)}"/>\n  </testcase>`;
  });
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<testsuite name="${xmlText(name)}" tests="${cases.length}" failures="${count('fail')}" skipped="${count('unknown')}">`,
    ...lines,
    '</testsuite>',
    '',
  ].join('\n');
}
