import { isThirdParty } from '../../capture/site';
import { fileName, hostOf } from '../../capture/url';
import { finding, type Check } from '../finding';
import { fontUses, hidesText } from '../../source/fontUse';
import { isPreloaded } from '../../source/page';

/** Fonts that are known only at the end of a chain of files. */
export const fontLate: Check = {
  id: 'font-late',
  concern: 'blocking',
  question: 'Does the browser discover fonts early?',
  examines: 'Which stylesheet names each loaded font, how that sheet was discovered, and preloads.',
  cannotSee: 'Which of several fonts the content above the fold needs most.',
  fixedWhen: 'The font is preloaded, or named in a stylesheet of the site that the head links.',
  harms: ['tidy', 'slow'],
  standard: 'HTML, 4.6.7.9 (preload); CSS Fonts 4, 4.8',
  change: 'Preload the font (as=font, crossorigin), or name it in a stylesheet of the site.',
  examine(subject) {
    const { page } = subject;
    const done = new Set<string>();
    return fontUses(page).flatMap((use) => {
      const { load, sheet, reference } = use;
      if (done.has(load.url) || isPreloaded(page, load.url)) return [];
      const imported = page.styles.some((s) =>
        s.references.some((i) => i.use === 'import' && i.url === sheet.load?.url),
      );
      const foreign = sheet.load !== undefined && isThirdParty(page, sheet.url);
      if (!imported && !foreign) return [];
      done.add(load.url);
      return [
        finding({
          check: this,
          subject,
          harm: hidesText(use) ? 'slow' : 'tidy',
          target: load.url,
          style: { sheet, offset: reference.offset },
          load,
          numbers: { bytes: load.bodyBytes },
          title: `${fileName(load.url)} is discovered only through ${fileName(sheet.url)}, which ${imported ? 'another sheet imports' : `comes from ${hostOf(sheet.url)}`}`,
          plain:
            'The browser discovers this font only after several other files, so its text appears late or changes its look.',
        }),
      ];
    });
  },
};
