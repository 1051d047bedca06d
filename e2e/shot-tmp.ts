import { writeFileSync } from 'node:fs';
import { openBrowser } from './support/browser.ts';
const b = await openBrowser();
const pause = (ms: number) => new Promise((r) => setTimeout(r, ms));
try {
  await b.driver.get(process.argv[2]!);
  await b.find('main');
  await pause(800);
  await (await b.button('New plan')).click();
  await (await b.button('Add a signal')).click();
  await pause(300);
  const items = await b.driver.findElements({ css: 'li[role=menuitem]' });
  console.log(items.length);
  await items[0]!.click();
  await pause(1500);
  writeFileSync('/tmp/s-x.png', await b.picture());
  console.log(await b.driver.getCurrentUrl(), await b.errors());
  await b.driver.get(process.argv[2]!);
  await b.find('main');
  await pause(500);
  await (await b.find('section[aria-label=Begin] button')).click();
  await b.find('[data-testid=wave]');
  await b.driver.executeScript('document.activeElement.blur()');
  await b.driver.actions().sendKeys('5').perform();
  await pause(1500);
  console.log(await b.driver.getCurrentUrl(), await b.errors());
  writeFileSync('/tmp/s-y.png', await b.picture());
} finally {
  await b.close();
}
