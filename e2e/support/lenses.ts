import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PLAN_VERSION, loadKinds, type LoadType } from '@herzschlag/core';
import type { Browser } from './browser.ts';

/** What moves each load in the picture of all of them. */
const MOVED: Record<LoadType, { kind: string; target: object }> = {
  led: { kind: 'dim', target: { minHz: 300, minSteps: 100, duty: 0.35 } },
  sounder: { kind: 'tone', target: { frequencyHz: 880 } },
  buzzer: { kind: 'blink', target: { frequencyHz: 2, duty: 0.2 } },
  servo: { kind: 'pulse', target: { frameHz: 50, widthS: 0.0013, minS: 0.001, maxS: 0.002 } },
  motor: { kind: 'pwm', target: { frequencyHz: 4000, duty: 0.42, minSteps: 100 } },
  filter: { kind: 'level', target: { volts: 1.8, supplyV: 3.3 } },
  'lamp-module': { kind: 'dim', target: { minHz: 300, minSteps: 100, duty: 0.7 } },
  'strobed-disc': { kind: 'strobe', target: { frequencyHz: 25, onS: 0.0005 } },
  'led-chain': { kind: 'string', target: { bitS: 1.25e-6, zeroS: 4e-7, oneS: 8e-7, leds: 40 } },
};

/** A picture of the lens of every load, side by side. */
export async function lensesOf(browser: Browser, address: string): Promise<Buffer> {
  const directory = mkdtempSync(join(tmpdir(), 'lenses-'));
  try {
    const file = join(directory, 'lenses.plan.json');
    const signals = loadKinds().map(({ id, name, starter }) => ({ id, name, ...MOVED[id], load: starter }));
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
