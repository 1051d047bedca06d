import { Key } from 'selenium-webdriver';
import { openBuoy } from '../support/demo.ts';
import { openBrowser, type Browser } from '../support/browser.ts';
import { showsCode } from '../support/code.ts';
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

/** Opens the buoy, which ships with two conflicts, in the Plan view. */
async function openPlan(): Promise<void> {
  await openBuoy(browser, served.address);
  await browser.driver.actions().sendKeys('1').perform();
  await browser.find('[data-testid=timer-map]');
}

async function undo(): Promise<void> {
  await (await browser.find('button[aria-label=Undo]')).click();
}

const PULSE = 'header';

describe('the plan as a whole', () => {
  it('shows both conflicts in the timer map with their sentences; one click resolves each', async () => {
    await openPlan();
    await browser.shows('[data-conflict="lantern chart-lamp"]', 'Chart lamp cannot share TIM3 with Lantern.');
    await browser.shows(
      '[data-conflict="lantern chart-lamp"]',
      '0.25 Hz for Lantern, at least 300 Hz for Chart lamp',
    );
    await browser.shows('[data-conflict="shutter anemometer"]', 'both need TIM2 CH1.');
    await browser.shows('[data-timer=TIM2]', 'conflict on CH1');
    await browser.find('[data-timer=TIM3][data-fault=frequency]');
    await (await browser.button('Chart lamp: TIM1 CH3 on PB1')).click();
    await browser.shows(PULSE, '1 conflict');
    await (await browser.button('Lens shutter: TIM5 CH1 on PA0')).click();
    await browser.shows('[data-timer=TIM5]', 'Lens shutter');
    await browser.shows(PULSE, '31 of 31 pass');
    expect(await browser.driver.findElements({ css: '[data-conflict]' })).toEqual([]);
    await (await browser.find('nav a[href*=handoff]')).click();
    await showsCode(browser, 'TIM5_CR1 = ');
    await (await browser.find('select[aria-label="Names of registers"]')).sendKeys('device header');
    await showsCode(browser, 'TIM5->CR1 = ');
    await showsCode(browser, 'GPIOA->MODER = ');
    await (await browser.find('select[aria-label=Start-up]')).sendKeys('in this code');
    await showsCode(browser, 'harbour_buoy_clocks(void)');
    await (await browser.find('select[aria-label=Interrupts]')).sendKeys('start enables');
    await showsCode(browser, 'cpsie i');
  });

  it('lists what fails by name, each entry leading to its own signal', async () => {
    await openPlan();
    await (await browser.find('[data-testid=pulse]')).click();
    const entry = await browser.find('[data-failure=anemometer]');
    await browser.shows('[data-failure=anemometer]', 'Anemometer');
    await entry.click();
    await browser.shows('[role=tab][aria-selected=true]', 'Anemometer');
    await browser.find('[data-check=conflict][data-verdict=fail]');
  });

  it('assigns all at once, shows what changes before it does, and undo brings the conflicts back', async () => {
    await openPlan();
    await browser.find('[data-conflict]');
    await (await browser.button('Assign timers')).click();
    await browser.shows('[data-testid=assignment]', 'All 6 signals fit');
    await browser.shows('[data-testid=assignment]', 'This is the best assignment.');
    await browser.shows(PULSE, '2 conflicts');
    await (await browser.button('Apply')).click();
    await browser.shows('[data-timer=TIM1]', 'Chart lamp');
    expect(await browser.driver.findElements({ css: '[data-conflict]' })).toEqual([]);
    await undo();
    await browser.shows(PULSE, '2 conflicts');
  });

  it('adds, copies, moves and removes signals by the keyboard', async () => {
    const say = await browser.find('textarea[aria-label="Add a signal"]');
    await say.sendKeys('nothing in particular', Key.ENTER);
    await browser.shows('main', 'What should a pin do?');
    await say.sendKeys(Key.chord(Key.CONTROL, 'a'), 'Deck bell rings at 2 kHz');
    await browser.shows('main', 'Deck bell on any pin sounds');
    await say.sendKeys(Key.ENTER);
    const bell = await browser.find('button[data-signal=deck-bell]');
    await bell.sendKeys(Key.chord(Key.CONTROL, 'd'));
    await browser.find('button[data-signal=deck-bell-2]');
    const ids = async (): Promise<string[]> =>
      browser.driver.executeScript(
        'return [...document.querySelectorAll("button[data-signal]")].map((one) => one.dataset.signal)',
      );
    await (await browser.find('button[data-signal=deck-bell]')).sendKeys(Key.chord(Key.ALT, Key.ARROW_UP));
    await browser.wait(async () => (await ids()).indexOf('deck-bell') === 5);
    await (await browser.find('button[data-signal=deck-bell-2]')).sendKeys(Key.DELETE);
    await browser.wait(async () => !(await ids()).includes('deck-bell-2'));
  });

  it('reserves a timer by a click, which then is left alone', async () => {
    await openPlan();
    await (await browser.find('[data-timer=TIM1] button')).click();
    await browser.shows('[data-timer=TIM1]', 'reserved');
    await (await browser.button('Assign timers')).click();
    await browser.shows('[data-testid=assignment]', 'All 6 signals fit');
    await (await browser.button('Apply')).click();
    await browser.find('[data-timer=TIM1][data-reserved=true]');
    expect(await browser.text('[data-timer=TIM1]')).not.toMatch(/lamp|Lantern/);
  });

  it('says why a plan does not fit, and a fix puts it right', async () => {
    await openPlan();
    await (await browser.find('[data-timer=TIM2] button')).click();
    await (await browser.button('Assign timers')).click();
    await browser.shows('[data-infeasible=anemometer]', 'Anemometer on PA15 could only be made by TIM2');
    await (await browser.button('TIM2 not reserved')).click();
    await browser.shows(PULSE, '31 of 31 pass');
    expect(await browser.driver.findElements({ css: '[data-infeasible], [data-conflict]' })).toEqual([]);
  });

  it('shows the lines of code that change before a proposal is taken', async () => {
    await openPlan();
    await browser.find('[data-conflict]');
    await (await browser.button('Chart lamp: TIM1 CH3 on PB1')).click();
    await browser.shows(PULSE, '1 conflict');
    await (await browser.button('Lens shutter: TIM5 CH1 on PA0')).click();
    await browser.shows(PULSE, '31 of 31 pass');
    await (await browser.button('Assign timers')).click();
    await browser.shows('.MuiPopover-root', 'The plan is already assigned like this; nothing changes.');
    await browser.driver.actions().sendKeys(Key.ESCAPE).perform();
    await (await browser.find('[data-timer=TIM1] button')).click();
    await (await browser.button('Assign timers')).click();
    await (await browser.button('show code changes')).click();
    await browser.shows('[data-testid=code-change]', 'harbour_buoy.c');
    expect(await browser.text('[data-testid=code-change]')).toMatch(/\d+ lines added, \d+ removed/);
  });

  it('tries every part, and the plan moves to one of them with its pins freed', async () => {
    await openPlan();
    await (await browser.button('Which part?')).click();
    await browser.find('[data-part=stm32f401][data-fits=true]');
    await browser.shows('[data-part=atmega328p]', 'Anemometer: ');
    await browser.find('[data-part=am3358][data-fits=true]');
    await (await browser.find('[data-part=am3358] button')).click();
    await browser.shows('[data-testid=switching]', 'Harbour buoy on AM3358');
    await browser.shows('[data-testid=code-change]', 'AM3358, 24 MHz crystal');
    await browser.shows(PULSE, 'STM32F401');
    await (await browser.button('Switch to this part')).click();
    await browser.shows(PULSE, 'AM3358');
    await undo();
    await browser.shows(PULSE, 'STM32F401');
  });

  it('stays readable with 24 signals: nothing runs out to the side', async () => {
    await openPlan();
    for (let at = 0; at < 18; at += 1) {
      const lantern = await browser.find('button[data-signal=lantern]');
      await lantern.sendKeys(Key.chord(Key.CONTROL, 'd'));
      const wanted = 7 + at;
      await browser.wait(
        async () => (await browser.driver.findElements({ css: 'button[data-signal]' })).length === wanted,
      );
    }
    const aside = await browser.driver.executeScript<number>(
      'const m = document.querySelector("main"); return m.scrollWidth - m.clientWidth;',
    );
    expect(aside).toBe(0);
  });
});
