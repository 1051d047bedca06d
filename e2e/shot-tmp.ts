import { writeFileSync } from 'node:fs';
import { openBrowser } from './support/browser.ts';
import { benchCapture } from './support/bench-capture.ts';
import { serve } from './support/server.ts';
const file = benchCapture();
const served = await serve();
const browser = await openBrowser();
const wait = (ms: number) => new Promise((r) => setTimeout(r, ms));
try {
  await browser.size(1280, 800);
  await browser.driver.get(served.address);
  await (await browser.find('section[aria-label=Begin] button')).click();
  await browser.find('[data-testid=landscape]');
  await wait(600);
  const url = await browser.driver.getCurrentUrl();
  await browser.driver.get(url.replace('/fit', '/trace'));
  await wait(800);
  await (await browser.find('[data-testid=capture-file]')).sendKeys(file);
  await wait(1500);
  await (await browser.find('[data-lane=grow-light]')).click();
  await wait(300);
  await (await browser.button('next glitch')).click();
  await wait(800);
  writeFileSync('/tmp/shot1.png', await browser.picture());
  console.log(await browser.errors());
} finally {
  await browser.close();
  await served.stop();
}
