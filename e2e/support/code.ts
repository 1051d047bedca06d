import type { Browser } from './browser.ts';

/** The whole text of the file that Hand-off shows; the page draws only the lines in view. */
export async function shownCode(browser: Browser): Promise<string> {
  return browser.driver.executeScript(`
    const content = document.querySelector('[data-testid=code] .cm-content');
    return content?.cmTile?.root?.view?.state.doc.toString() ?? '';
  `);
}

/** Waits until the file that Hand-off shows has a text. */
export async function showsCode(browser: Browser, text: string): Promise<void> {
  await browser.wait(
    async () => (await shownCode(browser)).includes(text),
    `the code does not show “${text}”`,
  );
}
