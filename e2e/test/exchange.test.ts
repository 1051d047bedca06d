import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { openBrowser, type Browser } from '../support/browser.ts';
import { shownCode } from '../support/code.ts';
import { goHome, goToView, openGreenhouse } from '../support/demo.ts';
import { serve, type Served } from '../support/server.ts';

const ROOT = join(__dirname, '../..');

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

/** Drops a file on the page, as a person does: it comes over it, and is let go. */
async function drop(name: string, bytes: Buffer | string): Promise<void> {
  await browser.driver.executeScript(
    `const raw = atob(arguments[1]);
     const bytes = Uint8Array.from(raw, (letter) => letter.charCodeAt(0));
     const data = new DataTransfer();
     data.items.add(new File([bytes], arguments[0]));
     const target = document.querySelector('main');
     for (const kind of ['dragenter', 'dragover', 'drop'])
       target.dispatchEvent(new DragEvent(kind, { dataTransfer: data, bubbles: true, cancelable: true }));`,
    name,
    Buffer.from(bytes).toString('base64'),
  );
}

/** A saved file, once it is whole. */
async function saved(name: string): Promise<Buffer> {
  const file = join(browser.downloads, name);
  await browser.wait(
    () => Promise.resolve(existsSync(file) && statSync(file).size > 0),
    `${name} was not saved: ${readdirSync(browser.downloads).join(', ')}`,
  );
  return readFileSync(file);
}

async function click(css: string): Promise<void> {
  await (await browser.find(css)).click();
}

const CAPTURE = 'time,D5\n0,0\n0.001,1\n0.002,0\n0.003,1\n0.004,0\n';

const PROGRAM = `#include <avr/io.h>
int main(void) {
  DDRB |= (1 << PB3);
  TCCR2A = (1 << COM2A0) | (1 << WGM21);
  TCCR2B = (1 << CS22);
  OCR2A = 124;
  for (;;) { }
}
`;

describe('files come in from anywhere', () => {
  it('a program that is dropped on an open plan is read, and becomes signals', async () => {
    await openGreenhouse(browser, served.address);
    await goToView(browser, 'handoff');
    await drop('lamp.c', PROGRAM);
    await browser.shows('[data-testid=code-result]', 'add 1 signal');
    expect(
      await browser.driver.executeScript("return document.querySelector('[role=dialog] textarea').value;"),
    ).toBe(PROGRAM);
    await (await browser.button('add 1 signal')).click();
    await goToView(browser, 'plan');
    await browser.shows('main', '1 000 Hz');
    expect(await browser.errors()).toEqual([]);
  });

  it('a capture that is dropped on any view is drawn in Trace', async () => {
    await openGreenhouse(browser, served.address);
    await drop('bench.csv', CAPTURE);
    await browser.wait(async () => (await browser.driver.getCurrentUrl()).includes('/trace'));
    await browser.shows('main', 'bench.csv');
    expect(await browser.errors()).toEqual([]);
  });

  it('a plan opens, a part is kept, a file of another kind says what it lacks', async () => {
    await openGreenhouse(browser, served.address);
    const before = await browser.driver.getCurrentUrl();
    await drop('cabin.plan.json', readFileSync(join(ROOT, 'examples/signal-cabin.plan.json')));
    await browser.wait(async () => (await browser.driver.getCurrentUrl()) !== before);
    await browser.shows('header input', 'Signal cabin');
    await drop('quill.part.json', readFileSync(join(ROOT, 'examples/quill8.part.json')));
    await browser.shows('main [role=alert]', 'is kept; New plan lists it');
    await drop('broken.zip', 'PK\u0003\u0004nothing');
    await browser.shows('main [role=alert]', 'broken.zip: The archive cannot be unpacked');
    expect(await browser.errors()).toEqual([]);
  });
});

describe('everything of a plan goes out', () => {
  it('as one archive, with its history and its capture, and comes back from it', async () => {
    await openGreenhouse(browser, served.address);
    await drop('bench.csv', CAPTURE);
    await browser.shows('main', 'bench.csv');
    await goToView(browser, 'handoff');
    await shownCode(browser);
    await (await browser.button('Archive')).click();
    const archive = await saved('greenhouse-bench.zip');
    await browser.forget(served.address);
    await goHome(browser, served.address);
    await drop('greenhouse.zip', archive);
    await browser.shows('header input', 'Greenhouse');
    await goToView(browser, 'trace');
    await browser.shows('main', 'bench.csv');
    expect(await browser.errors()).toEqual([]);
  });

  it('pictures as SVG and as PNG, each a file that stands alone', async () => {
    await openGreenhouse(browser, served.address);
    await click('button[aria-label="Save Landscape as SVG"]');
    const landscape = (await saved('landscape.svg')).toString();
    expect(landscape).toMatch(/^<svg [^>]*xmlns="http:\/\/www\.w3\.org\/2000\/svg"/);
    expect(landscape).not.toMatch(/var\(--|class=|href=/);
    await click('button[aria-label="Save Pulse window as PNG"]');
    const pulse = await saved('pulse-window.png');
    expect(pulse.subarray(1, 4).toString()).toBe('PNG');
    // Width and height stand in the first chunk: twice the drawing of 600 with 14 on either side.
    expect(pulse.readUInt32BE(16)).toBe(1256);
    await goToView(browser, 'interrupts');
    await click('button[aria-label="Save Interrupts as SVG"]');
    const interrupts = (await saved('interrupts.svg')).toString();
    expect(interrupts).toContain('>main loop</text>');
    expect(interrupts).not.toMatch(/var\(--/);
    const parses = await browser.driver.executeScript(
      `return arguments[0].map((text) => new DOMParser().parseFromString(text, 'image/svg+xml').querySelector('parsererror') === null);`,
      [landscape, interrupts],
    );
    expect(parses).toEqual([true, true]);
    expect(await browser.errors()).toEqual([]);
  });

  it('a derivation as text for a review comment', async () => {
    await openGreenhouse(browser, served.address);
    await browser.driver.executeScript(
      'navigator.clipboard.writeText = (text) => { window.copied = text; return Promise.resolve(); };',
    );
    await click('button[title="Copy the derivation as plain text"]');
    await browser.shows('section[aria-label=Ladder]', 'copied');
    const text = await browser.driver.executeScript<string>('return window.copied;');
    expect(text).toMatch(/^.*\n.*\n(Crystal|Internal|Oscillator)/);
    expect(text).toMatch(/\d+ of \d+ checks pass\.\n$/);
  });
});
