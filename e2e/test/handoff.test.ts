import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import { openBrowser, type Browser } from '../support/browser.ts';
import { shownCode, showsCode } from '../support/code.ts';
import { goHome, goToView, openBuoy, openGreenhouse } from '../support/demo.ts';
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

/** The lines of the code that are marked, as they are on the screen. */
function marked(): Promise<string[]> {
  return browser.driver.executeScript(
    "return [...document.querySelectorAll('.hz-pointed')].map((line) => line.textContent.trim());",
  );
}

/** The register that something points at. */
function pointed(): Promise<string[]> {
  return browser.driver.executeScript(`
    return [...document.querySelectorAll('[data-register]')]
      .filter((row) => /pointed/.test(row.className)).map((row) => row.dataset.register);
  `);
}

describe('the workspace of Hand-off', () => {
  it('leads from a register to its lines and from a line to its register, by pointer and by keyboard', async () => {
    await openGreenhouse(browser, served.address);
    await goToView(browser, 'handoff');
    await showsCode(browser, 'TCCR2A = (1 << COM2B1)');
    await (await browser.find('[data-register=TCCR1A] button')).click();
    await browser.wait(async () =>
      (await marked()).some((line) => line.startsWith('TCCR1A = (1 << COM1A1)')),
    );
    // Its neighbour, whose lines are in sight now, by the pointer alone.
    const row = await browser.find('[data-register=TCCR1B]');
    await browser.driver.actions().move({ origin: row }).perform();
    await browser.wait(async () => (await marked()).some((line) => line.startsWith('TCCR1B = ')));
    expect(await browser.text('[data-register=TCCR1A]')).toContain('Status LEDMist pump');
    // The cursor goes down a line, to TCCR1B.
    await browser.driver.executeScript(`
      const view = document.querySelector('[data-testid=code] .cm-content').cmTile.root.view;
      const at = view.state.doc.toString().indexOf('TCCR1A = (1 << COM1A1)');
      view.focus();
      view.dispatch({ selection: { anchor: at } });
    `);
    await browser.wait(async () => (await pointed()).join() === 'TCCR1A');
    await browser.driver.actions().sendKeys(Key.ARROW_DOWN).perform();
    await browser.wait(async () => (await pointed()).join() === 'TCCR1B');
    expect(await browser.errors()).toEqual([]);
  });

  it('says values in four forms, and has a main program and a line that compiles it', async () => {
    await (await browser.button('shifts')).click();
    await browser.shows('[data-register=TCCR1A]', '(1u << 7) | (1u << 5) | (1u << 1)');
    await (await browser.button('decimal')).click();
    await browser.shows('[data-register=OCR1A]', '3124');
    await (await browser.find('[id="file-main.c"]')).click();
    await showsCode(browser, 'greenhouse_bench_start();');
    await (await browser.find('#file-build')).click();
    await showsCode(browser, 'avr-gcc -mmcu=atmega328p -std=c11 -Os -Wall -Wextra -o greenhouse_bench.elf');
    await (await browser.find('[id="file-main.c"]')).click();
    await (await browser.button('Save')).click();
    await browser.wait(
      () => Promise.resolve(readdirSync(browser.downloads).includes('main.c')),
      'no main.c was saved',
    );
    expect(readFileSync(join(browser.downloads, 'main.c'), 'utf8')).toBe(await shownCode(browser));
  });

  it('keeps its choices in the plan', async () => {
    await (await browser.find('select[aria-label=Interrupts]')).sendKeys('start enables');
    const chosen = async (): Promise<string> =>
      (await (await browser.find('select[aria-label=Interrupts]')).getAttribute('value')) ?? '';
    await browser.wait(async () => (await chosen()) === 'start');
    await browser.driver.navigate().refresh();
    await showsCode(browser, 'greenhouse_bench_start');
    expect(await chosen()).toBe('start');
  });

  it('shows the code of what is in no conflict, and the conflicts with their fixes, which complete it', async () => {
    await goHome(browser, served.address);
    await openBuoy(browser, served.address);
    await goToView(browser, 'handoff');
    await browser.shows(
      '[data-testid=kept-back]',
      'The code below leaves out Lantern, Chart lamp, Lens shutter, Anemometer.',
    );
    await showsCode(browser, 'TIM4_ARR');
    expect(await shownCode(browser)).not.toContain('TIM3_ARR');
    await (await browser.button('Chart lamp: TIM1 CH3 on PB1')).click();
    await browser.shows('[data-testid=pulse]', '1 conflict');
    await (await browser.button('Lens shutter: TIM5 CH1 on PA0')).click();
    await showsCode(browser, 'TIM3_ARR');
    await browser.wait(
      async () => (await browser.driver.findElements({ css: '[data-testid=kept-back]' })).length === 0,
    );
    expect(await browser.errors()).toEqual([]);
  });
});

describe('versions of a plan', () => {
  it('are kept by name, compared with, and gone back to; one step back and a file can be compared, too', async () => {
    await goHome(browser, served.address);
    await openGreenhouse(browser, served.address);
    await goToView(browser, 'handoff');
    await (await browser.button('Versions …')).click();
    await (await browser.find('input[aria-label="Name of a version"]')).sendKeys('first light', Key.ENTER);
    await browser.find('[data-version="first light"]');
    await browser.driver.actions().sendKeys(Key.ESCAPE).perform();
    await goToView(browser, 'fit');
    await browser.say('frequency', '2200');
    await browser.shows('[data-token=frequency]', '2 200 Hz');
    await goToView(browser, 'handoff');
    await (await browser.button('Versions …')).click();
    await (await browser.find('[data-version="first light"] button')).click();
    await browser.shows('[data-testid=diff]', 'first light');
    await browser.shows('[data-testid=diff]', 'sounds 2 300 Hz');
    await browser.shows('[data-testid=diff]', 'sounds 2 200 Hz');
    await browser.shows('[data-testid=diff]', 'OCR2A');
    await browser.shows('[data-testid=diff]', 'greenhouse_bench.c');
    await (await browser.button('Back to the code')).click();
    await (await browser.button('Versions …')).click();
    await (await browser.find('select[aria-label="Steps of undo"]')).sendKeys('one step back');
    await browser.shows('[data-testid=diff]', 'one step back');
    await (await browser.button('Versions …')).click();
    await (
      await browser.find('[data-testid=compared-file]')
    ).sendKeys(join(process.cwd(), 'examples/greenhouse.plan.json'));
    await browser.shows('[data-testid=diff]', 'greenhouse.plan.json');
    await (await browser.button('Versions …')).click();
    await (await browser.button('restore')).click();
    await browser.shows('[data-testid=diff]', 'Nothing is different.');
    await goToView(browser, 'fit');
    await browser.shows('[data-token=frequency]', '2 300 Hz');
    expect(await browser.errors()).toEqual([]);
  });
});

describe('a link that carries a plan', () => {
  it('opens it in an empty browser; a damaged one is said', async () => {
    await goHome(browser, served.address);
    await openGreenhouse(browser, served.address);
    await goToView(browser, 'handoff');
    await browser.driver.executeScript(
      'navigator.clipboard.writeText = (text) => { window.copied = text; return Promise.resolve(); };',
    );
    await (await browser.button('Copy a link')).click();
    await browser.button('link copied');
    const link: string = await browser.driver.executeScript('return window.copied;');
    await browser.forget(served.address);
    await browser.driver.get('about:blank');
    await browser.driver.get(link);
    await browser.find('[data-testid=landscape]');
    await browser.shows('[data-token=frequency]', '2 300 Hz');
    await browser.driver.get('about:blank');
    await browser.driver.get(`${served.address}/#plan=AAAA`);
    await browser.shows('[role=alert]', 'The link: ');
    expect(await browser.errors()).toEqual([]);
  });
});
