import { By, Key } from 'selenium-webdriver';
import { openBrowser, type Browser } from '../support/browser.ts';
import { chooseSignal, goToView, openDemo, press as pressFound } from '../support/demo.ts';
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

async function openSignal(demo: string, name: string): Promise<void> {
  await openDemo(browser, served.address, demo);
  await goToView(browser, 'fit');
  await chooseSignal(browser, name);
}

const press = (path: string): Promise<void> => pressFound(browser, By.xpath(path));

async function tool(name: string): Promise<void> {
  await press(`//section[@aria-label='Load']//button[normalize-space(.)='${name}']`);
  await browser.find('[role=dialog] h2');
}

async function type(label: string, ...keys: string[]): Promise<void> {
  const field = await browser.find(`[role=dialog] input[aria-label="${label}"]`);
  await field.click();
  await field.sendKeys(Key.chord(Key.CONTROL, 'a'), ...keys);
}

/** What a page hears: the samples of the buffers that are started, measured in an offline context. */
const HEAR = `
  window.heard = [];
  const start = AudioBufferSourceNode.prototype.start;
  AudioBufferSourceNode.prototype.start = function (...when) {
    window.heard.push(this.buffer);
    return start.apply(this, when);
  };`;

const MEASURE = `
  const done = arguments[arguments.length - 1];
  const [fromS, toS] = arguments;
  const buffer = window.heard[window.heard.length - 1];
  const context = new OfflineAudioContext(1, buffer.length, buffer.sampleRate);
  const source = context.createBufferSource();
  source.buffer = buffer;
  source.connect(context.destination);
  source.start();
  context.startRendering().then((rendered) => {
    const samples = rendered.getChannelData(0).subarray(fromS * buffer.sampleRate, toS * buffer.sampleRate);
    const rises = [];
    for (let at = 1; at < samples.length; at += 1) {
      const [one, next] = [samples[at - 1], samples[at]];
      if (one < 0 && next >= 0) rises.push(at - 1 + one / (one - next));
    }
    done(((rises.length - 1) / (rises[rises.length - 1] - rises[0])) * buffer.sampleRate);
  });`;

/** The frequency that is heard between two moments of what plays last, in Hz. */
async function heardHz(fromS: number, toS: number): Promise<number> {
  await browser.wait(() => browser.driver.executeScript('return window.heard?.length > 0'));
  return browser.driver.executeAsyncScript(MEASURE, fromS, toS);
}

describe('what hangs on a pin', () => {
  it('is heard: the fog signal within 0.1 % of what is computed, until Escape', async () => {
    await openSignal('Harbour buoy', 'Fog signal');
    await browser.driver.executeScript(HEAR);
    await press("//button[contains(., 'listen')]");
    const hz = await heardHz(0.5, 2.5);
    expect(Math.abs(hz / 1149.99179 - 1)).toBeLessThan(0.001);
    await browser.shows('section[aria-label=Load]', 'stop');
    await browser.driver.actions().sendKeys(Key.ESCAPE).perform();
    await browser.shows('section[aria-label=Load]', 'listen');
  });

  it('is heard with its sequence: the chime falls from E5 to C5', async () => {
    await openSignal('Tower clock', 'Chime');
    await browser.driver.executeScript(HEAR);
    await press("//button[contains(., 'listen')]");
    // 0.6 s of E5, 0.4 s of rest, 0.6 s of C5.
    expect(Math.abs((await heardHz(0.1, 0.5)) / 659.2551 - 1)).toBeLessThan(0.001);
    expect(Math.abs((await heardHz(1.1, 1.5)) / 523.2511 - 1)).toBeLessThan(0.001);
    await browser.driver.actions().sendKeys(Key.ESCAPE).perform();
  });

  it('is chosen, computed and checked: an LED that takes too much for its pin', async () => {
    await openSignal('Greenhouse bench', 'Status LED');
    await press("//section[@aria-label='Load']//button[.='LED']");
    await browser.shows('[data-testid=load-headline]', 'mA');
    await tool('change');
    await type('wanted current', '90 mA', Key.ENTER);
    // (3.3 V - 2 V) / 90 mA = 14.4 Ω; 15 Ω of E12 give 86.7 mA, more than the 40 mA of a pin.
    await browser.shows('[role=dialog]', '86.7 mA');
    await type('supply', 'much', Key.ENTER);
    await browser.shows('[role=dialog] [role=status]', '“much” is not understood here');
    await press("//button[.='Close']");
    await browser.shows('section[aria-label="Pulse window"]', 'pin current fail');
    await browser.shows('[data-testid=pulse]', '9 of 10 pass');
  });

  it('moves: the slider of a knob turns the arm of the shutter', async () => {
    await openSignal('Harbour buoy', 'Lens shutter');
    await browser.find('[data-testid=arm][data-degrees="60.00"]');
    await tool('knob');
    await press("//button[.='Use this knob']");
    const slider = await browser.find('[role=dialog] input[type=range][aria-label="Reading of the knob"]');
    await slider.sendKeys(Key.END);
    await browser.find('[role=dialog] [data-testid=arm][data-degrees="120.00"]');
    await slider.sendKeys(Key.HOME);
    await browser.find('[role=dialog] [data-testid=arm][data-degrees="0.00"]');
    await browser.shows('[data-testid=knob-reading]', '900');
  });

  it('is read on the bench: a table is pasted, and the target is said in degrees', async () => {
    await openSignal('Harbour buoy', 'Lens shutter');
    await tool('readings');
    await press("//button[.='Delete all']");
    await browser.shows('[role=dialog]', 'Type what was set');
    const first = await browser.find('input[aria-label="set, row 1"]');
    await browser.driver.executeScript(
      `const data = new DataTransfer();
       data.setData('text', arguments[1]);
       arguments[0].dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));`,
      first,
      'width\tangle\tnote\n0.9 ms\t0\tstop\n1.5 ms\t50\thalf open\n2.1 ms\t120\tstop',
    );
    await browser.find('input[aria-label="note, row 3"][value=stop]');
    await type('Wanted, °', '85', Key.ENTER);
    await browser.shows('[role=dialog]', '= width 1.8');
    await press("//button[.='Close']");
    // Half way from 50° to 120° is half way from 1.5 to 2.1 ms.
    const width = await browser.find('input[aria-label="width"]');
    await browser.wait(async () => (await width.getAttribute('value'))?.startsWith('1.8'));
  });

  it('tells where the arithmetic of a knob overflows, marks it on the curve, and fails the check', async () => {
    await openSignal('Tower clock', 'Dial lamp');
    await tool('knob');
    await press("//button[.='Use this knob']");
    const wide = await browser.find('select[aria-label="computed in"]');
    const curve = await browser.find('select[aria-label="curve"]');
    await curve.sendKeys('linear');
    await wide.sendKeys('16');
    // 23,986 counts: the third reading makes 3 x 23,986 = 71,958, which 16 bits cannot hold.
    await browser.find('[data-testid=knob-wrong][data-reading="3"]');
    await browser.shows(
      '[data-testid=knob-sentence]',
      'From reading 3 on the product does not fit into 16 bits',
    );
    await press("//button[.='Close']");
    await browser.shows('section[aria-label="Pulse window"]', 'knob fail');
  });

  it('a knob that ends at zero hertz is refused', async () => {
    await openSignal('Tower clock', 'Pendulum strobe');
    await tool('knob');
    await browser.shows('[data-testid=knob-sentence]', 'linear in period it would give 1.333 Hz');
    await type('at its low end', '0 Hz', Key.ENTER);
    await browser.shows('[data-testid=knob-sentence]', 'At reading 0 the frequency is zero');
  });
});
