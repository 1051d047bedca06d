import { writeFileSync } from 'node:fs';
import { Key } from 'selenium-webdriver';
import { openBrowser } from './support/browser.ts';
import { serve } from './support/server.ts';
const served = await serve();
const browser = await openBrowser();
const wait = (ms: number) => new Promise((r) => setTimeout(r, ms));
const shot = async (n: string) => { await wait(700); writeFileSync(`/tmp/${n}.png`, await browser.picture()); };
const errs = async (w: string) => console.log(w, await browser.errors());
const add = async (text: string) => {
  const plus = await browser.driver.findElement({ xpath: "//button[normalize-space()='+ signal']" });
  await plus.click(); await wait(300);
  const item = await browser.driver.findElement({ xpath: `//li[contains(., "${text}")]` });
  await item.click(); await wait(1500);
};
try {
  await browser.driver.get(served.address);
  await (await browser.find('section[aria-label=Begin] button')).click();
  await browser.find('[data-testid=landscape]');
  await add('servo'); await shot('a-servo'); await errs('servo');
  await add('strobe'); await shot('a-strobe'); await errs('strobe');
  await add('tick of'); await shot('a-tick'); await errs('tick');
  await add('level'); await shot('a-level'); await errs('level');
  await add('string'); await shot('a-string'); await errs('string');
  await (await browser.find('[role=tab][aria-selected=false]')).click(); await wait(500);
  const url = await browser.driver.getCurrentUrl();
  await browser.driver.get(url.split('?')[0] + '?signal=tick'); await wait(1500);
  const read = await browser.driver.findElement({ xpath: "//button[contains(., 'read code')]" });
  await read.click(); await wait(400);
  const area = await browser.find('textarea');
  await area.sendKeys('TCCR2A = 2; TCCR2B = 3; OCR2A = 249; TIMSK2 = (1 << OCIE2A);');
  await shot('a-code'); await errs('code');
  await area.sendKeys(Key.ESCAPE);
  await browser.driver.get(url.split('?')[0].replace('/fit','/plan')); await shot('a-plan');await errs('plan');
  await browser.driver.get(url.split('?')[0].replace('/fit','/handoff')); await shot('a-handoff');await errs('handoff');
} finally { await browser.close(); await served.stop(); }
