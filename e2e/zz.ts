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
  await (await browser.driver.findElements({ css: 'section[aria-label=Begin] button' }))[0]?.click();
  await browser.find('[data-testid=landscape]');
  const url = (await browser.driver.getCurrentUrl()).split('?')[0]!.replace('/fit','/plan');
  await browser.driver.get(url);
  const say = await browser.find('textarea[aria-label="Add a signal"]');
  await say.sendKeys('bilge pump bliks twice a second on PB9 5 s');
  await snap('typing');
  await say.sendKeys(Key.chord(Key.CONTROL, 'a'), '10 ms', Key.chord(Key.SHIFT, Key.ENTER), 'deck fan 25 kHz ±2 % 40 % in 8 bit', Key.chord(Key.SHIFT, Key.ENTER), 'winch motor 40 %');
  await snap('lines');
  await say.sendKeys(Key.ENTER);
  await browser.driver.sleep(1500);
  await snap('after');
} finally { await browser.close?.(); await served.stop(); process.exit(0); }
