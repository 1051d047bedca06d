import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import type { Browser } from './browser.ts';

const source = readFileSync(createRequire(__filename).resolve('axe-core/axe.min.js'), 'utf8');

/** The rules that look at colours, of those that axe-core goes by. */
const COLOURS = ['color-contrast', 'link-in-text-block'];

/**
 * What axe-core finds on the page as it is, each finding with the first places of it: by all its rules, or by those that
 * look at colours.
 */
export async function findings(browser: Browser, by: 'all' | 'colours' = 'all'): Promise<string[]> {
  const there = await browser.driver.executeScript<boolean>('return window.axe !== undefined');
  if (!there) await browser.driver.executeScript(source);
  const options = {
    resultTypes: ['violations'],
    ...(by === 'colours' ? { runOnly: { type: 'rule', values: COLOURS } } : {}),
  };
  return browser.driver.executeAsyncScript<string[]>(
    `
    const done = arguments[arguments.length - 1];
    axe.run(document, arguments[0]).then(
      ({ violations }) => done(violations.map(({ id, nodes }) =>
        id + ': ' + nodes.slice(0, 3).map(({ html }) => html.slice(0, 160)).join(' | '))),
      (error) => done([String(error)]),
    );`,
    options,
  );
}
