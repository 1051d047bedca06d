import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Key, until } from 'selenium-webdriver';
import { chooseSignal, goHome, goToView, openBuoy, openGreenhouse } from '../support/demo.ts';
import { openBrowser, type Browser } from '../support/browser.ts';
import { showsCode } from '../support/code.ts';
import { serve, type Served } from '../support/server.ts';

let served: Served;
let browser: Browser;

beforeAll(async () => {
  served = await serve();
  browser = await openBrowser({ requests: true });
}, 120000);

afterAll(async () => {
  await browser?.close();
  await served?.stop();
});

/** By then a change is in the browser's storage. */
const STORED_MS = 300;

const openDemo = (): Promise<string> => openGreenhouse(browser, served.address);

/** Adds the signal of the menu whose text begins so. */
async function addSignal(button: string, starts: string): Promise<void> {
  await (await browser.button(button)).click();
  const item = await browser.wait(
    until.elementLocated({ xpath: `//li[@role='menuitem'][starts-with(., '${starts}')]` }),
  );
  await browser.driver.executeScript('arguments[0].click()', item);
  await browser.find('[data-testid=landscape]');
  await browser.wait(
    async () => (await browser.driver.findElements({ css: 'li[role=menuitem]' })).length === 0,
  );
}

async function waveform(): Promise<string> {
  return (await (await browser.find('[data-testid=wave]')).getAttribute('d')) ?? '';
}

async function kept(name: string): Promise<string> {
  const file = join(browser.downloads, name);
  await browser.wait(() => existsSync(file), `no ${name}`);
  return readFileSync(file, 'utf8');
}

const top = '[data-rung=top]';

describe('the main job', () => {
  it('changes the tone to A5: another top and another waveform, still there after a reload', async () => {
    await openDemo();
    await browser.shows(top, '216');
    const before = await browser.text('[data-testid=figures]');
    await browser.say('frequency', 'A5');
    await browser.shows(top, '141');
    await browser.shows('[data-testid=hint]', '880 Hz = A5');
    expect(await browser.text('[data-testid=figures]')).not.toBe(before);
    await browser.shows('[data-testid=exactly]', 'exactly 62500/71 Hz: a period of 18 176 clocks of 62.5 ns');
    await browser.driver.navigate().refresh();
    await browser.shows(top, '141');
    await browser.shows('[data-token=frequency]', 'A5');
  });

  it('saves to a file, and opens it again, identical', async () => {
    await (await browser.button('Save file')).click();
    const text = await kept('greenhouse-bench.plan.json');
    expect(JSON.parse(text)).toMatchObject({
      name: 'Greenhouse bench',
      signals: [{ target: { note: 'A5' }, setting: { top: 141 } }, {}, {}, {}],
    });
    const copy = join(browser.downloads, 'copy.plan.json');
    writeFileSync(copy, text.replace('"Greenhouse bench"', '"Copy"'));
    const before = await browser.driver.getCurrentUrl();
    await (await browser.driver.findElement({ css: '[data-testid=plan-file]' })).sendKeys(copy);
    await browser.wait(async () => (await browser.driver.getCurrentUrl()) !== before);
    await browser.shows('input[aria-label="Name of the plan"]', 'Copy');
    await browser.shows(top, '141');
    await (await browser.button('Save file')).click();
    expect(await kept('copy.plan.json')).toBe(text.replace('"Greenhouse bench"', '"Copy"'));
  });

  it('takes a step back and forward again, also after a reload', async () => {
    await openDemo();
    await browser.say('duty', '25 %');
    await browser.shows('[data-testid=figures]', '108 µs high');
    await browser.find('button[aria-label=Undo]:enabled');
    await browser.driver.sleep(STORED_MS);
    await browser.driver.navigate().refresh();
    await browser.shows('[data-token=duty]', '25 %');
    await (await browser.find('button[aria-label=Undo]')).click();
    await browser.shows('[data-token=duty]', '50 %');
    await (await browser.find('button[aria-label=Redo]:enabled')).click();
    await browser.shows('[data-token=duty]', '25 %');
  });
});

describe('bad input', () => {
  it('is answered in a sentence while typing, and changes nothing', async () => {
    await openDemo();
    const before = await waveform();
    const field = await browser.find('[data-token=frequency]');
    await field.click();
    await field.sendKeys(Key.chord(Key.CONTROL, 'a'), 'soon', Key.ENTER);
    await browser.shows(
      '[data-testid=hint]',
      '“soon” is not understood here; say for example 2 kHz, 1.5 ms, 300 rpm or A4.',
    );
    expect(await waveform()).toBe(before);
    await field.sendKeys(Key.ESCAPE);
    await browser.shows('[data-token=frequency]', '2 300 Hz');
  });

  it.each([
    ['an unknown key', '{"format":"herzschlag-plan","version":1,"mood":1}', 'is missing'],
    ['a truncated file', '{"format":"herzschlag-plan",', 'The file ends too early, at line 1'],
    ['10 MB of noise', 'x{9'.repeat(3400000), 'The file has 10.2 MB'],
  ])('%s: one sentence, the open plan untouched', async (_, content, sentence) => {
    await openDemo();
    const url = await browser.driver.getCurrentUrl();
    const before = await waveform();
    const file = join(browser.downloads, 'bad.json');
    writeFileSync(file, content);
    await (await browser.driver.findElement({ css: '[data-testid=plan-file]' })).sendKeys(file);
    await browser.shows('p[role=alert]', `bad.json: `);
    await browser.shows('p[role=alert]', sentence);
    expect(await browser.driver.getCurrentUrl()).toBe(url);
    expect(await waveform()).toBe(before);
  });
});

describe('by keyboard alone', () => {
  it('steps a target through what the hardware can make', async () => {
    await openDemo();
    const field = await browser.find('[data-token=frequency]');
    await field.sendKeys(Key.ARROW_UP);
    await browser.shows(top, '215');
    await browser.shows('[data-testid=error]', 'exact');
    await browser.driver.actions().keyDown(Key.SHIFT).sendKeys(Key.ARROW_DOWN).keyUp(Key.SHIFT).perform();
    await browser.shows(top, '225');
  });

  it('chooses a setting from the landscape', async () => {
    await openDemo();
    const landscape = await browser.find('[data-testid=landscape]');
    await browser.driver.executeScript('arguments[0].focus()', landscape);
    await landscape.sendKeys(Key.ARROW_RIGHT, Key.ARROW_RIGHT, Key.ARROW_RIGHT);
    await browser.shows('[data-testid=looked]', 'Timer ');
    const looked = await browser.text('[data-testid=looked]');
    await landscape.sendKeys(Key.ENTER);
    const wanted = /top (\d[\d ]*):/.exec(looked)?.[1]?.replace(/ /g, '') ?? 'no top';
    await browser.shows(top, wanted);
  });

  it('goes between the views by their numbers', async () => {
    await openDemo();
    await browser.driver.executeScript('document.activeElement.blur()');
    await browser.driver.actions().sendKeys('5').perform();
    await showsCode(browser, 'TCCR1A = ');
    await browser.driver.actions().sendKeys('1').perform();
    await browser.find('button[data-signal=mist-pump]');
    await browser.driver.actions().sendKeys('2').perform();
    await browser.find('[data-testid=wave]');
  });
});

describe('numbers by hand', () => {
  it('takes a top in hex, and shows the miss, its margin and the way there', async () => {
    await openDemo();
    const field = await browser.find(top);
    await field.click();
    await field.sendKeys(Key.chord(Key.CONTROL, 'a'), '0x7F', Key.ENTER);
    await browser.shows('[data-check=frequency]', 'fail');
    await browser.shows('[data-testid=pulse]', '8 of 9 pass');
    await (await browser.find('[data-testid=pulse]')).click();
    await browser.shows('.MuiPopover-paper', 'frequency fails');
  });

  it('shows what 0 % really is: one count in fast PWM, nothing on the inverted output', async () => {
    await openDemo();
    await chooseSignal(browser, 'Grow light');
    const field = await browser.find('[data-rung=compare]');
    await field.click();
    await field.sendKeys(Key.chord(Key.CONTROL, 'a'), '0', Key.ENTER);
    await browser.shows('[data-testid=figures]', '16 µs high');
    await browser.shows('[data-slip=never-off]', 'Compare 0 still gives 0.391 %: one count of 16 µs');
    await browser.say('duty', '0 %');
    await browser.shows('[data-testid=figures]', 'always low');
    await browser.shows('section[aria-label=Ladder]', 'inverted');
  });
});

describe('drives of the program', () => {
  it('serve a pin that no timer reaches, with their cost; the software divider is edited in the ladder', async () => {
    await openDemo();
    await addSignal('+ signal', 'a lamp');
    await (await browser.find('[aria-label^="pin:"]')).click();
    const pin = await browser.wait(
      async () => (await browser.driver.findElements({ xpath: "//li[contains(., 'PC3')]" }))[0],
    );
    expect(await pin?.getAttribute('textContent')).toContain('by software only');
    await browser.driver.executeScript('arguments[0].click()', pin);
    await browser.shows('section[aria-label=Ladder]', 'on PC3');
    await browser.say('frequency', '20 s');
    const cpu = await browser.text('[data-testid=cpu]');
    expect(cpu).toMatch(/^0\.[0\s]*[1-9][\d\s]* %$/);
    const divider = await browser.find('[data-rung=divider]');
    const before = Number(await divider.getAttribute('value'));
    await divider.sendKeys(Key.chord(Key.CONTROL, 'a'), String(2 * before), Key.ENTER);
    await browser.shows('[data-check=frequency]', 'fail');
  });

  it('make a tick without a pin, and say when its count wraps', async () => {
    await openDemo();
    await addSignal('+ signal', 'a tick');
    await browser.shows('[data-testid=figures]', 'every 1 ms, the processor busy for');
    await browser.shows('[data-slip=wraps]', 'in 32 bits after 49.7 days');
  });
});

describe('a span', () => {
  it('shows how many positions there are, and takes its ends in any unit', async () => {
    await openDemo();
    await addSignal('+ signal', 'a servo');
    await browser.shows('[data-testid=span]', '2 401 positions');
    await browser.say('maxS', '1900 us');
    await browser.shows('[data-token=maxS]', '1.9 ms');
    await browser.shows('[data-testid=span]', '2 001 positions');
  });
});

describe('code read back', () => {
  it('says what it does, what is missing, and names the slip; right code can be used', async () => {
    await openDemo();
    await addSignal('+ signal', 'a buzzer');
    await browser.say('frequency', '1 kHz');
    await (await browser.button('decode code …')).click();
    const lines = await browser.find('textarea[aria-label="Lines of code"]');
    const type = async (text: string) => lines.sendKeys(Key.chord(Key.CONTROL, 'a'), text);
    await type('OCR9 = 1;');
    await browser.shows('[data-testid=code-fault]', 'Line 1: ATmega328P has no register OCR9.');
    await type('TCCR1A = 0x40; TCCR1B = 0x09; OCR1A = 15999;');
    await browser.shows('[data-testid=code-result] [data-slip]', 'Toggling halves.');
    await browser.shows('[data-testid=code-result]', '500 Hz');
    await browser.shows('[data-testid=code-result]', 'DDRB.DDB1 is 0, not 1.');
    await type('TCCR1A = 0x40; TCCR1B = 0x09; OCR1A = 7999; DDRB = (1 << DDB1);');
    await browser.wait(async () => !(await browser.text('[data-testid=code-result]')).includes('halves'));
    await (await browser.button('use this')).click();
    await browser.shows(top, '7999');
    await browser.shows('[data-testid=error]', 'exact');
  });
});

describe('a program that somebody has', () => {
  it('becomes signals of an empty plan with a click, and comes back after a reload', async () => {
    await goHome(browser, served.address);
    await (await browser.button('New plan')).click();
    await (await browser.find('[data-part=atmega328p]')).click();
    await (await browser.button('read a program …')).click();
    const lines = await browser.find('textarea[aria-label="Lines of code"]');
    await lines.sendKeys(
      [
        '#define TOP 639',
        'ISR(TIMER0_COMPA_vect) { beats++; }',
        'static void fan(uint16_t top) { DDRB |= (1<<PB1); ICR1 = top; OCR1A = 255; TCCR1A = 0x82; TCCR1B = 0x19; }',
        'int main(void) { lcd_init(); fan(TOP); TCCR0A = 2; TCCR0B = 3; OCR0A = 249; TIMSK0 = 2; FOO_CTRL = 1; sei(); }',
      ].join('\n'),
    );
    await browser.shows('[data-testid=code-result]', '4 lines read, 2 understood, 1 left out.');
    await browser.shows('[data-slip=left-out]', 'Line 4: ATmega328P has no register FOO_CTRL.');
    await browser.shows('[data-testid=code-result]', '25 kHz');
    await (await browser.button('add 2 signals')).click();
    await browser.shows('[data-testid=pulse]', '3 of 3 pass');
    await browser.driver.navigate().refresh();
    await browser.shows('[data-testid=pulse]', '3 of 3 pass');
    await chooseSignal(browser, 'PB1');
    await browser.shows(top, '639');
  });
});

describe('a plan of many signals', () => {
  it('is made from nothing, one signal after another, and stays usable with 20', async () => {
    await goHome(browser, served.address);
    await (await browser.button('New plan')).click();
    await (await browser.find('[data-part=atmega328p]')).click();
    for (let n = 0; n < 20; n += 1)
      await addSignal(n === 0 ? 'Add a signal' : '+ signal', ['a lamp', 'a buzzer', 'a light'][n % 3] ?? '');
    expect(await browser.driver.findElements({ css: '[role=tab]' })).toHaveLength(20);
    await browser.say('frequency', '3 Hz');
    await browser.shows('[data-token=frequency]', '3 Hz');
  });
});

describe('an input and a shared tick', () => {
  it('measures on a pin that can, and says both ends', async () => {
    await openDemo();
    await addSignal('+ signal', 'an input');
    await browser.shows('section[aria-label=Ladder]', 'ICP1 on PB0');
    await browser.shows('[data-testid=figures]', 'fastest input: 5 ms, 312 counts of 16 µs');
    await browser.say('maxHz', '400 Hz');
    await browser.shows('[data-check=resolution]', 'fail');
    await browser.say('resolution', '1 %');
    await browser.shows('[data-check=resolution]', 'pass');
    expect(await browser.errors()).toEqual([]);
  });

  it('counts several signals from the slowest tick of a free timer, taken with one click', async () => {
    await goHome(browser, served.address);
    await (await browser.button('New plan')).click();
    await (await browser.find('[data-part=atmega328p]')).click();
    await addSignal('Add a signal', 'a lamp');
    await addSignal('+ signal', 'a tick');
    await browser.shows('[role=tab][aria-selected=true]', 'Tick');
    await goToView(browser, 'plan');
    await (await browser.button('share one tick …')).click();
    // 1 Hz on a pin changes twice a second, the program ticks 1000 times: 1000 a second serve both, by 500 and by 1.
    await browser.shows('[data-testid=shared-tick]', 'Hz on Timer 0, ctc ÷ 64, top 249: 0.219 % of the CPU');
    await (await browser.button('Use this interrupt')).click();
    await browser.shows('button[data-signal=lamp]', 'interrupt');
    await browser.shows('button[data-signal=tick]', 'tick');
    expect(await browser.text('button[data-signal=lamp]')).toContain('exact');
  });
});

describe('another part', () => {
  it('is found by what it can do, takes its own clock, and refuses one that breaks a limit', async () => {
    await goHome(browser, served.address);
    await (await browser.button('New plan')).click();
    const search = await browser.find('input[aria-label^="Part, or"]');
    await search.sendKeys('32-bit timer, 24 channels');
    await browser.wait(async () => (await browser.driver.findElements({ css: '[data-part]' })).length === 1);
    await search.sendKeys(Key.ENTER);
    await browser.shows('[data-testid=clock]', '8 MHz crystal ±30 ppm ÷ 8 × 336 ÷ 4 = 84 MHz');
    await (await browser.find('[data-testid=clock]')).click();
    const factor = await browser.driver.findElement({
      xpath: "//label[contains(., 'PLL multiplier N')]//input",
    });
    await factor.sendKeys(Key.chord(Key.CONTROL, 'a'), '432', Key.ENTER);
    await browser.shows('form p[role=alert]', 'PLL output 108 MHz is above its 84 MHz.');
    await factor.sendKeys(Key.chord(Key.CONTROL, 'a'), '240', Key.ENTER);
    await browser.shows('[data-testid=clock]', '= 60 MHz');
    await addSignal('Add a signal', 'a buzzer');
    await browser.say('frequency', '3 kHz');
    await browser.shows('[data-testid=error]', 'exact');
    await browser.shows('[data-testid=exactly]', 'exactly 3000 Hz');
  });
});

describe('a part of the user’s own', () => {
  it('is loaded from its file, kept with the plan, and a faulty one is answered with its place', async () => {
    await goHome(browser, served.address);
    await (await browser.button('New plan')).click();
    const bad = join(browser.downloads, 'bad.part.json');
    const example = readFileSync('examples/quill8.part.json', 'utf8');
    writeFileSync(bad, example.replace('"TCON.RUN": 1', '"TCON.GO": 1'));
    await (await browser.find('[data-testid=part-file]')).sendKeys(bad);
    await browser.shows(
      'p[role=alert]',
      'bad.part.json: timers[0].modes[0].writes["TCON.GO"]: TCON has no field GO',
    );
    await (await browser.button('New plan')).click();
    await (
      await browser.find('[data-testid=part-file]')
    ).sendKeys(join(process.cwd(), 'examples/quill8.part.json'));
    await browser.shows('[data-testid=clock]', 'Quill8 · 12 MHz crystal');
    await addSignal('Add a signal', 'a buzzer');
    await browser.say('tolerance', '20 c');
    await browser.say('frequency', '1 kHz');
    await browser.shows(top, '187');
    await browser.driver.navigate().refresh();
    await browser.shows(top, '187');
  });
});

describe('pin names', () => {
  it('are taken from a table, refused with the line, and stand beside the chip’s names in every view', async () => {
    await openDemo();
    await browser.shows('section[aria-label=Ladder]', 'OC2B on PD3 (D3)');
    await goToView(browser, 'plan');
    await (await browser.button('pin names …')).click();
    const table = await browser.find('textarea[aria-label="Pin names, one per line"]');
    await table.sendKeys(Key.chord(Key.CONTROL, 'a'), 'PD3 = buzzer\nPX9 = lamp');
    await (await browser.button('Use these names')).click();
    await browser.shows('form p[role=alert]', 'Line 2: “PX9 = lamp” names no pin of ATmega328P.');
    await table.sendKeys(Key.chord(Key.CONTROL, 'a'), 'PD3 = buzzer\nPB1 = lamp');
    await (await browser.button('Use these names')).click();
    await browser.shows('button[data-signal=frost-alarm]', 'PD3 (buzzer)');
    await goToView(browser, 'handoff');
    await showsCode(browser, 'Status LED on PB1 (lamp) blinks');
  });
});

describe('the sequence of a signal', () => {
  it('is typed as people say it, checked, drawn in the trace, and taken back by undo', async () => {
    await openDemo();
    await chooseSignal(browser, 'Status LED');
    const sequence = await browser.find('input[aria-label=sequence]');
    await sequence.sendKeys(Key.chord(Key.CONTROL, 'a'), 'flutter', Key.ENTER);
    await browser.shows('[data-testid=hint]', '“flutter” is not a step');
    await sequence.sendKeys(Key.chord(Key.CONTROL, 'a'), '3 flashes; rest 6 s', Key.ENTER);
    await browser.shows('section[aria-label="Pulse window"]', 'pulses pass');
    const first = await browser.find('input[aria-label="first edge"]');
    await first.sendKeys(Key.chord(Key.CONTROL, 'a'), '500 ms', Key.ENTER);
    await browser.shows('section[aria-label="Pulse window"]', 'first edge fail');
    await goToView(browser, 'trace');
    await browser.shows('[data-lane=status-led]', 'first edge 2 s');
  });

  it('has a complement where the part can keep it apart', async () => {
    await openBuoy(browser, served.address);
    await addSignal('+ signal', 'a light');
    await browser.shows('[role=tab][aria-selected=true]', 'Light');
    await browser.shows('h1', 'dims at');
    const opposite = await browser.find('input[aria-label=complement]');
    await opposite.sendKeys(Key.chord(Key.CONTROL, 'a'), 'PB13, 1 µs apart', Key.ENTER);
    await browser.shows('section[aria-label="Pulse window"]', 'dead time pass');
    await goToView(browser, 'trace');
    await browser.shows('[data-lane="light opposite"]', 'Light opposite');
  });
});

describe('the page', () => {
  it('asks no other host for anything, and leaves the console clean', async () => {
    await browser.requests();
    await browser.errors();
    const url = await openDemo();
    for (const view of ['plan', 'handoff']) {
      await browser.driver.get(url.replace('/fit', `/${view}`));
      await browser.find('main section, main button[data-signal]');
    }
    const hosts = new Set(
      (await browser.requests())
        .filter((address) => /^(https?|wss?):/.test(address))
        .map((address) => new URL(address).host),
    );
    expect([...hosts]).toEqual([new URL(served.address).host]);
    expect(await browser.errors()).toEqual([]);
  });

  it('shows the Fit view at 1280 x 800 without scrolling', async () => {
    await openDemo();
    const overflow = await browser.driver.executeScript<number[]>(
      'const m = document.querySelector("main"); return [m.scrollHeight - m.clientHeight, m.scrollWidth - m.clientWidth];',
    );
    expect(overflow).toEqual([0, 0]);
  });

  it('has no scrolling to the side at 1024, and reads well at night', async () => {
    await browser.size(1024, 768);
    await openDemo();
    const aside = await browser.driver.executeScript<number>(
      'const m = document.querySelector("main"); return m.scrollWidth - m.clientWidth;',
    );
    expect(aside).toBe(0);
    await browser.size(1280, 800);
    await (await browser.find('button[aria-label="Night colours"]')).click();
    const background = await browser.driver.executeScript<string>(
      'return getComputedStyle(document.body).backgroundColor',
    );
    expect(background).toBe('rgb(21, 24, 33)');
    await (await browser.find('button[aria-label="Day colours"]')).click();
  });
});
