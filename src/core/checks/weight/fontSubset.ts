import { fileName } from '../../capture/url';
import { fontUses, hidesText } from '../../source/fontUse';
import { finding, limitOf, type Check } from '../finding';
import { bytesText } from '../texts';

/** Fonts that bring whole alphabets along. */
export const fontSubset: Check = {
  id: 'font-subset',
  concern: 'weight',
  question: 'Are fonts subset to the characters the site needs?',
  examines: 'Size of every font, and unicode-range in the @font-face rule that names it.',
  cannotSee: 'Which characters are in the file, and which the site needs.',
  fixedWhen: 'The font is split by unicode-range, each part below the limit, or is one small file.',
  harms: ['slow', 'tidy'],
  standard: 'CSS Fonts 4, 4.5 (unicode-range)',
  change: 'Subset the font by script, and give each part its unicode-range.',
  thresholds: [
    {
      id: 'bytes',
      name: 'size of a font from',
      unit: 'bytes',
      value: 60_000,
      why: 'The Latin characters of a text font take a third of this as WOFF 2.',
    },
  ],
  examine(subject) {
    const { page } = subject;
    const done = new Set<string>();
    return fontUses(page).flatMap((use) => {
      const { load, sheet, reference, face } = use;
      if (done.has(load.url) || load.bodyBytes < limitOf(this, subject, 'bytes')) return [];
      if (!face || face.declarations.has('unicode-range')) return [];
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
          title: `${fileName(load.url)} is not subset (${bytesText(load.bodyBytes)}, no unicode-range)`,
          plain: 'The font contains alphabets and symbols that this site does not use.',
        }),
      ];
    });
  },
};
