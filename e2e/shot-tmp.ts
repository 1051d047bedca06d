import { writeFileSync } from 'node:fs';
import { openBrowser } from './support/browser.ts';
import { serve } from './support/server.ts';
const served = await serve();
const browser = await openBrowser();
const wait = (ms: number) => new Promise((r) => setTimeout(r, ms));
try {
  await browser.size(1280, 800);
  await browser.driver.get(served.address);
  await (await browser.find('section[aria-label=Begin] button')).click();
  await browser.find('[data-testid=landscape]');
  await wait(600);
  const add = async (text: string) => {
    for (const button of await browser.driver.findElements({ xpath: "//button[contains(., '+ signal')]" })) {
      await button.click();
      break;
    }
    await wait(300);
    await (await browser.driver.findElement({ xpath: `//li[contains(., '${text}')]` })).click();
    await wait(1200);
  };
  await add('blinks once');
  await add('a tick of');
  await add('to measure');
  writeFileSync('/tmp/shot1.png', await browser.picture());
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
