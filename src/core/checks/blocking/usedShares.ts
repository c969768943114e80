import type { Page } from '../../source/page';
import { styleUse } from './styleUnused';
import { isRenderBlocking } from './verdict';

/**
 * How much of a file a page uses, 0 to 1, by address: of stylesheets that hold the first paint back what the first screen
 * needs, of scripts what ran until the page had settled, where the recorder saw it.
 */
export function usedShares(page: Page): Map<string, number> {
  const out = new Map<string, number>();
  for (const { url, chars, ranChars } of page.capture.observations?.scripts ?? [])
    if (chars > 0) out.set(url, ranChars / chars);
  for (const sheet of page.styles) {
    if (!sheet.load || !isRenderBlocking(page, sheet.load)) continue;
    const { all, used } = styleUse(page, sheet);
    if (all > 0) out.set(sheet.load.url, used / all);
  }
  return out;
}
