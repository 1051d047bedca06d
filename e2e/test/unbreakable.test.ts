import { readFileSync, writeFileSync } from 'node:fs';
import { request } from 'node:http';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import type { Driver } from 'selenium-webdriver/chrome';
import { openBrowser, type Browser } from '../support/browser.ts';
import { chooseSignal, goToView, openGreenhouse } from '../support/demo.ts';
import { shownCode, showsCode } from '../support/code.ts';
import { serve, type Served } from '../support/server.ts';

let served: Served;
let browser: Browser;
beforeAll(async () => {
  served = await serve();
  browser = await openBrowser();
});
afterAll(async () => {
  await browser.close();
  await served.stop();
});

/** Opens the greenhouse demo in the Fit view with its status LED chosen. */
async function openLed(): Promise<string> {
  const address = await openGreenhouse(browser, served.address);
  await chooseSignal(browser, 'Status LED');
  return address;
}

/** Loads the Fit view of a plan with a signal chosen. */
async function openSignal(address: string, signal: string): Promise<void> {
  await browser.driver.get(`${address}?signal=${signal}`);
  await browser.find('[data-testid=wave]');
}

function devTools(command: string, params: object): Promise<unknown> {
  return (browser.driver as Driver).sendAndGetDevToolsCommand(command, params);
}

/** Leaves the application, so that it is loaded anew. */
const leave = (): Promise<void> => browser.driver.get('about:blank');

/** Runs a script before anything else in every page that is opened from now on; gives a function that ends that. */
async function beforePages(source: string): Promise<() => Promise<void>> {
  const { identifier } = (await devTools('Page.addScriptToEvaluateOnNewDocument', { source })) as {
    identifier: string;
  };
  await leave();
  return async () => {
    await leave();
    await devTools('Page.removeScriptToEvaluateOnNewDocument', { identifier });
  };
}

/** A script that lets the page's clock run five times as fast, so that what it waits for takes a fifth of the time. */
const FAST_CLOCK = `
  const now = performance.now.bind(performance);
  const [every, once] = [setInterval, setTimeout];
  performance.now = () => 5 * now();
  window.setInterval = (call, ms, ...given) => every(call, ms / 5, ...given);
  window.setTimeout = (call, ms, ...given) => once(call, ms / 5, ...given);
`;

/** Megabytes that the page's scripts hold. */
async function heapMegabytes(): Promise<number> {
  const { usedSize } = (await devTools('Runtime.getHeapUsage', {})) as { usedSize: number };
  return usedSize / 1e6;
}

describe('what is typed', () => {
  it('draws targets a million times faster or slower than the pin without growing', async () => {
    await openLed();
    for (const [text, shown] of [
      ['1 MHz', '1 MHz'],
      ['9 MHz', '9 MHz'],
      ['1e-9 Hz', '0.000 001 mHz'],
    ] as const) {
      await browser.say('frequency', text);
      await browser.wait(
        async () => (await browser.text('[data-token=frequency]')) === shown,
        `${text} was not taken`,
      );
    }
    const paths = await browser.driver.executeScript<number>(
      'return Math.max(...[...document.querySelectorAll("path")].map((path) => path.getAttribute("d").length));',
    );
    expect(paths).toBeLessThan(200_000);
    for (const view of ['plan', 'trace', 'handoff', 'fit']) {
      await goToView(browser, view);
    }
    expect(await heapMegabytes()).toBeLessThan(300);
    expect(await browser.errors()).toEqual([]);
  });

  it('refuses what would not open again, beside its field, and keeps what was typed', async () => {
    await openLed();
    await browser.say('tolerance', '200 %');
    await browser.shows('[data-testid=hint]', 'The frequency tolerance must be 100 % or less.');
    expect(await browser.text('[data-token=tolerance]')).toBe('200 %');
    const opposite = await browser.find('input[aria-label=complement]');
    await opposite.click();
    await opposite.sendKeys(Key.chord(Key.CONTROL, 'a'), 'PB2, 2 s apart', Key.ENTER);
    await browser.shows('[data-testid=hint]', 'The dead time in s must be 1 or less');
    await browser.driver.navigate().refresh();
    await browser.find('[data-testid=wave]');
    expect(await browser.text('input[aria-label=complement]')).toBe('none');
  });

  it('is stored by the time it is shown: a reload at that moment loses nothing', async () => {
    await openLed();
    for (let hz = 2; hz < 12; hz += 1) {
      // Reloads in the same task in which the screen changes.
      await browser.driver.executeAsyncScript(
        `const [text, done] = arguments;
         const field = document.querySelector('[data-token=frequency]');
         field.focus();
         Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(field, text);
         field.dispatchEvent(new Event('input', { bubbles: true }));
         const figures = document.querySelector('section[aria-label="Pulse window"]');
         new MutationObserver(() => { location.reload(); done(); })
           .observe(figures, { subtree: true, childList: true, attributes: true, characterData: true });
         setTimeout(() => field.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true })), 50);`,
        `${hz} Hz`,
      );
      await browser.wait(
        async () => (await browser.text('[data-token=frequency]')) === `${hz} Hz`,
        `${hz} Hz was lost`,
      );
    }
  });
});

describe('a worker', () => {
  it('that is ended is noticed, said and replaced, and its question answered', async () => {
    const end = await beforePages(
      'const Plain = Worker; window.made = [];' +
        'window.Worker = class extends Plain { constructor(...given) { super(...given); window.made.push(this); } };' +
        FAST_CLOCK,
    );
    await openLed();
    await browser.driver.executeScript('window.made.forEach((worker) => worker.terminate());');
    await browser.say('frequency', '3 Hz');
    await browser.wait(
      async () =>
        (await browser.text('[data-token=frequency]')) === '3 Hz' &&
        (await browser.text('main')).includes('was started again'),
      'the edit was not taken up again',
    );
    await end();
  });
});

describe('the storage', () => {
  it.each([
    [
      'is missing',
      'Object.defineProperty(window, "indexedDB", { value: undefined });',
      'it has no storage for pages',
    ],
    [
      'throws',
      'IDBFactory.prototype.open = () => { throw new DOMException("storage is blocked", "SecurityError"); };',
      'storage is blocked',
    ],
    [
      'never answers',
      `IDBFactory.prototype.open = () => new EventTarget();${FAST_CLOCK}`,
      'it does not answer',
    ],
  ])('that %s is said from the start, and everything works in memory', async (_, script, reason) => {
    const end = await beforePages(script);
    await browser.driver.get(served.address);
    await browser.wait(
      async () => (await browser.text('main [role=alert]')).includes(reason),
      'nothing was said',
    );
    await (await browser.find('section[aria-label=Begin] button')).click();
    await browser.find('[data-testid=wave]');
    await browser.say('frequency', '2 kHz');
    await browser.shows('[data-token=frequency]', '2');
    await (await browser.find('button[aria-label=Undo]:not([disabled])')).click();
    await (await browser.find('nav a[href="/"], a[href="/"]')).click();
    await browser.shows('section[aria-label="Stored plans"]', 'Greenhouse bench');
    await end();
  });
});

describe('another tab', () => {
  it('shows edits at once, edits of both are kept, and a deleted plan can be kept', async () => {
    const address = await openLed();
    const first = await browser.driver.getWindowHandle();
    await browser.driver.switchTo().newWindow('tab');
    const second = await browser.driver.getWindowHandle();
    await browser.size(1280, 800);
    await openSignal(address, 'mist-pump');
    await browser.say('frequency', '7 Hz');
    await browser.shows('[data-token=frequency]', '7 Hz');
    await browser.driver.switchTo().window(first);
    await browser.say('frequency', '5 Hz');
    await browser.shows('[data-token=frequency]', '5 Hz');
    await openSignal(address, 'mist-pump');
    expect(await browser.text('[data-token=frequency]')).toBe('7 Hz');
    await browser.driver.switchTo().window(second);
    await browser.driver.get(served.address);
    await (await browser.button('delete')).click();
    const rows = async (): Promise<number> =>
      (await browser.driver.findElements({ css: 'section[aria-label="Stored plans"] li' })).length;
    const before = await rows();
    await (await browser.button('delete for good?')).click();
    await browser.wait(async () => (await rows()) < before, 'nothing was deleted');
    await browser.driver.close();
    await browser.driver.switchTo().window(first);
    await browser.shows('main', 'This plan was deleted in another tab.');
    await (await browser.button('store it again')).click();
    await browser.driver.navigate().refresh();
    await browser.find('[data-testid=wave]');
    expect(await browser.text('[data-token=frequency]')).toBe('7 Hz');
  });
});

/** For how long two tabs edit one plan; HZ_TABS lets them go on for longer. */
const TABS_S = Number(process.env['HZ_TABS'] ?? 6);

describe('two tabs', () => {
  it(
    'that edit one plan all the time lose nothing',
    async () => {
      const address = await openLed();
      // Every half second the next frequency is typed into the open signal; the page keeps the last one that it showed.
      const typing = `
      window.typed = 1;
      window.timer = setInterval(() => {
        const field = document.querySelector('[data-token=frequency]');
        if (!field) return;
        window.typed += 1;
        field.focus();
        Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(field, window.typed + ' Hz');
        field.dispatchEvent(new Event('input', { bubbles: true }));
        setTimeout(() => field.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true })), 30);
      }, 500);`;
      const first = await browser.driver.getWindowHandle();
      await browser.driver.executeScript(typing);
      await browser.driver.switchTo().newWindow('tab');
      const second = await browser.driver.getWindowHandle();
      await browser.size(1280, 800);
      await openSignal(address, 'mist-pump');
      await browser.driver.executeScript(typing);
      await browser.driver.sleep(TABS_S * 1000);
      const last = async (tab: string): Promise<string> => {
        await browser.driver.switchTo().window(tab);
        const typed = await browser.driver.executeScript<number>(
          'clearInterval(window.timer); return window.typed;',
        );
        expect(typed).toBeGreaterThan(2);
        // The period of the waveform in ms tells when the last edit is done.
        const shown = async (): Promise<number> =>
          Number.parseFloat(await browser.text('[data-testid=figures]'));
        await browser.wait(
          async () => Math.round(1000 / (await shown())) === typed,
          `the waveform does not show ${typed} Hz`,
        );
        expect(await browser.text('main [role=alert]')).toBe('');
        return `${typed} Hz`;
      };
      const pump = await last(second);
      await browser.driver.close();
      const led = await last(first);
      await openSignal(address, 'status-led');
      expect(await browser.text('[data-token=frequency]')).toBe(led);
      await openSignal(address, 'mist-pump');
      expect(await browser.text('[data-token=frequency]')).toBe(pump);
      expect(await heapMegabytes()).toBeLessThan(300);
    },
    60_000 + TABS_S * 1000,
  );
});

describe('the server', () => {
  it('answers with a strict policy, to hosts that are expected', async () => {
    const page = await fetch(served.address);
    const policy = page.headers.get('content-security-policy') ?? '';
    expect(policy).toMatch(/script-src 'self' 'nonce-[\w+/=]+' 'strict-dynamic'/);
    expect(policy).toContain("default-src 'none'");
    expect(policy).toContain("frame-ancestors 'none'");
    expect(policy.replace(/style-src-attr [^;]*/, '')).not.toContain('unsafe');
    expect(page.headers.get('x-content-type-options')).toBe('nosniff');
    expect(page.headers.get('referrer-policy')).toBe('no-referrer');
    expect(page.headers.get('permissions-policy')).toContain('camera=()');
    const { port } = new URL(served.address);
    const statusFor = (host: string): Promise<number | undefined> =>
      new Promise((resolve, reject) => {
        request({ host: '127.0.0.1', port, headers: { host } }, (answer) => {
          answer.resume();
          resolve(answer.statusCode);
        })
          .on('error', reject)
          .end();
      });
    expect(await statusFor(`localhost:${port}`)).toBe(200);
    expect(await statusFor('elsewhere.example')).toBe(421);
    const again = await fetch(served.address);
    expect(again.headers.get('content-security-policy')).not.toBe(policy);
  });
});

describe('a file', () => {
  it('of a plan with names that mean harm runs nothing and is shown as it is', async () => {
    const name = '<img src=x onerror=alert(1)>*/ int evil; /*';
    const file = join(browser.downloads, 'harm.plan.json');
    const demo = JSON.parse(readFileSync('examples/greenhouse.plan.json', 'utf8')) as object;
    const plan = {
      ...demo,
      name: name.slice(0, 120),
      clock: undefined,
      pinNames: {},
      signals: [{ id: 'a', name, kind: 'blink', target: { frequencyHz: 1 } }],
    };
    writeFileSync(file, JSON.stringify(plan));
    await browser.driver.get(served.address);
    await (await browser.find('input[type=file][aria-label="Plan file"]')).sendKeys(file);
    await browser.find('[data-testid=wave]');
    await goToView(browser, 'handoff');
    await showsCode(browser, '* / int evil; / *');
    expect(await shownCode(browser)).not.toContain('*/ int evil');
    expect(await browser.errors()).toEqual([]);
  });
});
