import { openBrowser } from '../e2e/support/browser.ts';
import { serve } from '../e2e/support/server.ts';
import { quantile, timings } from './table.ts';

/** The requirement for an edit in the sentence until the new waveform is painted. */
const REQUIREMENT_MS = 50;

/**
 * Types into the token as a person would have and presses Enter; ends two frames after the figures of the waveform
 * changed, which is when they are on the screen.
 */
const EDIT = `
  const [token, text, done] = arguments;
  const field = document.querySelector('[data-token="' + token + '"]');
  const figures = document.querySelector('section[aria-label="Pulse window"]');
  field.focus();
  Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(field, text);
  field.dispatchEvent(new Event('input', { bubbles: true }));
  requestAnimationFrame(() => setTimeout(() => {
    const start = performance.now();
    const seen = new MutationObserver(() => {
      seen.disconnect();
      requestAnimationFrame(() => setTimeout(() => done(performance.now() - start), 0));
    });
    seen.observe(figures, { subtree: true, childList: true, attributes: true, characterData: true });
    field.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true }));
  }, 30));
`;

const NOTES = ['A5', 'C6', 'E5', 'G#5', '2.3 kHz', 'D7', '1 kHz', 'F4', '3100 Hz', 'B6'];

const served = await serve();
const browser = await openBrowser();
try {
  await browser.driver.get(served.address);
  await (await browser.find('section[aria-label=Begin] button')).click();
  await browser.find('[data-testid=wave]');
  const edit = async (text: string): Promise<number> =>
    Number(await browser.driver.executeAsyncScript(EDIT, 'frequency', text));
  for (const text of NOTES) await edit(text);
  const values: number[] = [];
  for (let round = 0; round < 12; round += 1) for (const text of NOTES) values.push(await edit(text));
  console.table([timings('Enter in the sentence to the new waveform, painted', values)]);
  const p95 = quantile(values, 0.95);
  console.log(
    `p95 ${p95.toFixed(1)} ms, requirement ${REQUIREMENT_MS} ms: ${p95 < REQUIREMENT_MS ? 'reached' : 'NOT reached'}`,
  );
} finally {
  await browser.close();
  await served.stop();
}
