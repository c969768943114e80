import { fileName, resolveUrl } from '../../capture/url';
import { parseSrcset } from '../../source/srcset';
import { finding, type Check } from '../finding';
import { bytesText } from '../texts';
import { isLinkOf } from '../../source/linkRel';

/** The hero is fetched twice: a preload takes another candidate of the same picture. */
export const heroPreloadMismatch: Check = {
  id: 'hero-preload-mismatch',
  concern: 'hero',
  question: 'Does the preload of the hero load the file that is shown?',
  examines: 'Preloads of pictures against the candidates of the hero’s img and picture, and which of them was shown.',
  cannotSee: 'Which candidate other screens use.',
  fixedWhen: 'A new recording loads the hero once.',
  harms: ['slow'],
  standard: 'HTML, 4.6.7.9 (preload, imagesrcset, imagesizes) and 4.8.4.3',
  change: 'Give the preload the same imagesrcset and imagesizes as the img, or remove it.',
  groupedBy: 'place',
  examine(subject) {
    const { hero, page } = subject;
    const { element, url } = hero;
    const { document } = page;
    if (!element || !url || !document) return [];
    const own = new Set(candidatesOf(element));
    const parent = document.elements[element.parent];
    if (parent?.tag === 'picture')
      for (const e of document.elements)
        if (e.parent === parent.index && e.tag === 'source') candidatesOf(e).forEach((c) => own.add(c));
    return page.mentions
      .filter(
        (m) =>
          isLinkOf(m.element, 'preload') &&
          m.kind === 'image' &&
          m.url !== url &&
          own.has(m.url) &&
          page.loadOf(m.url) !== undefined,
      )
      .map((m) => {
        const load = page.loadOf(m.url);
        return finding({
          check: this,
          subject,
          harm: 'slow',
          target: m.url,
          element: m.element,
          load,
          numbers: { bytes: load?.bodyBytes ?? 0, savedBytes: load?.bodyBytes ?? 0 },
          title: `The preload loads ${fileName(m.url)}, the page shows ${fileName(url)} (${bytesText(load?.bodyBytes ?? 0)} wasted)`,
          plain: 'The main picture is loaded in two sizes: the first is unused and delays the second.',
        });
      });

    function candidatesOf(e: typeof element & object): string[] {
      const raw = [
        e.attributes.get('src') ?? '',
        ...parseSrcset(e.attributes.get('srcset') ?? '').map((c) => c.url),
      ].filter(Boolean);
      return raw.flatMap((r) => resolveUrl(r, document?.baseUrl ?? '') ?? []);
    }
  },
};
