import { transferBytes, type Load } from '../capture/capture';
import type { SourceElement } from '../source/document';
import type { Page } from '../source/page';

/** Which element is the hero of a capture, and how sure that is. */
export interface Hero {
  readonly kind: 'image' | 'background' | 'text';
  readonly url?: string;
  /** Load that delivered its file. */
  readonly load?: Load;
  /** Its element in the source as served; undefined when a script built it. */
  readonly element?: SourceElement;
  readonly path?: string;
  readonly tag?: string;
  /** Seen by the recorder, or guessed from the source. */
  readonly seen: boolean;
}

const TEXT_TAGS = new Set(['h1', 'h2', 'p']);

/**
 * The hero: the last entry of the Largest Contentful Paint API if the recording has it; otherwise
 * the heaviest picture that the first part of the body names, otherwise its first heading.
 */
export function findHero(page: Page): Hero {
  const seen = page.capture.observations?.largestPaints.at(-1);
  if (seen) {
    const load = seen.url ? page.loadOf(seen.url) : undefined;
    const element =
      page.elementAt(seen.path, seen.tag) ??
      (seen.url ? page.mentionsOf(seen.url).find((m) => m.use === 'load' || m.use === 'hint')?.element : undefined);
    const kind = !seen.url
      ? 'text'
      : seen.tag === 'img' || seen.tag === 'image' || seen.tag === 'video'
        ? 'image'
        : 'background';
    return { kind, url: seen.url, load, element, path: seen.path, tag: seen.tag, seen: true };
  }
  return guessHero(page);
}

function guessHero(page: Page): Hero {
  const candidates: { load: Load; element: SourceElement }[] = [];
  for (const m of page.mentions) {
    if (m.kind !== 'image' || m.element.inert || m.element.inHead || (m.use !== 'load' && m.use !== 'hint')) continue;
    const load = page.loadOf(m.url);
    if (load?.kind === 'image' && transferBytes(load) > 8_000 && !candidates.some((c) => c.load === load)) {
      candidates.push({ load, element: m.element });
    }
    if (candidates.length === 4) break;
  }
  const best = candidates.sort((a, b) => transferBytes(b.load) - transferBytes(a.load))[0];
  if (best)
    return {
      kind: 'image',
      url: best.load.url,
      load: best.load,
      element: best.element,
      path: best.element.path,
      tag: best.element.tag,
      seen: false,
    };
  const background = page.styles
    .flatMap((s) => s.references)
    .filter((r) => r.use === 'image')
    .map((r) => page.loadOf(r.url))
    .find((l) => l !== undefined && transferBytes(l) > 20_000);
  if (background) return { kind: 'background', url: background.url, load: background, seen: false };
  const text = page.document?.elements.find((e) => TEXT_TAGS.has(e.tag) && !e.inHead);
  return { kind: 'text', element: text, path: text?.path, tag: text?.tag, seen: false };
}
