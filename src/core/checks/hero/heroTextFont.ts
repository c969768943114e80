import { fileName } from '../../capture/url';
import { fontUses, hidesText } from '../../source/fontUse';
import { isPreloaded } from '../../source/page';
import { finding, limitOf, type Check } from '../finding';

/** A hero of text that is painted when its font has come. */
export const heroTextFont: Check = {
  id: 'hero-text-font',
  concern: 'hero',
  question: 'Does a text hero wait for its web font?',
  examines: 'Fonts that hide their text and arrived shortly before the text hero was painted.',
  cannotSee: 'Which text uses which font; pages captured without observations.',
  fixedWhen: 'A new recording paints the text before its font arrives, or without it.',
  harms: ['slow'],
  standard: 'CSS Fonts 4, 4.9; Largest Contentful Paint, 2.2',
  change: 'Preload this font with crossorigin, and give its @font-face rule font-display: swap or optional.',
  groupedBy: 'target',
  thresholds: [
    {
      id: 'withinMs',
      name: 'paint after the font within',
      unit: 'ms',
      value: 60,
      why: 'After a longer time, the paint did not wait for the font.',
    },
  ],
  examine(subject) {
    const { hero, page } = subject;
    const { lcpMs, fcpMs } = page.capture.measured;
    if (hero.kind !== 'text' || !hero.seen || lcpMs === undefined || fcpMs === undefined) return [];
    const within = limitOf(this, subject, 'withinMs');
    const font = page.capture.loads
      .filter((l) => l.kind === 'font' && l.status === 200 && l.endMs <= lcpMs + 5 && l.endMs > lcpMs - within)
      .sort((a, b) => b.endMs - a.endMs)[0];
    if (!font || !fontUses(page).some((use) => use.load === font && hidesText(use))) return [];
    // Text that was there with the first paint, with other things waiting as well, is no proof.
    if (isPreloaded(page, font.url) && lcpMs - fcpMs < 20) return [];
    return [
      finding({
        check: this,
        subject,
        harm: 'slow',
        target: font.url,
        element: hero.element,
        path: hero.path,
        load: font,
        numbers: { fontMs: Math.round(font.endMs), paintMs: Math.round(lcpMs) },
        title: `The hero is text that waited for the font ${fileName(font.url)}`,
        plain: 'The text had arrived long before, but stayed invisible until its font arrived.',
      }),
    ];
  },
};
