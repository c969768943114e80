import { fileName } from '../../capture/url';
import { finding, type Check } from '../finding';
import { fontDisplayOf, hidesText } from './fontFace';

/** Fonts that keep their text invisible until they are there. */
export const fontDisplay: Check = {
  id: 'font-display',
  concern: 'blocking',
  question: 'Is text shown before its font has come?',
  looksAt: 'font-display of every @font-face rule whose font was fetched (CSS Fonts 4, section 4.9).',
  cannotSee: 'Fonts that a script adds.',
  fixedWhen: 'The @font-face rule says font-display: swap, fallback or optional.',
  harms: ['slow'],
  standard: 'CSS Fonts 4, 4.9',
  change: 'Add font-display: swap (or optional) to the @font-face rule.',
  examine(subject) {
    const { page } = subject;
    return page.styles.flatMap((sheet) =>
      sheet.references
        .filter((r) => r.use === 'font')
        .flatMap((reference) => {
          const load = page.loadOf(reference.url);
          if (load?.kind !== 'font' || load.status !== 200) return [];
          if (!hidesText(page, reference.url)) return [];
          const display = fontDisplayOf(page, reference.url) ?? 'auto';
          return [
            finding({
              check: this,
              subject,
              harm: 'slow',
              target: reference.url,
              style: { sheet, offset: reference.offset },
              load,
              title: `Text in ${fileName(reference.url)} stays invisible up to 3 s (font-display: ${display})`,
              plain: 'The words are there, but are not shown until their font has come.',
            }),
          ];
        }),
    );
  },
};
