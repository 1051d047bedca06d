import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { openBrowser, type Browser } from '../support/browser.ts';
import { serve, type Served } from '../support/server.ts';

/** How often the browser is killed; HZ_KILLS kills it more often. */
const KILLS = Number(process.env['HZ_KILLS'] ?? 2);

let served: Served;
let profile: string;
beforeAll(async () => {
  served = await serve();
  profile = mkdtempSync(join(tmpdir(), 'kept-'));
});
afterAll(async () => {
  await served.stop();
  await removed(profile);
});

/** Removes a profile to which processes of the browser that was killed may still write for a while. */
async function removed(directory: string): Promise<void> {
  for (let tries = 1; existsSync(directory); tries += 1) {
    try {
      rmSync(directory, { recursive: true, force: true });
    } catch (caught) {
      if (tries === 50) throw caught;
      await new Promise((resolve) => setTimeout(resolve, 200));
    }
  }
}

const shown = (browser: Browser): Promise<string> => browser.text('[data-token=frequency]');

/** Types a frequency and gives what happens then as fast as the page can say it. */
function type(browser: Browser, text: string): Promise<unknown> {
  return browser.driver.executeScript(
    `const field = document.querySelector('[data-token=frequency]');
     field.focus();
     Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(field, arguments[0]);
     field.dispatchEvent(new Event('input', { bubbles: true }));
     setTimeout(() => field.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true })), 20);`,
    text,
  );
}

it(
  'a browser that is killed in the middle of edits has lost nothing that it showed as done',
  async () => {
    let address = '';
    let last = 1;
    for (let kill = 0; kill < KILLS; kill += 1) {
      const browser = await openBrowser({ kept: profile });
      if (address === '') {
        await browser.driver.get(served.address);
        await (await browser.find('section[aria-label=Begin] button')).click();
        await browser.find('[data-testid=wave]');
        address = `${(await browser.driver.getCurrentUrl()).split('?')[0]}?signal=status-led`;
      }
      await browser.driver.get(address);
      await browser.find('[data-testid=wave]');
      if (kill > 0) {
        const found = Number((await shown(browser)).replace(' Hz', ''));
        // The edit that was under way may be there or not; none before it may be missing.
        expect([last, last + 1]).toContain(found);
        last = found;
      }
      for (let edit = 0; edit < 3; edit += 1) {
        const next = last + 1;
        const before = await browser.text('[data-testid=figures]');
        await type(browser, `${next} Hz`);
        // The new waveform is what shows an edit as done.
        await browser.wait(
          async () => (await browser.text('[data-testid=figures]')) !== before,
          `${next} Hz was not shown`,
        );
        last = next;
      }
      await type(browser, `${last + 1} Hz`);
      await new Promise((resolve) => setTimeout(resolve, (kill * 37) % 120));
      await browser.kill();
    }
  },
  60_000 + KILLS * 20_000,
);
