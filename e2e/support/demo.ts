import type { Browser } from './browser.ts';

/** Opens the second demo, the buoy, in the Fit view; gives its address without the chosen signal. */
export async function openBuoy(browser: Browser, address: string): Promise<string> {
  await browser.driver.get(address);
  await browser.find('section[aria-label=Begin] button');
  await (await browser.driver.findElements({ css: 'section[aria-label=Begin] button' }))[1]?.click();
  await browser.find('[data-testid=landscape]');
  return (await browser.driver.getCurrentUrl()).split('?')[0] ?? '';
}
