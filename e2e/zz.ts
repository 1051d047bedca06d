import { writeFileSync } from 'node:fs';
import { openBrowser } from './support/browser.ts';
import { serve } from './support/server.ts';
const served = await serve();
const browser = await openBrowser();
const wait = (ms: number) => new Promise((r) => setTimeout(r, ms));
try {
  await browser.driver.get(served.address);
  const buttons = await browser.driver.findElements({ css: 'section[aria-label=Begin] button' } as never);
  for (const b of buttons) if ((await b.getText()).includes('Tower')) { await b.click(); break; }
  await wait(2500);
  const url = await browser.driver.getCurrentUrl();
  await browser.driver.get(url.replace(/\/(fit|plan)(\?|$)/, '/interrupts$2'));
  await wait(3000);
  writeFileSync('/tmp/i1.png', await browser.picture());
  await browser.driver.get(served.address);
  await (await browser.find('input[type=file]')).sendKeys('/tmp/pair.plan.json');
  await wait(3000);
  const url2 = await browser.driver.getCurrentUrl();
  await browser.driver.get(url2.replace(/\/(fit|plan)(\?|$)/, '/interrupts$2'));
  await wait(2500);
  const c = await browser.find('[data-testid=timeline]');
  await c.sendKeys('w');
  await wait(800);
  writeFileSync('/tmp/i2.png', await browser.picture());
} finally { await browser.driver.quit(); served.stop(); }
