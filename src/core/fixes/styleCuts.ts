import { idleRules } from '../checks/blocking/styleUnused';
import type { Page, PageStyle } from '../source/page';
import { applyEdits, type Edit } from './edits';

const made = new WeakMap<PageStyle, Map<string, Edit[]>>();

/** Deletions that take rules out of a sheet; worked out once, since several fixes and their sizes build on them. */
export function cutsOf(page: Page, sheet: PageStyle, than: 'firstScreen' | 'page'): Edit[] {
  const known = made.get(sheet) ?? new Map<string, Edit[]>();
  made.set(sheet, known);
  const cuts =
    known.get(than) ??
    idleRules(page, sheet, than).map((r) => ({ url: sheet.url, start: r.start, end: r.end, text: '' }));
  known.set(than, cuts);
  return cuts;
}

/** The rules of a sheet that the first screen needs, with addresses that work from anywhere. */
export function criticalText(page: Page, sheet: PageStyle): string {
  const addresses: Edit[] = sheet.references.map((r) => ({
    url: sheet.url,
    start: r.offset,
    end: r.offset + r.length,
    text: r.url,
  }));
  let text = applyEdits(sheet.text, [...cutsOf(page, sheet, 'firstScreen'), ...addresses])
    .replace(/\/\*[\s\S]*?\*\//g, '')
    .replace(/\s+/g, ' ')
    // An import in the middle of a sheet counts for nothing; its rules come with the sheet itself.
    .replace(/@import[^;]*;/gi, '');
  for (let before = ''; before !== text;) {
    before = text;
    text = text.replace(/@(?:media|supports|layer|container)[^{};]*\{\s*\}/gi, '');
  }
  return text.trim().replace(/<\/(?=style)/gi, '<\\/');
}
