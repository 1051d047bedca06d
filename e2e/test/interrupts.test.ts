import { Key, until, type WebElement } from 'selenium-webdriver';
import { openBrowser, type Browser } from '../support/browser.ts';
import { chooseSignal, goToView, openDemo } from '../support/demo.ts';
import { serve, type Served } from '../support/server.ts';

let served: Served;
let browser: Browser;

beforeAll(async () => {
  served = await serve();
  browser = await openBrowser();
}, 120000);

afterAll(async () => {
  await browser?.close();
  await served?.stop();
});

const PULSE = '[data-testid=pulse]';

async function openInterrupts(): Promise<void> {
  await openDemo(browser, served.address, 'Tower clock');
  await browser.driver.actions().sendKeys('4').perform();
  await browser.find('[data-testid=timeline]');
}

async function type(label: string, text: string): Promise<void> {
  const field = await browser.find(`input[aria-label="${label}"]`);
  await field.click();
  await field.sendKeys(Key.chord(Key.CONTROL, 'a'), text, Key.ENTER);
}

describe('interrupts', () => {
  it('fails a deadline when a handler grows, leads from the badge to the moment, and passes once it is short again', async () => {
    await openInterrupts();
    await browser.shows(PULSE, '34 of 34 pass');
    // 27 000 cycles of 47.97 MHz are 563 µs; the dial lamp's interrupt comes each 500 µs.
    await type('Priority of Bell bus', '0');
    await type('Cycles of Bell bus', '27000');
    await browser.shows(PULSE, '31 of 34 pass');
    await browser.shows('[role=status]', 'Dial lamp');
    await browser.driver.actions().sendKeys(Key.ESCAPE).perform();
    await (await browser.find('main h1')).click();
    await browser.driver.actions().sendKeys('1').perform();
    await browser.shows('[data-signal=dial-lamp]', 'wait of Dial lamp fails');
    await browser.shows('[data-signal=dial-lamp]', 'fail');
    await (await browser.find(PULSE)).click();
    await (await browser.find('[data-failure=dial-lamp]')).click();
    await browser.find('[data-testid=timeline]');
    expect(await browser.driver.getCurrentUrl()).toMatch(/\/interrupts\?signal=dial-lamp&at=0\.\d+/);
    await browser.find('[data-selected=true] input[aria-label="Cycles of Dial lamp"]');
    const [from = '', to = ''] = (await browser.text('[data-testid=window]')).split(' … ');
    expect(from).not.toBe(to);
    expect(from).toMatch(/ms$/);
    await type('Cycles of Bell bus', '120 to 260');
    await browser.shows(PULSE, '34 of 34 pass');
  });

  it('keeps what is no length in its field and says why', async () => {
    await openInterrupts();
    await type('Cycles of Bell bus', 'a lot');
    await browser.shows('[role=status]', 'is not a number of cycles; enter for example 90, or 90 to 420.');
    const field = await browser.find('input[aria-label="Cycles of Bell bus"]');
    expect(await field.getAttribute('value')).toBe('a lot');
    await field.sendKeys(Key.ESCAPE);
    expect(await field.getAttribute('value')).toBe('120 to 260');
  });

  it('moves a length by keys and by dragging, and keeps an added interrupt over a reload', async () => {
    await openInterrupts();
    await (await browser.button('add an interrupt')).click();
    const cycles = await browser.find('input[aria-label="Cycles of Interrupt 3"]');
    await cycles.click();
    await cycles.sendKeys(Key.ARROW_UP, Key.chord(Key.SHIFT, Key.ARROW_UP));
    await browser.find('input[aria-label="Cycles of Interrupt 3"][value="111"]');
    await type('When Interrupt 3 comes', 'every 2 ms, up to 10 µs late');
    await browser.driver.navigate().refresh();
    await browser.find('input[aria-label="When Interrupt 3 comes"][value="every 2 ms, up to 10 µs late"]');
    const grip = await browser.find('[data-interrupt="task.task-3"] [title="Drag to change"]');
    await browser.driver.actions().dragAndDrop(grip, { x: 90, y: 0 }).perform();
    await browser.find('input[aria-label="Cycles of Interrupt 3"][value="222"]');
    await (await browser.find('button[aria-label="Remove Interrupt 3"]')).click();
    await browser.shows(PULSE, '34 of 34 pass');
    const gone = { css: '[data-interrupt="task.task-3"]' };
    await browser.wait(async () => (await browser.driver.findElements(gone)).length === 0);
  });

  it('simulates a long time beside the page, and tells what polling and LED strings amount to', async () => {
    await openInterrupts();
    const lengths = await browser.find('select[aria-label="Time to simulate"]');
    await lengths.sendKeys('100 s');
    await browser.shows('section[aria-label="Main loop"]', 'over 100 s simulated');
    await browser.shows(
      'section[aria-label=Polling]',
      'It stays right when the count wraps after 49.7 days.',
    );
    await (await browser.find('select[aria-label="Comparison of Pendulum watch"]')).sendKeys('now ≥ due');
    await browser.shows('section[aria-label=Polling]', 'compare the difference of the counts.');
    await browser.shows('[data-way=masked]', 'lost');
    await browser.shows('[data-way=transfer]', 'nothing lost');
  });

  it('shows what a loop that sends to LEDs does to a receiver, and hands over its code once frames are short enough', async () => {
    await openDemo(browser, served.address, 'Signal cabin');
    await goToView(browser, 'fit');
    await chooseSignal(browser, 'Block ring');
    await browser.shows('section[aria-label=Ladder]', 'OC0B');
    const best = "//select[contains(., 'use the best by')]/option[.='lowest CPU load']";
    await (await browser.wait<WebElement>(until.elementLocated({ xpath: best }), 'no rankings')).click();
    await browser.shows('section[aria-label=Ladder]', 'of 20 (zero: 6)');
    // 30 LEDs take 900 µs, marks come each 560 µs at the soonest.
    await browser.shows('section[aria-label=Slips]', 'A frame takes 900 µs');
    await browser.shows(PULSE, '14 of 17 pass');
    await browser.say('leds', '4');
    await browser.shows(PULSE, '17 of 17 pass');
    await goToView(browser, 'handoff');
    await browser.shows('main', 'block_ring_send(const uint8_t *bytes, uint16_t count)');
  });
});
