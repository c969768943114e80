import { comesEarly, isHinted } from '../../load/earlyHints';
import type { SourceElement } from '../../source/document';
import { preloadKind, type Mention } from '../../source/mentions';
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
    'Preloads, in the markup and in Link headers, against the pictures, fonts, styles and scripts that the page names; fonts that loaded twice because crossorigin is missing; files that Early Hints ask for and that must not be kept.',
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
    return [...inMarkup(page), ...inHeaders(page)].flatMap((preload) => {
      const { url, kind, element } = preload;
      const load = page.loadOf(url);
      // The hero's own candidates are another check's.
      if (load?.status !== 200 || heroOwn.includes(url)) return [];
      const twice =
        kind === 'font' && !preload.crossorigin
          ? `The preload of ${fileName(url)} lacks crossorigin: the font is loaded twice`
          : preload.early && isHinted(page, load) && !comesEarly(page, load)
            ? `${fileName(url)} is loaded twice: Early Hints ask for it, and its answer says that it must not be kept`
            : undefined;
      if (twice === undefined && used(page, preload)) return [];
      return [
        finding({
          check: this,
          subject,
          harm: 'slow',
          target: url,
          element,
          load,
          numbers: { bytes: load.bodyBytes, savedBytes: load.bodyBytes },
          title: twice ?? `${fileName(url)} is preloaded and not used (${bytesText(load.bodyBytes)})`,
          plain: twice
            ? 'The page requests this file before all others, and then once more.'
            : 'The page requests this file before all others and then does not use it.',
        }),
      ];
    });
  },
};

/** A preload, wherever it stands. */
interface Preload {
  readonly url: string;
  readonly kind: Mention['kind'];
  readonly crossorigin: boolean;
  /** Undefined for one in a header. */
  readonly element?: SourceElement;
  readonly early?: boolean;
}

/** With imagesrcset the browser takes a candidate instead of href: such preloads are left out. */
function inMarkup(page: Page): Preload[] {
  return page.mentions.flatMap(({ url, kind, element, attribute }) => {
    const { attributes, inert } = element;
    if (inert || attribute !== 'href' || !isLinkOf(element, 'preload') || attributes.has('imagesrcset')) return [];
    return [{ url, kind, element, crossorigin: attributes.has('crossorigin') }];
  });
}

function inHeaders(page: Page): Preload[] {
  const out = new Map<string, Preload>();
  for (const { url, rel, as, crossorigin, candidates, early } of page.headerLinks)
    if (rel.has('preload') && candidates.length === 0 && !out.has(url))
      out.set(url, { url, kind: preloadKind(as), crossorigin: crossorigin !== undefined, early });
  return [...out.values()];
}

function used(page: Page, { url, kind, element }: Preload): boolean {
  // Some turn into a stylesheet when they have come.
  if (kind === 'other' || element?.attributes.has('onload')) return true;
  if (page.styles.some((s) => s.references.some((r) => r.url === url))) return true;
  if (page.pictures.some((p) => p.url === url)) return true;
  const others = page.mentions.filter((m) => m.url === url && m.element !== element);
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
