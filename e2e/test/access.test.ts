import { Key } from 'selenium-webdriver';
import { findings } from '../support/axe.ts';
import { benchCapture } from '../support/bench-capture.ts';
import { openBrowser, type Browser } from '../support/browser.ts';
import { chooseSignal, goHome, goToView, openBuoy, openGreenhouse } from '../support/demo.ts';
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

/** A page, or a page with one of its panels open. */
type Scene = { name: string; view: string; open: () => Promise<void> };

const press = async (name: string): Promise<void> => (await browser.button(name)).click();
const settled = (css: string) => async (): Promise<void> => {
  await browser.find(css);
};

const SCENES: readonly Scene[] = [
  { name: 'Plan', view: 'plan', open: settled('[data-conflict] button') },
  {
    name: 'Assign timers',
    view: 'plan',
    open: async () => {
      await press('Assign timers');
      await browser.find('[data-testid=assignment]');
      await press('show code changes');
      await browser.find('[data-testid=code-change]');
    },
  },
  {
    name: 'Which part?',
    view: 'plan',
    open: async () => {
      await press('Which part?');
      await browser.find('[data-part=am3358][data-fits=true]');
    },
  },
  { name: 'pin names', view: 'plan', open: () => press('pin names …') },
  { name: 'share one tick', view: 'plan', open: () => press('share one tick …') },
  {
    name: 'failing checks',
    view: 'plan',
    open: async () => (await browser.find('[data-testid=pulse]')).click(),
  },
  { name: 'Fit', view: 'fit', open: settled('[data-testid=reasons] p') },
  ...['change', 'readings', 'knob'].map((name): Scene => ({
    name: `load: ${name}`,
    view: 'fit',
    open: async () => {
      await chooseSignal(browser, 'Chart lamp');
      await browser.find('[data-testid=load-lens]');
      await press(name);
      await browser.find('[role=dialog] h2');
    },
  })),
  { name: 'decode code', view: 'fit', open: () => press('decode code …') },
  { name: 'kinds of signal', view: 'fit', open: () => press('+ signal') },
  { name: 'clock', view: 'fit', open: async () => (await browser.find('[data-testid=clock]')).click() },
  {
    name: 'Trace with a capture',
    view: 'trace',
    open: async () => {
      await (await browser.find('[data-testid=capture-file]')).sendKeys(benchCapture());
      await browser.find('[data-testid=capture]');
    },
  },
  { name: 'capture', view: 'trace', open: async () => (await browser.find('[data-testid=capture]')).click() },
  { name: 'Interrupts', view: 'interrupts', open: settled('[data-testid=timeline]') },
  { name: 'Hand-off with conflicts', view: 'handoff', open: settled('[data-testid=kept-back]') },
  {
    name: 'versions',
    view: 'handoff',
    open: async () => {
      await press('Versions …');
      await (await browser.find('input[aria-label="Name of a version"]')).sendKeys('before', Key.ENTER);
      await browser.find('[data-version="before"]');
    },
  },
  {
    name: 'differences',
    view: 'handoff',
    open: async () => {
      await press('Versions …');
      await (await browser.find('[data-version="before"] button')).click();
      await browser.find('[data-testid=diff]');
    },
  },
];

/** Moves the pointer from the links, whose names pop up beneath it. */
const pointNowhere = (): Promise<void> => browser.driver.actions().move({ x: 640, y: 2 }).perform();

/** What axe-core finds on the page as it is, by day and by night, when nothing but its colours is different. */
async function findingsOfBoth(): Promise<string[]> {
  await browser.prefers('light');
  const day = await findings(browser);
  await browser.prefers('dark');
  const night = await findings(browser, 'colours');
  return [...day, ...night.map((finding) => `by night: ${finding}`)];
}

describe('axe-core finds nothing, by day and by night,', () => {
  beforeAll(() => openBuoy(browser, served.address));

  it.each(SCENES)('on $name', async ({ view, open }) => {
    // A view that is left and entered again has nothing open.
    await goToView(browser, view === 'handoff' ? 'plan' : 'handoff');
    await goToView(browser, view);
    await pointNowhere();
    await open();
    expect(await findingsOfBoth()).toEqual([]);
    await browser.driver.actions().sendKeys(Key.ESCAPE).perform();
  });

  it('on Hand-off, the start page and the list of parts', async () => {
    await openGreenhouse(browser, served.address);
    await goToView(browser, 'handoff');
    await pointNowhere();
    await browser.find('[data-testid=code]');
    expect(await findingsOfBoth()).toEqual([]);
    await goHome(browser, served.address);
    await press('New plan');
    await browser.find('[data-part]');
    expect(await findingsOfBoth()).toEqual([]);
    await (await browser.find('[data-part=atmega328p]')).click();
    await browser.button('Add a signal');
    expect(await findingsOfBoth()).toEqual([]);
  });
});
