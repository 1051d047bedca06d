import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  Builder,
  By,
  error,
  Key,
  logging,
  until,
  type Condition,
  type WebDriver,
  type WebElement,
} from 'selenium-webdriver';
import { Options, ServiceBuilder, type Driver } from 'selenium-webdriver/chrome';

const FLAGS = [
  '--headless=new',
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--force-color-profile=srgb',
];

const WAIT = 80000;

/** Milliseconds between two looks at a condition that is waited for. */
const LOOK = 50;

/** Waits in the page, for a part of the whole time, until an element is there and contains a text; gives the element. */
const THERE = `
  const [css, wanted, done] = arguments;
  const end = Date.now() + 1000;
  const look = () => {
    const found = document.querySelector(css);
    const text = found && (found.matches('input, select, textarea') ? found.value : found.textContent);
    if (found && text.replace(/[\u202f\u00a0]/g, ' ').includes(wanted)) done(found);
    else if (Date.now() > end) done(null);
    else setTimeout(look, 15);
  };
  look();`;

type Until<T> = Condition<T> | ((driver: WebDriver) => T | PromiseLike<T>);

/** A browser with what the tests do with it; downloads go to a directory of its own. */
export type Browser = {
  driver: WebDriver;
  downloads: string;
  /** Waits until a condition gives something that is true; fails with a sentence after a time. */
  wait: <T>(condition: Until<T>, otherwise?: string) => Promise<T>;
  size: (width: number, height: number) => Promise<void>;
  find: (css: string) => Promise<WebElement>;
  text: (css: string) => Promise<string>;
  button: (name: string) => Promise<WebElement>;
  /** Sets a token of the sentence, as a person does: focus, type, Enter. */
  say: (token: string, text: string) => Promise<void>;
  /** Waits until the element's text or value contains the wanted text. */
  shows: (css: string, wanted: string) => Promise<void>;
  /** Sets the colours that the system prefers, light or dark, and waits until the page shows them. */
  prefers: (scheme: string) => Promise<void>;
  picture: () => Promise<Buffer>;
  /** Addresses of all requests since the last call, of a browser that was opened to note them. */
  requests: () => Promise<string[]>;
  /** Errors in the console since the last call. */
  errors: () => Promise<string[]>;
  /** Forgets what an origin has stored and what was downloaded, as if the browser were new. */
  forget: (origin: string) => Promise<void>;
  /** Ends the browser's process as a crash would. */
  kill: () => Promise<void>;
  close: () => Promise<void>;
};

/** Starts Debian's Chromium, headless, with an empty profile, or with one that is `kept` when it is closed. */
export async function openBrowser({
  kept,
  requests = false,
}: { kept?: string; requests?: boolean } = {}): Promise<Browser> {
  const profile = kept ?? mkdtempSync(join(tmpdir(), 'profile-'));
  const downloads = mkdtempSync(join(tmpdir(), 'downloads-'));
  const options = new Options();
  options.setChromeBinaryPath('/usr/bin/chromium');
  options.addArguments(...FLAGS, `--user-data-dir=${profile}`);
  options.setUserPreferences({
    'download.default_directory': downloads,
    'profile.default_content_setting_values.automatic_downloads': 1,
  });
  const logs = new logging.Preferences();
  logs.setLevel(logging.Type.BROWSER, logging.Level.SEVERE);
  if (requests) logs.setLevel(logging.Type.PERFORMANCE, logging.Level.ALL);
  options.setLoggingPrefs(logs);
  const driver = (await new Builder()
    .forBrowser('chrome')
    .setChromeOptions(options)
    .setChromeService(new ServiceBuilder('/usr/bin/chromedriver'))
    .build()) as Driver;

  const wait: Browser['wait'] = (condition, otherwise) => driver.wait(condition, WAIT, otherwise, LOOK);
  const size = async (width: number, height: number): Promise<void> => {
    await driver.sendDevToolsCommand('Emulation.setDeviceMetricsOverride', {
      width,
      height,
      deviceScaleFactor: 1,
      mobile: false,
    });
  };
  const there = (css: string, wanted: string, otherwise: string): Promise<WebElement> =>
    wait(async () => {
      try {
        return await driver.executeAsyncScript<WebElement | null>(THERE, css, wanted);
      } catch (caught) {
        // The page was left while it was looked at.
        if (caught instanceof error.JavascriptError) return null;
        throw caught;
      }
    }, otherwise) as Promise<WebElement>;
  const find = (css: string): Promise<WebElement> => there(css, '', `no ${css}`);
  const read = async (css: string): Promise<string> => {
    const script =
      'const e = document.querySelector(arguments[0]);' +
      'return e && (e.matches("input, select, textarea") ? e.value : e.textContent);';
    return ((await driver.executeScript<string | null>(script, css)) ?? '').replace(/[\u202f\u00a0]/g, ' ');
  };
  await size(1280, 800);

  return {
    driver,
    downloads,
    wait,
    size,
    find,
    text: read,
    button: (name) =>
      wait(until.elementLocated(By.xpath(`//button[normalize-space()='${name}']`)), `no button ${name}`),
    say: async (token, text) => {
      const field = await find(`[data-token="${token}"]`);
      await field.click();
      await field.sendKeys(Key.chord(Key.CONTROL, 'a'), text, Key.ENTER);
    },
    shows: async (css, wanted) => {
      await there(css, wanted, `${css} does not show “${wanted}”`);
    },
    prefers: async (scheme) => {
      await driver.sendDevToolsCommand('Emulation.setEmulatedMedia', {
        features: [{ name: 'prefers-color-scheme', value: scheme }],
      });
      const shown = `return document.documentElement.dataset.scheme === "${scheme}"`;
      await wait(() => driver.executeScript<boolean>(shown), `the page does not turn ${scheme}`);
      const still = 'return document.getAnimations().every(({ playState }) => playState !== "running")';
      await wait(() => driver.executeScript<boolean>(still), 'the page keeps moving');
    },
    picture: async () => Buffer.from(await driver.takeScreenshot(), 'base64'),
    requests: async () => {
      const entries = await driver.manage().logs().get(logging.Type.PERFORMANCE);
      return entries.flatMap(({ message }) => {
        const { method, params } = (
          JSON.parse(message) as { message: { method: string; params: { request?: { url: string } } } }
        ).message;
        return method === 'Network.requestWillBeSent' && params.request ? [params.request.url] : [];
      });
    },
    errors: async () =>
      (await driver.manage().logs().get(logging.Type.BROWSER)).map((entry) => entry.message),
    forget: async (origin) => {
      await driver.get('about:blank');
      await driver.sendDevToolsCommand('Storage.clearDataForOrigin', { origin, storageTypes: 'all' });
      for (const name of readdirSync(downloads)) rmSync(join(downloads, name));
    },
    kill: async () => {
      const pid = Number((await driver.getCapabilities()).get('goog:processID'));
      process.kill(pid, 'SIGKILL');
      rmSync(downloads, { recursive: true, force: true });
      // The driver's own process is still there; it finds no browser to end.
      await driver.quit().catch(() => undefined);
    },
    close: async () => {
      await driver.quit();
      const made = kept === undefined ? [profile, downloads] : [downloads];
      for (const directory of made) rmSync(directory, { recursive: true, force: true });
    },
  };
}
