import type { Box, Load } from '../../capture/capture';
import type { SourceElement } from '../../source/document';
import type { Page } from '../../source/page';

/** A picture that the first screen does not show. */
export interface OffscreenPicture {
  readonly load: Load;
  readonly element: SourceElement;
  readonly shown: boolean;
  /** From the edge of the first screen, in CSS pixels; Infinity when it is not drawn at all. */
  readonly distance: number;
}

/** Pictures of the source that are neither in the first screen nor lazy; the hero never counts. */
export function offscreenPictures(page: Page, heroUrl: string | undefined): OffscreenPicture[] {
  const { screenWidth, screenHeight } = page.capture.conditions;
  // Slides of a carousel wait beside the screen.
  const beside = (b: Box) => Math.max(0, b.x - screenWidth + 1, -(b.x + b.width) + 1);
  const below = (b: Box) => Math.max(0, b.y - screenHeight);
  const inView = new Set(
    page.pictures.filter((p) => p.visible && p.box.y < screenHeight && beside(p.box) === 0).map((p) => p.url),
  );
  const out: OffscreenPicture[] = [];
  const done = new Set<number>();
  for (const p of page.pictures) {
    if (p.use !== 'img' || p.lazyAttribute || inView.has(p.url) || p.url === heroUrl) continue;
    const element =
      page.elementAt(p.path, 'img') ?? page.mentionsOf(p.url).find((m) => m.element.tag === 'img')?.element;
    const load = page.loadOf(p.url);
    if (!element || !load || done.has(load.index) || element.attributes.get('loading')?.toLowerCase() === 'lazy')
      continue;
    done.add(load.index);
    out.push({
      load,
      element,
      shown: p.visible,
      distance: p.visible ? Math.max(below(p.box), beside(p.box)) : Infinity,
    });
  }
  return out;
}
