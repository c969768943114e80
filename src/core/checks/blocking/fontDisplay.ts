import { fileName } from '../../capture/url';
import { finding, type Check } from '../finding';
import { displayOf, fontUses, hidesText } from '../../source/fontUse';

/** Fonts that keep their text invisible until they are there. */
export const fontDisplay: Check = {
  id: 'font-display',
  concern: 'blocking',
  question: 'Is text visible while its font loads?',
  examines: 'font-display of every @font-face rule whose font was loaded (CSS Fonts 4, section 4.9).',
  cannotSee: 'Fonts that a script adds.',
  fixedWhen: 'The @font-face rule has font-display: swap, fallback or optional.',
  harms: ['slow'],
  standard: 'CSS Fonts 4, 4.9',
  change: 'Add font-display: swap (or optional) to the @font-face rule.',
  examine(subject) {
    const { page } = subject;
    return fontUses(page)
      .filter(hidesText)
      .map((use) =>
        finding({
          check: this,
          subject,
          harm: 'slow',
          target: use.reference.url,
          style: { sheet: use.sheet, offset: use.reference.offset },
          load: use.load,
          title: `Text in ${fileName(use.reference.url)} stays invisible up to 3 s (font-display: ${displayOf(use)})`,
          plain: 'The text is there, but stays invisible until its font arrives.',
        }),
      );
  },
};
