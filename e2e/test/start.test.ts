import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import type { Driver } from 'selenium-webdriver/chrome';
import { findings } from '../support/axe.ts';
import { openBrowser, type Browser } from '../support/browser.ts';
import { showsCode } from '../support/code.ts';
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
beforeEach(async () => {
  await browser.forget(served.address);
  await browser.driver.get(served.address);
  await browser.find('select[aria-label=Part] option');
});

const SAY = 'textarea[aria-label="What the pins should do"]';

function press(...keys: string[]): Promise<void> {
  return browser.driver
    .actions()
    .sendKeys(...keys)
    .perform();
}

function newLine(): Promise<void> {
  return browser.driver.actions().keyDown(Key.SHIFT).sendKeys(Key.ENTER).keyUp(Key.SHIFT).perform();
}

/** What has the focus: its name for a screen reader, or its text. */
function focused(): Promise<string> {
  return browser.driver.executeScript(
    'const e = document.activeElement; return e.getAttribute("aria-label") ?? e.textContent.trim();',
  );
}

/** Presses Tab until something has the focus. */
async function tabTo(name: string): Promise<void> {
  for (let n = 0; n < 80; n += 1) {
    if ((await focused()) === name) return;
    await press(Key.TAB);
  }
  throw new Error(`Tab never comes to “${name}”`);
}

/** Roles and names as a screen reader is told them. */
async function tree(): Promise<string[]> {
  const { nodes } = (await (browser.driver as Driver).sendAndGetDevToolsCommand(
    'Accessibility.getFullAXTree',
    {},
  )) as unknown as { nodes: { ignored: boolean; role?: { value: string }; name?: { value: string } }[] };
  return nodes
    .filter(({ ignored }) => !ignored)
    .map(({ role, name }) => `${role?.value ?? ''} ${name?.value ?? ''}`.trim());
}

const WISHES = [
  'status LED blinks twice a second',
  'deck fan 25 kHz ±2 % in 8 bit, 40 %',
  'rudder servo 1 to 2 ms at 50 Hz',
  'buzzer 2 kHz',
];

describe('the first five minutes', () => {
  it('from an empty browser to C code by keyboard alone, told to a screen reader all the way', async () => {
    const started = Date.now();
    await tabTo('Part');
    await press('STM');
    await browser.shows('select[aria-label=Part]', 'stm32f401');
    expect(await tree()).toEqual(
      expect.arrayContaining([
        'heading Herzschlag',
        'heading What should the pins do?',
        'combobox Part',
        'textbox What the pins should do',
        'button New plan',
        'link Guide and glossary',
      ]),
    );
    await tabTo('What the pins should do');
    for (const [at, wish] of WISHES.entries()) {
      if (at > 0) await newLine();
      await press(wish);
    }
    await browser.shows('section[aria-label="Say it"]', 'Buzzer on any pin sounds 2 000 Hz');
    expect(await tree()).toContain('list What this becomes');
    await press(Key.ENTER);
    await browser.find('button[data-signal=buzzer]');
    expect(await browser.driver.findElements({ css: 'button[data-signal]' })).toHaveLength(4);

    await tabTo('Assign timers');
    await press(Key.ENTER);
    await browser.shows('[data-testid=assignment]', 'All 4 signals fit');
    expect(await tree()).toEqual(expect.arrayContaining(['dialog Assign timers', 'button Apply']));
    await tabTo('Apply');
    await press(Key.ENTER);
    await browser.shows('[data-testid=pulse]', '13 of 13 pass');

    await press('5');
    await showsCode(browser, 'TIM');
    expect(await tree()).toEqual(expect.arrayContaining(['button Save', 'link Hand-off, key 5']));
    await tabTo('Save');
    await press(Key.ENTER);
    await browser.wait(
      () => readdirSync(browser.downloads).some((name) => /\.[ch]$/.test(name)),
      'no C file was saved',
    );
    const [file = ''] = readdirSync(browser.downloads);
    expect(readFileSync(join(browser.downloads, file), 'utf8')).toContain('Deck fan');
    expect(Date.now() - started).toBeLessThan(90_000);
  });

  it('says of each word what it was taken for, keeps what it asks about, and offers two readings', async () => {
    const field = await browser.find(SAY);
    await field.sendKeys('bilge pump bliks twice a second 5 s');
    await browser.shows('[data-testid=marked]', '5 s (not understood)');
    await browser.shows('section[aria-label="Say it"]', '“bliks” read as “blinks”');
    expect(await findings(browser)).toEqual([]);
    await field.sendKeys(Key.chord(Key.CONTROL, 'a'), '10 ms');
    await browser.find('[aria-pressed=true]');
    await browser.shows('[aria-pressed=true]', 'Tick ticks at 10 ms');
    await field.sendKeys(Key.ARROW_DOWN);
    await browser.shows('[aria-pressed=true]', 'Lamp on any pin blinks at 10 ms');
    await field.sendKeys(Key.chord(Key.CONTROL, 'a'), 'motor 40 %', Key.ENTER);
    await browser.shows('section[aria-label="Say it"]', 'At what frequency?');
    expect(await browser.text(SAY)).toBe('motor 40 %');
  });

  it('finds parts by what they must do, and begins a plan with that', async () => {
    await (await browser.button('New plan')).click();
    await (await browser.find('input[aria-label^="Part, or what"]')).sendKeys('four servos and a tone');
    await browser.shows('[data-part=atmega328p]', '✓ does all 5');
    await (await browser.find('[data-part=atmega328p]')).click();
    await browser.find('[data-testid=landscape]');
    expect(await browser.driver.getCurrentUrl()).toContain('/fit');
    await browser.shows('main', 'Servo 4');
  });
});

describe('a part from a file', () => {
  it('is kept, listed after a reload, begins plans, and can be taken from the list', async () => {
    await (await browser.button('New plan')).click();
    await (
      await browser.find('[data-testid=part-file]')
    ).sendKeys(join(process.cwd(), 'examples/quill8.part.json'));
    await browser.wait(async () => (await browser.driver.getCurrentUrl()).includes('/plans/'));
    await browser.driver.get(served.address);
    await browser.find('select[aria-label=Part] option[value="file quill8"]');
    await browser.driver.findElement({ css: 'option[value="file quill8"]' }).click();
    await (await browser.find(SAY)).sendKeys('lamp blinks once a second', Key.ENTER);
    await browser.wait(async () => (await browser.driver.getCurrentUrl()).includes('/plans/'));
    await browser.shows('[data-testid=clock]', 'Quill8 · 12 MHz crystal');
    await browser.driver.get(served.address);
    await (await browser.button('New plan')).click();
    await browser.shows('[data-part=quill8]', 'from a file');
    await (await browser.button('remove')).click();
    await browser.wait(
      async () => (await browser.driver.findElements({ css: '[data-part=quill8]' })).length === 0,
    );
    expect(await browser.errors()).toEqual([]);
  });
});

describe('help', () => {
  it('“?” lists the keys, and the guide has all its pages and pictures', async () => {
    await press('?');
    await browser.shows('[role=dialog]', 'the next value the hardware can make');
    await press(Key.ESCAPE);
    await browser.driver.get(`${served.address}/guide`);
    await browser.shows('main', 'From a wish to a verdict in eight steps');
    const pictures = await browser.driver.executeScript<number[]>(
      'return Promise.all([...document.images].map((one) => one.decode().then(() => one.naturalWidth, () => 0)));',
    );
    expect(pictures.length).toBeGreaterThan(4);
    expect(pictures.every((width) => width > 0)).toBe(true);
    expect(await findings(browser)).toEqual([]);
    for (const page of ['plan', 'fit', 'trace', 'interrupts', 'handoff', 'glossary']) {
      await (await browser.find(`nav a[href="/guide/${page}"]`)).click();
      await browser.wait(async () => (await browser.driver.getCurrentUrl()).endsWith(page));
      await browser.find('main h1');
    }
    expect(await browser.errors()).toEqual([]);
  });

  it('each figure says how it comes about', async () => {
    await (await browser.driver.findElements({ css: 'section[aria-label=Begin] button' }))[0]?.click();
    await browser.find('[data-testid=landscape]');
    await (await browser.find('[data-testid=error]')).click();
    await browser.shows('[data-testid=explained]', '16 MHz ÷ 32 ÷ ( 216 + 1 )');
    await browser.shows('[data-testid=explained]', 'register OCR2A');
    await press(Key.ESCAPE);
  });
});

describe('a backup', () => {
  it('holds every plan with its history, and brings it back into an empty browser', async () => {
    for (const demo of [0, 2]) {
      await (await browser.driver.findElements({ css: 'section[aria-label=Begin] button' }))[demo]?.click();
      await browser.find('[data-testid=landscape]');
      if (demo === 0) {
        await browser.say('frequency', '2200');
        await browser.shows('[data-token=frequency]', '2 200 Hz');
      }
      await browser.driver.get(served.address);
      await browser.find('section[aria-label="Stored plans"] li');
    }
    await (await browser.button('Save a backup')).click();
    await browser.shows('[role=status]', 'A backup of 2 plans was saved.');
    const name = await browser.wait(() =>
      readdirSync(browser.downloads).find((one) => one.endsWith('.backup.json')),
    );
    const other = await openBrowser();
    try {
      await other.driver.get(served.address);
      const input = await other.find('[data-testid=backup-file]');
      await input.sendKeys(join(browser.downloads, name ?? ''));
      await other.shows('[role=status]', '2 plans restored.');
      const rows = await other.driver.findElements({ css: 'section[aria-label="Stored plans"] li' });
      expect(rows).toHaveLength(2);
      await input.sendKeys(join(browser.downloads, name ?? ''));
      await other.shows('[role=status]', '0 plans restored; 2 here already.');
      await (await other.find('section[aria-label="Stored plans"] li:last-child button')).click();
      await other.shows('[data-token=frequency]', '2 200 Hz');
      await other.driver.actions().keyDown(Key.CONTROL).sendKeys('z').keyUp(Key.CONTROL).perform();
      await other.shows('[data-token=frequency]', '2 300 Hz');
      expect(await other.errors()).toEqual([]);
    } finally {
      await other.close();
    }
  });

  it('a file that is none is refused with its place', async () => {
    await (await browser.find('[data-testid=backup-file]')).sendKeys(join(process.cwd(), 'package.json'));
    await browser.shows('[role=alert]', 'package.json: This is not a backup');
  });
});
