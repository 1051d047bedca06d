import { By, error } from 'selenium-webdriver';
import type { Browser } from './browser.ts';

/** What a click meets where the page is drawn again meanwhile, or something lies above. */
const MISSED = [
  error.StaleElementReferenceError,
  error.ElementClickInterceptedError,
  error.ElementNotInteractableError,
];

/** Clicks the first element that is found; gives whether there was one that took the click. */
async function clicked(browser: Browser, wanted: By): Promise<boolean> {
  try {
    const [found] = await browser.driver.findElements(wanted);
    await found?.click();
    return found !== undefined;
  } catch (caught) {
    if (MISSED.some((kind) => caught instanceof kind)) return false;
    throw caught;
  }
}

/** Clicks what is found, found anew until it takes the click. */
export async function press(browser: Browser, wanted: By, otherwise?: string): Promise<void> {
  await browser.wait(() => clicked(browser, wanted), otherwise);
}

/**
 * Goes to the list of plans by the link of the page that is open, as users do. The page is loaded where that has no link: when
 * nothing of the application is open yet, or something lies above the link.
 */
export async function goHome(browser: Browser, address: string): Promise<void> {
  const here = await browser.driver.getCurrentUrl();
  const open = here.startsWith(`${address}/plans/`);
  if (!open || !(await clicked(browser, By.css('nav a[aria-label="All plans"]'))))
    await browser.driver.get(address);
  await browser.find('section[aria-label=Begin] button');
}

/** Goes to a view of the plan that is open, by its link. */
export async function goToView(browser: Browser, view: string): Promise<void> {
  await press(browser, By.css(`nav a[href*="/${view}"]`), `no link to ${view}`);
  await browser.find(`nav a[aria-current=page][href*="/${view}"]`);
}

/** Chooses a signal of the plan that is open in the Fit view, by its tab. */
export async function chooseSignal(browser: Browser, name: string): Promise<void> {
  const tab = (more: string): string => `//button[@role='tab'][contains(., '${name}')]${more}`;
  const chosen = By.xpath(tab("[@aria-selected='true']"));
  await press(browser, By.xpath(tab('')), `no tab of ${name}`);
  await browser.wait(
    async () => (await browser.driver.findElements(chosen)).length > 0,
    `${name} is not chosen`,
  );
}

/** Opens a copy of the demo whose card has the name in it. */
async function begin(browser: Browser, address: string, name: string): Promise<void> {
  await goHome(browser, address);
  const button = `//section[@aria-label='Begin']//button[contains(., '${name}')]`;
  await press(browser, By.xpath(button), `no demo ${name}`);
}

/** The address of the open page without what it has chosen. */
async function place(browser: Browser): Promise<string> {
  return (await browser.driver.getCurrentUrl()).split('?')[0] ?? '';
}

/** Opens a copy of the first demo, the greenhouse, in the Fit view; gives its address without the chosen signal. */
export async function openGreenhouse(browser: Browser, address: string): Promise<string> {
  await begin(browser, address, 'Greenhouse');
  await browser.find('[data-testid=wave]');
  return place(browser);
}

/** Opens a copy of the second demo, the buoy, in the Fit view; gives its address without the chosen signal. */
export async function openBuoy(browser: Browser, address: string): Promise<string> {
  await begin(browser, address, 'buoy');
  await browser.find('[data-testid=landscape]');
  return place(browser);
}

/** Opens a copy of the demo of a name, in its first view. */
export async function openDemo(browser: Browser, address: string, name: string): Promise<void> {
  await begin(browser, address, name);
  await browser.find('[data-testid=pulse]');
}
