import { displayOf, fontUses, hidesText } from '../source/fontUse';
import type { SourceElement } from '../source/document';
import type { Page } from '../source/page';
import { unquote } from '../source/rules';
import { declaredValue } from '../source/styling';

/**
 * Load of the font that an element's text is drawn in, when text in it stays invisible until it has come
 * (CSS Fonts 4, 4.9); -1 when it does not.
 */
export function hidingFont(page: Page, element: SourceElement | undefined): number {
  const family = element && familyOf(page, element);
  if (!family) return -1;
  return (
    fontUses(page).find((use) => hidesText(use) && use.face?.name.toLowerCase() === family.toLowerCase())?.load.index ??
    -1
  );
}

/** Fonts whose rule leaves it to the browser how long their text may stay invisible (font-display: auto). */
export function fontsLeftToBrowser(page: Page): Set<number> {
  return new Set(fontUses(page).flatMap((use) => (displayOf(use) === 'auto' ? [use.load.index] : [])));
}

/** The first family that is declared for an element or, inherited, for one around it. */
function familyOf(page: Page, element: SourceElement): string | undefined {
  for (let at: SourceElement | undefined = element; at; at = page.tree?.parentOf(at)) {
    const value =
      declaredValue(page, at, 'font-family')?.value ?? fontShorthand(declaredValue(page, at, 'font')?.value);
    if (value && !/^(inherit|unset)/.test(value)) return unquote(value.split(',')[0] ?? '');
  }
  return undefined;
}

/** The families of a `font` shorthand: what follows the size. */
function fontShorthand(value: string | undefined): string | undefined {
  return /[\d.]+(?:px|rem|em|%|pt|vw)(?:\s*\/\s*[\w.%]+)?\s+(.+)$/.exec(value ?? '')?.[1];
}
