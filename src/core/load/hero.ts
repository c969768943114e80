import type { LargestPaint, Load } from '../capture/capture';
import type { SourceElement } from '../source/document';
import type { Page } from '../source/page';
import { guessHero } from './heroGuess';

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

/**
 * The hero: the last entry of the Largest Contentful Paint API if the recording has it; otherwise
 * what a rough layout of the source takes for the largest thing of the first screen.
 */
export function findHero(page: Page): Hero {
  const seen = page.capture.observations?.largestPaints.at(-1);
  if (seen) {
    const element =
      page.elementAt(seen.path, seen.tag) ??
      (seen.url
        ? page.mentionsOf(seen.url).find((m) => (m.use === 'load' || m.use === 'hint') && !m.element.inert)?.element
        : undefined);
    const url = realAddress(page, seen, element);
    const load = url ? page.loadOf(url) : undefined;
    const kind = !seen.url
      ? 'text'
      : seen.tag === 'img' || seen.tag === 'image' || seen.tag === 'video'
        ? 'image'
        : 'background';
    return { kind, url, load, element, path: seen.path, tag: seen.tag, seen: true };
  }
  return guessHero(page);
}

/** The file of a painted picture: what a placeholder (a data: address) stands for, where the page tells. */
function realAddress(page: Page, seen: LargestPaint, element: SourceElement | undefined): string | undefined {
  if (!seen.url || !/^data:/i.test(seen.url)) return seen.url;
  const shown = page.pictures.find((p) => p.path === seen.path && !/^data:/i.test(p.url))?.url;
  const held = element && page.mentionsIn(element).filter((m) => m.use === 'hint');
  return shown ?? held?.find((m) => page.loadOf(m.url))?.url ?? held?.[0]?.url ?? seen.url;
}
