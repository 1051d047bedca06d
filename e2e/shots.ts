import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { Key } from 'selenium-webdriver';
import { benchCapture } from './support/bench-capture.ts';
import { openBrowser } from './support/browser.ts';
import { goToView, openDemo } from './support/demo.ts';
import { lensesOf } from './support/lenses.ts';
import { serve } from './support/server.ts';

/** A program as somebody may have it, for the picture of what is read. */
const PROGRAM = [
  '#define TOP 639',
  'ISR(TIMER0_COMPA_vect) { minutes++; }',
  'static void blower(uint16_t top) {',
  'DDRB |= (1<<PB2);  ICR1 = top;  OCR1B = 255;',
  'TCCR1A = _BV(COM1B1) | _BV(WGM11);',
  'TCCR1B = _BV(WGM13) | _BV(WGM12) | _BV(CS10);',
  '}',
  'int main(void) {',
  'display_begin();  blower(TOP);',
  'TCCR0A = 2; TCCR0B = 3; OCR0A = 249; TIMSK0 = 2;  sei();',
  'VALVE_CTRL = 1;',
  'for (;;) { if (warm()) OCR1B = 400; }',
  '}',
].join('\n');

/** Long enough for fonts, the landscape and the plan's outcome to be on the screen. */
const SETTLE_MS = 700;

/** The folder of the pictures: the documentation's, or one named on the command line. */
const FOLDER = process.argv[2] ?? 'docs/screenshots';

const served = await serve();
const browser = await openBrowser();
const take = async (name: string): Promise<void> => {
  await new Promise((resolve) => setTimeout(resolve, SETTLE_MS));
  writeFileSync(join(FOLDER, `${name}.png`), await browser.picture());
};
try {
  mkdirSync(FOLDER, { recursive: true });
  await browser.driver.get(served.address);
  const wishes = await browser.find('textarea[aria-label="What the pins should do"]');
  await take('start');
  await wishes.sendKeys(
    'status LED on PB5 blinks twice a second',
    Key.chord(Key.SHIFT, Key.ENTER),
    'bilge pump bliks every 4 s for 500 ms, quietly',
    Key.chord(Key.SHIFT, Key.ENTER),
    '10 ms',
  );
  await browser.find('[aria-pressed=true]');
  await take('typing');
  await browser.driver.get(`${served.address}/guide`);
  await take('guide');
  await browser.driver.get(served.address);
  await browser.find('section[aria-label=Begin] button');
  await (await browser.find('section[aria-label=Begin] button')).click();
  await browser.find('[data-testid=landscape]');
  await take('fit');
  await (await browser.button('decode code …')).click();
  await (await browser.find('textarea[aria-label="Lines of code"]')).sendKeys(PROGRAM);
  await browser.find('[data-slip=left-out]');
  await take('decode');
  await browser.driver.actions().sendKeys(Key.ESCAPE).perform();
  const url = await browser.driver.getCurrentUrl();
  await browser.driver.get(url.replace('/fit', '/trace'));
  await (await browser.find('[data-testid=capture-file]')).sendKeys(benchCapture());
  await browser.find('[data-testid=ratio]');
  const lanes = await browser.find('[data-testid=lanes]');
  await lanes.sendKeys(Key.ARROW_DOWN, Key.ARROW_RIGHT, 'c', Key.ARROW_RIGHT, Key.ARROW_RIGHT);
  await take('trace');
  await (await browser.find('[data-lane=grow-light]')).click();
  await (await browser.button('next glitch')).click();
  await take('trace-edge');
  await browser.driver.get(url.replace('/fit', '/handoff'));
  await (await browser.find('[data-register=TCCR1A] button')).click();
  await browser.find('.hz-pointed');
  await take('handoff');
  await (await browser.button('Versions …')).click();
  await (
    await browser.find('input[aria-label="Name of a version"]')
  ).sendKeys('before the new alarm', Key.ENTER);
  await browser.find('[data-version]');
  await browser.driver.actions().sendKeys(Key.ESCAPE).perform();
  await goToView(browser, 'fit');
  await browser.say('frequency', '2200');
  await browser.shows('[data-token=frequency]', '2 200 Hz');
  await goToView(browser, 'handoff');
  await (await browser.button('Versions …')).click();
  await (await browser.find('[data-version] button')).click();
  await browser.shows('[data-testid=diff]', 'OCR2A');
  await take('diff');
  await (await browser.button('HTML')).click();
  const report = join(browser.downloads, 'greenhouse-bench.report.html');
  await browser.wait(() => Promise.resolve(existsSync(report)), 'the report was not saved');
  await browser.driver.sleep(SETTLE_MS);
  await browser.driver.get(pathToFileURL(report).href);
  await browser.driver.executeScript("document.querySelector('h3').scrollIntoView()");
  await take('report');
  await openDemo(browser, served.address, 'Tower clock');
  const clock = await browser.driver.getCurrentUrl();
  await browser.driver.get(
    `${clock.split('?')[0]?.replace(/\/(?:fit|plan)$/, '/interrupts')}?signal=dial-lamp`,
  );
  await (await browser.find('[data-testid=timeline]')).sendKeys('w');
  await take('interrupts');
  await browser.driver.get(`${clock.split('?')[0]}?signal=chime`);
  await browser.find('[data-testid=load-lens]');
  await take('load');
  await browser.driver.get(`${clock.split('?')[0]}?signal=pendulum-strobe`);
  await browser.find('[data-testid=load-lens]');
  await (await browser.button('knob')).click();
  await browser.find('[data-testid=knob-reading]');
  await take('knob');
  writeFileSync(join(FOLDER, 'lenses.png'), await lensesOf(browser, served.address));
  await browser.driver.get(`${url.split('?')[0]}?signal=status-led`);
  await (await browser.find('button[aria-label="Night colours"]')).click();
  await (await browser.find('[data-token=duty]')).click();
  await take('fit-night');
  await browser.driver.get(served.address);
  await browser.find('section[aria-label=Begin] button');
  await (await browser.driver.findElements({ css: 'section[aria-label=Begin] button' }))[1]?.click();
  await browser.find('[data-testid=landscape]');
  const buoy = await browser.driver.getCurrentUrl();
  await (await browser.find('button[aria-label="Day colours"]')).click();
  await browser.driver.get(`${buoy.split('?')[0]}?signal=shutter`);
  await browser.find('[data-token=width]');
  await take('fit-span');
  await (await browser.button('readings')).click();
  await browser.find('[data-testid=readings-line]');
  await take('readings');
  await browser.driver.get(buoy.replace('/fit', '/plan'));
  await browser.find('button[data-signal]');
  // The fixes are searched for.
  await browser.button('Chart lamp: TIM1 CH3 on PB1');
  await browser.button('Lens shutter: TIM5 CH1 on PA0');
  await take('plan');
  await (await browser.button('Chart lamp: TIM1 CH3 on PB1')).click();
  // Fixes are searched anew once the first is in force.
  await browser.driver.sleep(3000);
  await (await browser.button('Lens shutter: TIM5 CH1 on PA0')).click();
  // Both are in force before the parts are tried.
  await browser.driver.sleep(1000);
  await (await browser.button('Which part?')).click();
  await browser.find('[data-part=am3358][data-fits=true] button');
  await browser.driver.sleep(4000);
  await (await browser.find('[data-part=am3358][data-fits=true] button')).click();
  await browser.find('[data-testid=code-change]');
  await take('plan-change');
} finally {
  await browser.close();
  await served.stop();
}
