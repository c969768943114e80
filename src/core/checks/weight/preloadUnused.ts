import type { Mention } from '../../source/mentions';
import { parseSrcset } from '../../source/srcset';
import type { Page } from '../../source/page';
import { fileName, resolveUrl } from '../../capture/url';
import { finding, type Check } from '../finding';
import { bytesText } from '../texts';
import { isLinkOf } from '../../source/linkRel';

/** Files that the head orders in advance and nothing takes. */
export const preloadUnused: Check = {
  id: 'preload-unused',
  concern: 'weight',
  question: 'Is everything that is preloaded used?',
  examines:
    'Preloads against the pictures, fonts, styles and scripts that the page names; fonts that loaded twice because crossorigin is missing.',
  cannotSee: 'What a script uses later.',
  fixedWhen: 'The preload is gone, or a new recording loads the file once and uses it.',
  harms: ['slow'],
  standard: 'HTML, 4.6.7.9 (preload); CSS Fonts 4, 4.8.2 (fonts are fetched with CORS)',
  change: 'Remove the preload, or match it to the use: same URL, as, and crossorigin for fonts.',
  examine(subject) {
    const { hero, page } = subject;
    const heroOwn = hero.element
      ? parseSrcset(hero.element.attributes.get('srcset') ?? '').map((c) =>
          resolveUrl(c.url, page.document?.baseUrl ?? ''),
        )
      : [];
    return page.mentions.flatMap((m) => {
      const { attributes, inert } = m.element;
      if (inert || m.attribute !== 'href' || !isLinkOf(m.element, 'preload')) return [];
      const load = page.loadOf(m.url);
      // With imagesrcset the browser takes a candidate instead of href; the hero's own are another check's.
      if (load?.status !== 200 || attributes.has('imagesrcset') || heroOwn.includes(m.url)) return [];
      const fontTwice = m.kind === 'font' && !attributes.has('crossorigin');
      if (!fontTwice && used(page, m)) return [];
      return [
        finding({
          check: this,
          subject,
          harm: 'slow',
          target: m.url,
          element: m.element,
          load,
          numbers: { bytes: load.bodyBytes, savedBytes: load.bodyBytes },
          title: fontTwice
            ? `The preload of ${fileName(m.url)} lacks crossorigin: the font is loaded twice`
            : `${fileName(m.url)} is preloaded and not used (${bytesText(load.bodyBytes)})`,
          plain: 'The page requests this file before all others and then does not use it.',
        }),
      ];
    });
  },
};

function used(page: Page, preload: Mention): boolean {
  const { url, kind } = preload;
  // Some turn into a stylesheet when they have come.
  if (kind === 'other' || preload.element.attributes.has('onload')) return true;
  if (page.styles.some((s) => s.references.some((r) => r.url === url))) return true;
  if (page.pictures.some((p) => p.url === url)) return true;
  const others = page.mentions.filter((m) => m.url === url && m.element !== preload.element);
  if (kind === 'image') {
    // A picture that the markup names counts, unless the recorder saw that another candidate was taken.
    const seen = page.capture.observations !== undefined;
    return others.some((m) => m.use === 'hint' || (!seen && m.kind === 'image'));
  }
  if (others.length > 0) return true;
  // A script may put it to use: then its text names the file.
  const name = fileName(url);
  return page.capture.loads.some((l) => l.kind === 'script' && (page.bodies.text(l)?.includes(name) ?? false));
}
