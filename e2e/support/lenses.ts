import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PLAN_VERSION, loadKinds } from '@herzschlag/core';
import type { Browser } from './browser.ts';

/** A picture of the lens of every load, side by side. */
export async function lensesOf(browser: Browser, address: string): Promise<Buffer> {
  const directory = mkdtempSync(join(tmpdir(), 'lenses-'));
  try {
    const file = join(directory, 'lenses.plan.json');
    const signals = loadKinds().map(({ id, name, starter, demo }) => ({ id, name, ...demo, load: starter }));
    const clock = { source: 'crystal', sourceHz: 8_000_000, settings: { pllM: 8, pllN: 336, pllP: 4 } };
    const plan = {
      format: 'herzschlag-plan',
      version: PLAN_VERSION,
      name: 'Lenses',
      part: 'stm32f401',
      clock,
      signals,
    };
    writeFileSync(file, JSON.stringify(plan));
    await browser.driver.get(address);
    await (await browser.driver.findElement({ css: 'input[type=file]' })).sendKeys(file);
    await browser.find('[data-testid=clock]');
    const base = (await browser.driver.getCurrentUrl()).split('?')[0]?.replace(/\/(?:fit|plan)$/, '/fit');
    const pictures: string[] = [];
    for (const { id } of signals) {
      await browser.driver.get(`${base}?signal=${id}`);
      await browser.find('[data-testid=load-lens]');
      await browser.driver.sleep(500);
      const lens = await browser.find('section[aria-label=Load]');
      pictures.push(await lens.takeScreenshot());
    }
    const images = pictures.map((one) => `<img width="310" src="data:image/png;base64,${one}">`).join('');
    const page = `<body style="margin:0;background:#faf7f2;display:grid;grid-template-columns:repeat(4,1fr);gap:4px 8px">${images}`;
    writeFileSync(join(directory, 'page.html'), page);
    await browser.size(1280, 890);
    await browser.driver.get(`file://${join(directory, 'page.html')}`);
    const picture = await browser.picture();
    await browser.size(1280, 800);
    return picture;
  } finally {
    rmSync(directory, { recursive: true, force: true });
  }
}
