import type { Browser } from './browser.ts';

/** Opens the second demo, the buoy, in the Fit view; gives its address without the chosen signal. */
export async function openBuoy(browser: Browser, address: string): Promise<string> {
  await browser.driver.get(address);
  await browser.find('section[aria-label=Begin] button');
  await (await browser.driver.findElements({ css: 'section[aria-label=Begin] button' }))[1]?.click();
  await browser.find('[data-testid=landscape]');
  return (await browser.driver.getCurrentUrl()).split('?')[0] ?? '';
}

/** Opens the demo of a name, in its first view. */
export async function openDemo(browser: Browser, address: string, name: string): Promise<void> {
  await browser.driver.get(address);
  await browser.find('section[aria-label=Begin] button');
  for (const button of await browser.driver.findElements({ css: 'section[aria-label=Begin] button' })) {
    if (!(await button.getText()).includes(name)) continue;
    await button.click();
    break;
  }
  await browser.find('[data-testid=pulse]');
}
