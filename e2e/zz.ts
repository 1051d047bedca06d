import { writeFileSync } from 'node:fs';
import { Key } from 'selenium-webdriver';
import { openBrowser } from './support/browser.ts';
import { serve } from './support/server.ts';
const served = await serve();
const browser = await openBrowser();
const snap = async (n: string) => { await browser.driver.sleep(900); writeFileSync(`/tmp/zz-${n}.png`, await browser.picture()); };
try {
  await browser.driver.get(served.address);
  await browser.find('section[aria-label=Begin] button');
  await snap('start-empty');
  for (const n of [0,1]) { await (await browser.driver.findElements({ css: 'section[aria-label=Begin] button' }))[n]?.click(); await browser.find('[data-testid=landscape]'); await browser.driver.get(served.address); await browser.find('section[aria-label=Begin] button'); }
  const say = await browser.find('textarea[aria-label="What the pins should do"]');
  await say.sendKeys('status LED blinks twice a second on PB5', Key.chord(Key.SHIFT, Key.ENTER), 'fan 25 kHz 40 % quietly');
  await snap('start-typing');
  await (await browser.button('New plan')).click();
  await (await browser.find('input[aria-label="Part, or what it must be able to do"]')).sendKeys('four servos and a tone');
  await browser.driver.sleep(9000);
  await snap('start-needs');
  await (await browser.find('[data-part] ')).click();
  await browser.driver.sleep(1500);
  await snap('start-chosen');
} finally { await browser.close(); await served.stop(); process.exit(0); }
