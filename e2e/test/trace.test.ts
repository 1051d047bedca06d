import { readFileSync, existsSync } from 'node:fs';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import { benchCapture } from '../support/bench-capture.ts';
import { openBrowser, type Browser } from '../support/browser.ts';
import { goToView, openGreenhouse } from '../support/demo.ts';
import { serve, type Served } from '../support/server.ts';

let served: Served;
let browser: Browser;
let file: string;

beforeAll(async () => {
  file = benchCapture();
  served = await serve();
  browser = await openBrowser();
}, 120000);

afterAll(async () => {
  await browser?.close();
  await served?.stop();
});

async function openTrace(): Promise<void> {
  await openGreenhouse(browser, served.address);
  await goToView(browser, 'trace');
  await browser.find('[data-testid=lanes]');
}

async function keys(...typed: string[]): Promise<void> {
  await (await browser.find('[data-testid=lanes]')).sendKeys(...typed);
}

const cursors = '[data-testid=cursors]';

describe('the trace of a plan', () => {
  it('goes from edge to edge by the keyboard and measures between the cursors', async () => {
    await openTrace();
    // The status LED: 0.5 Hz, its first run without a flash, so it rises at 2 s, 4 s, 6 s, and is lit for 0.2 s.
    await keys(Key.ARROW_DOWN, Key.ARROW_RIGHT);
    await browser.shows(cursors, 'A 2 s');
    await keys('c', Key.ARROW_RIGHT, Key.ARROW_RIGHT);
    await browser.shows(cursors, 'B 4 s');
    await browser.shows('[data-testid=measure-computed]', '0.5 Hz');
    await browser.shows('[data-testid=measure-computed]', '10 %');
    await keys(Key.ARROW_LEFT);
    await browser.shows(cursors, 'B 2.2');
    const before = await browser.text('[data-testid=window]');
    await keys('++');
    expect(await browser.text('[data-testid=window]')).not.toBe(before);
    await keys(Key.HOME);
    await browser.shows('[data-testid=window]', '10 s');
  });

  it('finds a pulse by its length, and answers a search that it cannot read in a sentence', async () => {
    const search = await browser.find('input[aria-label^="Find a pulse"]');
    await search.sendKeys('longer than 3 of them', Key.ENTER);
    await browser.shows('[role=status]', 'not understood');
    await search.sendKeys(Key.chord(Key.CONTROL, 'a'), '< 300 ms', Key.ENTER);
    await browser.shows('[role=status]', '200 ms');
  });

  it('keeps a moment in the plan, also after a reload', async () => {
    await (await browser.button('mark')).click();
    const mark = await browser.find('[data-bookmark]');
    const name = await mark.getText();
    await browser.driver.navigate().refresh();
    await browser.shows('[data-bookmark]', name);
  });

  it('is saved as a picture', async () => {
    await (await browser.find('option[value=svg]')).click();
    const saved = join(browser.downloads, 'trace.svg');
    await browser.wait(() => existsSync(saved));
    const text = readFileSync(saved, 'utf8');
    expect(text).toContain('Frost alarm');
    expect(text).not.toContain('var(--');
    await (await browser.find('option[value=vcd]')).click();
    const dump = join(browser.downloads, 'trace.vcd');
    await browser.wait(() => existsSync(dump));
    expect(readFileSync(dump, 'utf8')).toContain('$var wire 1 ! Frost_alarm $end');
  });
});

describe('a capture from the bench', () => {
  it('is laid over the plan: the clock named, the slip named, the others holding', async () => {
    await openTrace();
    await (await browser.find('[data-testid=capture-file]')).sendKeys(file);
    await browser.shows(
      '[data-testid=ratio]',
      '3 signals are all 2.20 per mille fast: the oscillator, not the dividers.',
    );
    await browser.shows('[data-slip=minus-one]', '217 instead of 216');
    expect(await browser.driver.findElements({ css: '[data-slip]' })).toHaveLength(1);
    await browser.shows('[data-lane=frost-alarm]', 'captured: Frost_alarm');
    await browser.wait(
      async () =>
        (await browser.driver.findElements({ css: '[data-of=captured][data-verdict=pass]' })).length >= 2,
    );
  });

  it('goes to its glitch, and shows it in the histogram’s reach', async () => {
    await (await browser.find('[data-lane=grow-light]')).click();
    await (await browser.button('next glitch')).click();
    await browser.shows('[role=status]', 'µs at 4.008');
    await browser.shows('[data-of=captured][data-verdict=fail]', '');
  });

  it('goes to a period that misses: the LED on the bench’s own clock', async () => {
    await (await browser.find('[data-lane=status-led]')).click();
    await (await browser.find('label input[type=checkbox]')).click();
    await keys(Key.HOME);
    await (await browser.button('next failure')).click();
    await browser.shows('[role=status]', 's at ');
  });

  it('is still there after a reload, its wires can be said, and it can be removed', async () => {
    await browser.driver.navigate().refresh();
    await browser.shows('[data-testid=ratio]', '2.20 per mille');
    await (await browser.find('[data-testid=capture]')).click();
    const wire = await browser.find('select[aria-label="Signal of Frost_alarm"]');
    await wire.sendKeys('none');
    await browser.shows('[data-lane="wire Frost_alarm"]', 'not assigned to a signal');
    await browser.driver.actions().sendKeys(Key.ESCAPE).perform();
    await (await browser.find('[data-testid=capture]')).click();
    await (await browser.button('Delete the capture')).click();
    await browser.shows('section[aria-label=Capture]', 'Drop a capture here');
  });

  it('that is not one is answered with its place, the plan untouched', async () => {
    await (await browser.find('[data-testid=capture-file]')).sendKeys(join(process.cwd(), 'README.md'));
    await browser.shows('section[aria-label=Capture] p[role=alert]', 'README.md: ');
    await browser.shows('[data-lane=frost-alarm]', 'Frost alarm');
    expect(await browser.errors()).toEqual([]);
  });
});
