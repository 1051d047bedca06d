import { writeFileSync } from 'node:fs';
import { openBrowser } from './support/browser.ts';
import { serve } from './support/server.ts';
const served = await serve();
const browser = await openBrowser();
const wait = (ms: number) => new Promise((r) => setTimeout(r, ms));
try {
  await browser.size(1280, 800);
  await browser.driver.get(served.address);
  await (await browser.button('New plan')).click();
  await (await browser.find('[data-part=atmega328p]')).click();
  const add = async (button: string, text: string) => {
    await (await browser.button(button)).click();
    await wait(300);
    await (await browser.driver.findElement({ xpath: `//li[contains(., '${text}')]` })).click();
    await wait(1200);
  };
  await add('Add a signal', 'blinks once');
  await add('+ signal', 'a tick of');
  const url = await browser.driver.getCurrentUrl();
  await browser.driver.get(url.replace('/fit', '/plan'));
  await wait(1500);
  await (await browser.driver.findElement({ xpath: "//button[contains(., 'one tick')]" })).click();
  await wait(1200);
  writeFileSync('/tmp/shot2.png', await browser.picture());
} finally {
  await browser.close();
  await served.stop();
}
