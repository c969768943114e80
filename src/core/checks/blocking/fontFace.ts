import type { Page } from '../../source/page';

/** font-display of the rule that names a font (CSS Fonts 4, 4.9); undefined where no sheet of the capture names it. */
export function fontDisplayOf(page: Page, url: string): string | undefined {
  for (const sheet of page.styles)
    for (const r of sheet.references) {
      if (r.use !== 'font' || r.url !== url) continue;
      const face = page
        .rulesOf(sheet)
        .named.find((n) => n.kind === 'font-face' && n.start <= r.offset && r.offset < n.end);
      return face?.declarations.get('font-display')?.toLowerCase() ?? 'auto';
    }
  return undefined;
}

/** True when text in this font stays invisible until it has come. */
export function hidesText(page: Page, url: string): boolean {
  return ['auto', 'block'].includes(fontDisplayOf(page, url) ?? '');
}
