import type { Load } from '../capture/capture';
import type { Page, PageStyle } from './page';
import type { NamedRule } from './rules';
import type { StyleReference } from './stylesheet';

/** A font that came, with a rule that names it. */
export interface FontUse {
  readonly load: Load;
  readonly sheet: PageStyle;
  readonly reference: StyleReference;
  /** Its @font-face rule; undefined where the sheet could not be read. */
  readonly face?: NamedRule;
}

/** Every place in which a sheet names a font that was fetched. */
export function fontUses(page: Page): FontUse[] {
  return page.styles.flatMap((sheet) =>
    sheet.references.flatMap((reference) => {
      const load = reference.use === 'font' ? page.loadOf(reference.url) : undefined;
      if (load?.kind !== 'font' || load.status !== 200) return [];
      const at = reference.offset;
      const face = page.rulesOf(sheet).named.find((n) => n.kind === 'font-face' && n.start <= at && at < n.end);
      return [{ load, sheet, reference, face }];
    }),
  );
}

/** font-display of a rule (CSS Fonts 4, 4.9). */
export const displayOf = (use: FontUse) => use.face?.declarations.get('font-display')?.toLowerCase() ?? 'auto';

/** True when text in this font stays invisible until it has come. */
export const hidesText = (use: FontUse) => ['auto', 'block'].includes(displayOf(use));
