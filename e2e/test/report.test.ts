import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { openBrowser, type Browser } from '../support/browser.ts';
import { goToView, openBuoy } from '../support/demo.ts';
import { serve, type Served } from '../support/server.ts';

let served: Served;
let browser: Browser;

beforeAll(async () => {
  served = await serve();
  browser = await openBrowser();
}, 120000);

afterAll(async () => {
  await browser?.close();
  await served?.stop();
});

/** Saves a report by its button, and gives the path of the file. */
async function saved(button: string, ending: RegExp): Promise<string> {
  const found = (): string | undefined => readdirSync(browser.downloads).find((name) => ending.test(name));
  await (await browser.button(button)).click();
  await browser.wait(() => Promise.resolve(found() !== undefined), `no file ${String(ending)} was saved`);
  return join(browser.downloads, found() ?? '');
}

describe('a report for a review', () => {
  it('is saved as one file that opens from disk without a network and prints in under 12 pages', async () => {
    await openBuoy(browser, served.address);
    await goToView(browser, 'handoff');
    // The buoy begins with conflicts: the report says so, and the code leaves their signals out.
    const file = await saved('HTML', /\.report\.html$/);
    await browser.driver.get(pathToFileURL(file).href);
    expect(await browser.text('h1')).toBe('Harbour buoy');
    await browser.shows('.verdict.fail', '2 conflicts');
    // The types say that it gives nothing; it gives the file in base 64. Sizes are in cm.
    const print = browser.driver.printPage.bind(browser.driver) as unknown as (
      size: object,
    ) => Promise<string>;
    const data = await print({ width: 21, height: 29.7 });
    const pages =
      Buffer.from(data, 'base64')
        .toString('latin1')
        .match(/\/Type\s*\/Page\b(?!s)/g) ?? [];
    expect(pages.length).toBeGreaterThan(1);
    expect(pages.length).toBeLessThan(12);
  });

  it('is saved as Markdown, too', async () => {
    await openBuoy(browser, served.address);
    await goToView(browser, 'handoff');
    const file = await saved('Markdown', /\.report\.md$/);
    expect(readFileSync(file, 'utf8')).toMatch(/^# Harbour buoy\n/);
  });
});
